import { expect, test } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { request as ask, type IncomingMessage } from 'node:http'
import { batchSettingsSchema } from '@chiraxis/core/batch'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { emptyRecipe, hashBytes, writeProject } from '@chiraxis/core/recipe'
import { cleanDoll } from '../core/test/figure'
import { wildTake } from '../core/test/skeletons'
import { CRAFTED } from '../loaders/test/crafted-files'

const residentMiB = (): number => {
  const pid = execFileSync('pgrep', ['-f', 'node --import ./e2e/light-demo.mjs .output/server/index.mjs'])
    .toString()
    .trim()
    .split('\n')[0]!
  return (Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * 4096) / 2 ** 20
}
const children = (): number =>
  Number(execFileSync('sh', ['-c', 'pgrep -fc job-child.mjs || true']).toString().trim()) - 1

test('sixty batches at once, every third of them hostile: all good ones are right, and nothing is left behind', async ({
  baseURL,
}) => {
  const { mesh, skeleton, skin } = await cleanDoll()
  const figure = await writeGlb({ name: 'doll', mesh, skeleton, skin })
  const take = writeBvh(skeleton, wildTake(skeleton, 5, 60))
  const hostile = await Promise.all(
    CRAFTED.filter(c => /\.(gltf|bvh|fbx|dae)$/.test(c.name)).map(async c => ({ name: c.name, bytes: await c.make() })),
  )
  const before = residentMiB()
  let busy = 0
  const one = async (
    i: number,
  ): Promise<{ good: boolean; lines: { state?: string; bytes?: string; message?: string }[] }> => {
    // prettier-ignore
    const bad = i % 3 === 0 ? hostile[(i / 3) % hostile.length]! : undefined
    const name = bad?.name ?? 'wild.bvh'
    const form = new FormData()
    const jobs = [{ figure: 'doll', take: 'take', index: 0, takeName: `take ${i}` }]
    form.append('spec', JSON.stringify({ settings: batchSettingsSchema.parse({}), jobs }))
    form.append('doll', new Blob([figure]), 'doll.glb')
    form.append('take', new Blob([(bad?.bytes ?? take) as Uint8Array<ArrayBuffer>]), name)
    for (;;) {
      const answer = await fetch(`${baseURL}/api/batch`, { method: 'POST', body: form })
      if (answer.status === 429) {
        busy++
        await answer.arrayBuffer()
        await new Promise(done => setTimeout(done, 200 + 20 * (i % 10)))
        continue
      }
      expect(answer.status).toBe(200)
      const lines = (await answer.text()).trim().split('\n')
      return { good: !bad, lines: lines.map(l => JSON.parse(l) as { state?: string }) }
    }
  }
  const outcomes = await Promise.all(Array.from({ length: 60 }, (_, i) => one(i)))
  for (const [i, { good, lines }] of outcomes.entries()) {
    const done = lines.find(l => l.state === 'done')
    if (good) {
      const file = await readFile(new Uint8Array(Buffer.from(done!.bytes!, 'base64')), 'x.glb')
      expect(file.takes[0]!.name).toBe(`take ${i}`)
    } else expect(lines.find(l => l.state === 'failed')!.message).toMatch(/[a-z]{3}.*\.$/)
  }
  expect(busy).toBeGreaterThan(10)
  // children with nothing to do are let go
  await expect.poll(children, { timeout: 20_000 }).toBe(0)
  expect(residentMiB() - before).toBeLessThan(150)
})

test('other pages, other names, unknown places, endless and slow bodies get nothing', async ({ baseURL }) => {
  const { port } = new URL(baseURL!)
  const send = (
    options: { method?: string; path?: string; headers?: Record<string, string> },
    write?: (r: ReturnType<typeof ask>) => void,
  ): Promise<{ status: number; body: string; headers: IncomingMessage['headers'] }> =>
    new Promise((resolve, reject) => {
      const r = ask({ port, host: '127.0.0.1', ...options }, answer => {
        let body = ''
        answer.on('data', d => (body += String(d)))
        answer.on('end', () => resolve({ status: answer.statusCode!, body, headers: answer.headers }))
      })
      r.on('error', reject)
      if (write) write(r)
      else r.end()
    })
  const post = { method: 'POST', path: '/api/inspect?name=a.bvh' }
  expect((await send({ ...post, headers: { origin: 'http://elsewhere.example' } })).status).toBe(403)
  expect((await send({ ...post, headers: { 'sec-fetch-site': 'cross-site' } })).status).toBe(403)
  expect((await send({ path: '/', headers: { host: 'elsewhere.example' } })).status).toBe(421)
  const lost = await send({ path: '/api/nothing/here' })
  expect([lost.status, JSON.parse(lost.body).ok]).toEqual([404, false])
  for (const path of ['/', '/api/health', '/demo/index.json']) {
    const { headers } = await send({ path })
    expect(headers['x-content-type-options']).toBe('nosniff')
    expect(headers['content-security-policy']).toContain("default-src 'none'")
    expect(headers['x-powered-by']).toBeUndefined()
  }
  // a body that tells no length and does not end
  const endless = await send({ ...post, headers: { 'transfer-encoding': 'chunked' } }, r => {
    const part = Buffer.alloc(4 << 20)
    const more = (): void => {
      if (!r.destroyed && !r.writableEnded) r.write(part, error => !error && setTimeout(more, 1))
    }
    more()
    r.on('response', () => r.destroy())
  }).catch((e: Error) => e)
  expect(endless instanceof Error || endless.status === 413).toBe(true)
  // slow ones count before they arrive
  const slow = Array.from({ length: 6 }, () => {
    const r = ask({ port, host: '127.0.0.1', method: 'POST', path: '/api/batch', headers: { 'content-length': '1000' } }) // prettier-ignore
    r.on('error', () => undefined)
    const status = new Promise<number>(resolve => r.on('response', a => resolve(a.statusCode!)))
    r.write('x')
    return { r, status }
  })
  const told = await Promise.race([
    Promise.all(slow.map(s => Promise.race([s.status, new Promise<number>(d => setTimeout(() => d(0), 1500))]))),
  ])
  expect(told.filter(s => s === 429)).toHaveLength(4)
  expect(told.filter(s => s === 0)).toHaveLength(2)
  for (const { r } of slow) r.destroy()
  await expect.poll(async () => (await send({ method: 'POST', path: '/api/batch' })).status).toBe(400)
})

test('a body is rigged, a take carried over and a project delivered by the server, with progress and plain refusals', async ({
  baseURL,
}) => {
  const { mesh, skeleton, skin } = await cleanDoll()
  const body = await writeGlb({ name: 'doll', mesh })
  const figure = await writeGlb({ name: 'doll', mesh, skeleton, skin })
  const take = writeBvh(skeleton, wildTake(skeleton, 5, 60))
  interface Line {
    progress?: number
    done?: boolean
    failed?: boolean
    code?: string
    bytes?: string
    report?: { proof?: { validatorErrors: number }; takes?: string[]; joints?: { role: string }[] }
  }
  const post = async (
    route: string,
    parts: Record<string, [Uint8Array, string] | object>,
  ): Promise<{ status: number; lines: Line[] }> => {
    const form = new FormData()
    for (const [name, part] of Object.entries(parts))
      if (Array.isArray(part)) form.append(name, new Blob([part[0] as Uint8Array<ArrayBuffer>]), part[1] as string)
      else form.append(name, JSON.stringify(part))
    const answer = await fetch(`${baseURL}/api/${route}`, { method: 'POST', body: form })
    const lines = (await answer.text())
      .trim()
      .split('\n')
      .map(l => JSON.parse(l) as Line)
    return { status: answer.status, lines }
  }
  const file = async (lines: Line[]): Promise<Awaited<ReturnType<typeof readFile>>> =>
    readFile(new Uint8Array(Buffer.from(lines.at(-1)!.bytes!, 'base64')), 'x.glb')

  const rigged = await post('rig', { body: [body, 'doll.glb'], settings: { skin: { influences: 2 } } })
  expect(rigged.lines.filter(l => l.progress !== undefined).length).toBeGreaterThan(5)
  expect(rigged.lines.at(-1)).toMatchObject({ done: true, report: { proof: { validatorErrors: 0 } } })
  expect((await file(rigged.lines)).skeleton!.names.length).toBeGreaterThan(20)

  const carried = await post('transfer', { take: [take, 'wild.bvh'], figure: [figure, 'doll.glb'] })
  expect((await file(carried.lines)).takes.map(t => t.name)).toEqual(['wild'])

  const refs = new Map([
    [hashBytes(body), body],
    [hashBytes(take), take],
  ])
  const ref = (name: string, bytes: Uint8Array): { name: string; hash: string; size: number } => ({
    name,
    hash: hashBytes(bytes),
    size: bytes.length,
  })
  const recipe = {
    ...emptyRecipe('Doll'),
    body: ref('doll.glb', body),
    takes: [{ id: 'w', name: 'wild one', performer: 'own file', file: ref('wild.bvh', take), index: 0 }],
  }
  const project = await writeProject(recipe, async f => refs.get(f.hash)!)
  const delivered = await post('deliver', { project: [project, 'doll.chiraxis'], settings: { takes: ['wild one'] } })
  expect(delivered.lines.at(-1)!.report!.takes).toEqual(['wild one'])
  expect((await file(delivered.lines)).takes).toHaveLength(1)

  expect((await post('rig', { settings: {} })).status).toBe(400)
  const strange = await post('rig', { body: [body, 'doll.glb'], settings: { skin: { infuences: 2 } } })
  expect(strange.lines.at(-1)).toMatchObject({ failed: true, code: 'bad-settings' })
  const cube = new TextEncoder().encode('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n')
  expect((await post('rig', { body: [cube, 'cube.obj'] })).lines.at(-1)).toMatchObject({
    failed: true,
    code: 'not-a-biped',
  })
})
