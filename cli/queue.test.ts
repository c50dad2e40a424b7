import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { cleanDoll } from '../core/test/figure'
import { wildTake } from '../core/test/skeletons'
import { ownRedis } from '../pool/test/redis'
import { commandLine } from './running'

const { file, chiraxis } = commandLine('queue')
const ends: (() => unknown)[] = []
afterAll(() => Promise.all(ends.map(end => end())))

it('does a batch by the workers of a queue to the same files, tells of what failed, and ends a worker gently', async () => {
  const { mesh, skeleton, skin } = await cleanDoll()
  writeFileSync(file('doll.glb'), await writeGlb({ name: 'doll', mesh, skeleton, skin }))
  for (const seed of [1, 2, 3])
    writeFileSync(file(`wild-${seed}.bvh`), writeBvh(skeleton, wildTake(skeleton, seed, 40)))
  const takes = [1, 2, 3].map(seed => file(`wild-${seed}.bvh`))
  const figures = [file('doll.glb')]
  writeFileSync(file('here.json'), JSON.stringify({ figures, takes, out: file('here') }))
  writeFileSync(file('there.json'), JSON.stringify({ figures, takes, out: file('there') }))
  expect((await chiraxis('batch', file('here.json'))).code).toBe(0)

  mkdirSync(file('redis'))
  const redis = await ownRedis(file('redis'))
  ends.push(redis.kill)
  const where = ['--queue', redis.url, '--store', file('store')]
  // not yet there, and said so; then it is
  const running = chiraxis<{ total: object }>('batch', file('there.json'), ...where)
  const worker = spawn(process.execPath, ['scripts/chiraxis.mjs', 'worker', ...where, '--report', file('worker.json')])
  ends.push(() => worker.kill('SIGKILL'))
  let words = ''
  worker.stderr.on('data', (d: Buffer) => (words += d.toString()))
  expect(await running).toMatchObject({ code: 0, report: { total: { jobs: 3, done: 3, failed: 0 } } })
  const names = readdirSync(file('here')).sort()
  expect(readdirSync(file('there')).sort()).toEqual(names)
  for (const name of names)
    expect(readFileSync(join(file('there'), name)).equals(readFileSync(join(file('here'), name))), name).toBe(true)

  const gone = once(worker, 'exit')
  worker.kill('SIGTERM')
  expect((await gone)[0]).toBe(0)
  expect(JSON.parse(readFileSync(file('worker.json'), 'utf8'))).toMatchObject({
    ok: true,
    total: { done: 3, refused: 0 },
  })
  expect(words.match(/ done \d/g)).toHaveLength(3)

  // what the store answers needs no worker
  const again = await chiraxis<{ total: object }>('batch', file('there.json'), ...where)
  expect(again.report.total).toEqual({ jobs: 3, done: 3, failed: 0 })
  expect((await chiraxis('queue', ...where, '--sweep', '1')).report).toMatchObject({
    ok: true,
    workers: 0,
    waiting: 0,
    running: 0,
    setAside: [],
    swept: 0,
  })
  writeFileSync(file('commands.json'), JSON.stringify({ jobs: [{ command: 'inspect', file: file('doll.glb') }] }))
  expect((await chiraxis('batch', file('commands.json'), ...where)).stderr).toMatch(/figures by takes/)
  await redis.kill()
  expect(await chiraxis('queue', ...where)).toMatchObject({
    code: 1,
    stderr: expect.stringMatching(/No queue answers/),
  })
  expect((await chiraxis('worker', '--queue', 'here')).stderr).toMatch(/redis:\/\/HOST:PORT/)
})
