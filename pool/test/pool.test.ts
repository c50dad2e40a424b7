import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { batchSettingsSchema } from '@chiraxis/core/batch'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { CRAFTED } from '../../loaders/test/crafted-files'
import { cleanDoll } from '../../core/test/figure'
import { wildTake } from '../../core/test/skeletons'
import { createPool, jobFile, type Pool } from '../src'
import { buildChild } from '../src/build-child.mjs'

const folder = mkdtempSync(join(tmpdir(), 'chiraxis-pool-'))
/** A child that does what the name of the file says, good or bad. */
const wicked = join(folder, 'wicked.mjs')
let real: string
beforeAll(async () => {
  writeFileSync(
    wicked,
    `const eaten = []
process.on('message', async ({ id, asked }) => {
  const { name, bytes } = asked.file
  if (name === 'hang') for (;;);
  if (name === 'eat') { for (;;) { eaten.push(new Uint8Array(16 << 20).fill(1)); await new Promise(r => setTimeout(r, 5)) } }
  if (name === 'die') process.exit(3)
  if (name === 'slow') await new Promise(r => setTimeout(r, 300))
  if (!bytes) return process.send({ id, needs: [asked.file.key] })
  process.send({ id, given: { format: name, vertices: bytes.length } })
})`,
  )
  real = await buildChild(join(folder, 'child.mjs'))
})
const pools: Pool[] = []
const open = (...args: Parameters<typeof createPool>): Pool => {
  const made = createPool(...args)
  pools.push(made)
  return made
}
afterAll(() => {
  for (const pool of pools) pool.close()
  rmSync(folder, { recursive: true, force: true })
})
const file = (name: string) => ({ file: jobFile(name, new Uint8Array([1, 2, 3])) })
const refusal = async (run: Promise<unknown>): Promise<ChiraxisError> => {
  const error = await run.then(
    () => undefined,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(ChiraxisError)
  return error as ChiraxisError
}
const pause = (ms: number): Promise<void> => new Promise(done => setTimeout(done, ms))

describe('jobs in children', () => {
  it('that hang, eat memory or die are refused in words, and those beside them are right', async () => {
    const pool = open(wicked, { size: 2, seconds: 2, memoryMiB: 250 })
    const names = Array.from({ length: 18 }, (_, i) => (i % 3 === 0 ? ['hang', 'eat', 'die'][(i / 3) % 3]! : `good ${i}`)) // prettier-ignore
    const outcomes = await Promise.all(
      names.map(async name => {
        try {
          return (await pool.run('inspect', file(name))).format
        } catch (error) {
          return error as ChiraxisError
        }
      }),
    )
    outcomes.forEach((o, i) => {
      if (names[i]!.startsWith('good')) return expect(o).toBe(names[i])
      expect(o).toBeInstanceOf(ChiraxisError)
      expect((o as ChiraxisError).code).toBe('too-large')
      expect((o as ChiraxisError).message).toMatch(names[i] === 'hang' ? /longer than 2 seconds/ : /more memory/)
    })
    expect(pool.children).toBeLessThanOrEqual(2)
  })
  it('are ended at once when nobody wants them any more, and their place is free again', async () => {
    const pool = open(wicked, { size: 1 })
    const signal = { aborted: false }
    const hanging = pool.run('inspect', file('hang'), signal)
    const next = pool.run('inspect', file('good'))
    const given = { aborted: true }
    await pause(200)
    const from = performance.now()
    signal.aborted = true
    expect((await refusal(hanging)).code).toBe('stopped')
    expect(performance.now() - from).toBeLessThan(400)
    expect((await next).vertices).toBe(3)
    expect((await refusal(pool.run('inspect', file('good'), given))).code).toBe('stopped')
  })
  it('leave no child behind once there is nothing to do', async () => {
    const pool = open(wicked, { size: 3, idleSeconds: 1 })
    await Promise.all(['slow', 'slow', 'slow'].map(name => pool.run('inspect', file(name))))
    expect(pool.children).toBe(3)
    await pause(2200)
    expect(pool.children).toBe(0)
    expect((await pool.run('inspect', file('good'))).format).toBe('good')
  })
})

describe('the real child', () => {
  it('carries takes over, is sent each file once, and tells refusals in words', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const figure = jobFile('doll.glb', await writeGlb({ name: 'doll', mesh, skeleton, skin }))
    const take = jobFile('wild.bvh', writeBvh(skeleton, wildTake(skeleton, 3, 40)))
    const pool = open(real, { size: 1 })
    const settings = batchSettingsSchema.parse({})
    for (const takeName of ['one', 'two']) {
      const { bytes, frames } = await pool.run('transfer', { figure, take, index: 0, takeName, settings })
      expect(frames).toBe(40)
      expect((await readFile(bytes, 'x.glb')).takes[0]!.name).toBe(takeName)
    }
    expect(await pool.run('inspect', { file: take })).toMatchObject({ format: 'bvh', takes: [{ frames: 40 }] })
    const hostile = CRAFTED.find(c => c.name === 'j.bvh')!
    expect((await refusal(pool.run('inspect', { file: jobFile('j.bvh', await hostile.make()) }))).code).toBe('too-large') // prettier-ignore
    expect((await pool.run('inspect', { file: figure })).vertices).toBeGreaterThan(100)
  })
})
