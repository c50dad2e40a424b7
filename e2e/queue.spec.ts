import { expect, test } from '@playwright/test'
import { spawn, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { batchSettingsSchema } from '@chiraxis/core/batch'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { cleanDoll } from '../core/test/figure'
import { wildTake } from '../core/test/skeletons'
import { ownRedis } from '../pool/test/redis'

const PORT = 4874

interface Line {
  readonly job?: number
  readonly state?: string
  readonly bytes?: string
  readonly ended?: boolean
}

test('a server whose batches go to a queue gives the same files as one that does them itself', async ({ baseURL }) => {
  const folder = mkdtempSync(join(tmpdir(), 'chiraxis-served-'))
  const store = join(folder, 'store')
  mkdirSync(join(folder, 'redis'))
  const redis = await ownRedis(join(folder, 'redis'))
  const started: ChildProcess[] = []
  const start = (args: string[], env: Record<string, string>): ChildProcess => {
    const child = spawn(process.execPath, args, { stdio: 'ignore', env: { ...process.env, ...env } })
    started.push(child)
    return child
  }
  try {
    const own = { NITRO_HOST: '127.0.0.1', NITRO_PORT: String(PORT), PORT: String(PORT), HOST: '127.0.0.1' }
    start(['.output/server/index.mjs'], { ...own, CHIRAXIS_QUEUE: redis.url, CHIRAXIS_STORE: store })
    const served = `http://127.0.0.1:${PORT}`
    await expect.poll(() => fetch(`${served}/api/health`).then(a => a.ok, () => false), { timeout: 30_000 }).toBe(true) // prettier-ignore

    const { mesh, skeleton, skin } = await cleanDoll()
    const figure = await writeGlb({ name: 'doll', mesh, skeleton, skin })
    const takes = [1, 2, 3].map(seed => writeBvh(skeleton, wildTake(skeleton, seed, 40)))
    const post = async (at: string): Promise<Line[]> => {
      const form = new FormData()
      const jobs = takes.map((_, i) => ({ figure: 'doll', take: `take${i}`, index: 0, takeName: `take ${i}` }))
      form.append('spec', JSON.stringify({ settings: batchSettingsSchema.parse({}), jobs }))
      form.append('doll', new Blob([figure as Uint8Array<ArrayBuffer>]), 'doll.glb')
      takes.forEach((t, i) => form.append(`take${i}`, new Blob([t as Uint8Array<ArrayBuffer>]), `wild-${i}.bvh`))
      const answer = await fetch(`${at}/api/batch`, { method: 'POST', body: form })
      expect(answer.status).toBe(200)
      return (await answer.text()).trim().split('\n').map(l => JSON.parse(l) as Line) // prettier-ignore
    }
    const here = await post(baseURL!)
    // asked before anybody takes the jobs: they wait
    const waiting = post(served)
    start(['scripts/chiraxis.mjs', 'worker', '--queue', redis.url, '--store', store], {})
    const there = await waiting
    for (const lines of [here, there]) {
      expect(lines.filter(l => l.state === 'running').map(l => l.job).sort()).toEqual([0, 1, 2]) // prettier-ignore
      expect(lines.at(-1)).toEqual({ ended: true })
    }
    const bytes = (lines: Line[]): (string | undefined)[] =>
      takes.map((_, i) => lines.find(l => l.job === i && l.state === 'done')?.bytes)
    expect(bytes(here).every(Boolean)).toBe(true)
    expect(bytes(there)).toEqual(bytes(here))
  } finally {
    for (const child of started) {
      const gone = once(child, 'exit')
      if (child.exitCode === null && child.signalCode === null && child.kill('SIGKILL')) await gone
    }
    await redis.kill()
    rmSync(folder, { recursive: true, force: true })
  }
})
