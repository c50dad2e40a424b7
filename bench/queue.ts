/**
 * A thousand takes carried onto figures by workers of a queue that are killed at random, against the same batch in the
 * embedded pool: time, what is lost, what is done twice, and whether the bytes are the same. Writes
 * bench/results/queue.md. `npx tsx bench/queue.ts [jobs] [workers]`
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { availableParallelism, cpus, tmpdir } from 'node:os'
import { join } from 'node:path'
import { batchSettingsSchema, runBatch, type JobOutcome } from '@chiraxis/core/batch'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { bind } from '@chiraxis/core/skin'
import { makeFigure, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import { createPool, jobFile, type JobKinds, type Pool } from '@chiraxis/pool'
import { buildChild } from '@chiraxis/pool/build-child'
import { createQueuePool, addressOf, overviewOf } from '@chiraxis/pool/queue'
import { sha256 } from '../pool/src/sha256'
import { ownRedis } from '../pool/test/redis'

const count = Number(process.argv[2] ?? 1000)
const atWork = Number(process.argv[3] ?? 1)
const folder = mkdtempSync(join(tmpdir(), 'chiraxis-bench-queue-'))
const started = new Set<ChildProcess>()
let began = 0

async function asks(): Promise<JobKinds['transfer']['asked'][]> {
  const figures = await Promise.all(
    [61, 62, 63, 64, 65].map(async seed => {
      const figure = makeFigure(variedProportions(seed), { vertices: 8000 })
      const skeleton = trueSkeleton(figure)
      const skin = await bind(figure.mesh, skeleton)
      return jobFile(
        `figure-${seed}.glb`,
        await writeGlb({ name: `figure ${seed}`, mesh: figure.mesh, skeleton, skin }),
      )
    }),
  )
  const takes = Array.from({ length: Math.ceil(count / figures.length) }, (_, i) => {
    const move = { ...MOVES[i % MOVES.length]!, seconds: 4 }
    const { skeleton, take } = record(move, NORTH)
    // every take another one
    take.translations[0] += i * 1e-3
    return jobFile(`take-${i}.bvh`, writeBvh(skeleton, take))
  })
  return takes
    .flatMap((take, i) =>
      figures.map((figure): JobKinds['transfer']['asked'] => ({
        figure,
        take,
        index: 0,
        takeName: `take ${i}`,
        settings: batchSettingsSchema.parse({}),
      })),
    )
    .slice(0, count)
}

async function run(pool: Pool, jobs: readonly JobKinds['transfer']['asked'][], ended: (i: number) => void) {
  const from = performance.now()
  const outcomes: JobOutcome<string>[] = await runBatch(
    jobs,
    async (asked, i) => {
      const { bytes } = await pool.run('transfer', asked)
      ended(i)
      return sha256(bytes)
    },
    { concurrency: pool.size },
  )
  return { outcomes, seconds: (performance.now() - from) / 1000 }
}
const answersIn = (store: string): { bytes: number; count: number } => {
  const files = readdirSync(store, { recursive: true, withFileTypes: true }).filter(e => e.isFile())
  return {
    count: files.filter(e => e.parentPath.includes('/answers/')).length,
    bytes: files.reduce((n, e) => n + statSync(join(e.parentPath, e.name)).size, 0),
  }
}

const jobs = await asks()
const child = await buildChild(join(folder, 'child.mjs'))
const store = join(folder, 'store')
const embedded = createPool(child, { seconds: 600, memoryMiB: 4096 })
const plain = await run(embedded, jobs, i => i % 100 === 0 && console.log(`embedded ${i}`))
embedded.close()

mkdirSync(join(folder, 'redis'))
const redis = await ownRedis(join(folder, 'redis'))
const at = await addressOf(redis.url, child, store)
const worker = (): void => {
  began++
  const one = spawn(process.execPath, ['scripts/chiraxis.mjs', 'worker', '--queue', redis.url, '--store', store], {
    stdio: 'ignore',
  })
  started.add(one)
  one.once('exit', () => started.delete(one))
}
for (let i = 0; i < atWork; i++) worker()
const pool = await createQueuePool(at)
let done = 0
let kills = 0
const queued = await run(pool, jobs, () => {
  done++
  if (done % 100 === 0) console.log(`queue ${done}`)
  // in the middle of work, whenever a twentieth is done
  if (done % Math.ceil(count / 20) !== 0) return
  const [one] = started
  kills++
  one?.kill('SIGKILL')
  setTimeout(worker, 100)
})
const overview = await overviewOf(at)
const kept = answersIn(store)
const again = await run(pool, jobs, () => undefined)
pool.close()
for (const one of started) one.kill('SIGKILL')
const memory = Math.round(process.resourceUsage().maxRSS / 1024)
await redis.kill()
rmSync(folder, { recursive: true, force: true })

const lost = queued.outcomes.filter(o => o.state !== 'done').length
const other = queued.outcomes.filter((o, i) => o.result !== plain.outcomes[i]!.result).length
const rows: [string, string | number][] = [
  ['jobs: takes of 4 s at 30 frames by bodies of 8000 vertices, every correction on', count],
  ['workers at a time, jobs side by side in each', `${atWork}, ${availableParallelism()}`],
  ['workers begun, killed in the middle of work', `${began}, ${kills}`],
  ['jobs lost or failed', lost],
  ['answers kept (as many as jobs: none written twice)', kept.count],
  ['jobs with other bytes than by the embedded pool', other],
  ['set aside, waiting, running at the end', `${overview.setAside.length}, ${overview.waiting}, ${overview.running}`],
  ['embedded pool, seconds', plain.seconds.toFixed(1)],
  ['by the queue, workers killed and started again, seconds', queued.seconds.toFixed(1)],
  ['asked for again, all answered by the store, seconds', again.seconds.toFixed(1)],
  ['the store, MiB', (kept.bytes / 2 ** 20).toFixed(0)],
  ['most memory of the process that asks, MiB', memory],
]
const table = rows.map(([what, value]) => `| ${what} | ${value} |`).join('\n')
const text = `# A batch by workers of a queue\n\n\`npx tsx bench/queue.ts ${count} ${atWork}\`, ${cpus().length} cores of ${cpus()[0]!.model.trim()}. Everything on one machine: queue, workers, client.\n\n| what | |\n|---|---|\n${table}\n`
console.log(text)
writeFileSync('bench/results/queue.md', text)
process.exit(lost + other === 0 ? 0 : 1)
