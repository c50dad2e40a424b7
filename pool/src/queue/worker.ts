import { UnrecoverableError, Worker, type Job } from 'bullmq'
import { ChiraxisError } from '@chiraxis/core/math'
import { createPool, type PoolOptions } from '..'
import type { JobKind } from '../jobs'
import { connect, PREFIX, queueName, type Answer, type QueueAddress, type Queued } from './connection'
import { packed, unpacked } from './parcel'
import type { Store } from './store'

export interface WorkerOptions extends QueueAddress, PoolOptions {
  /** The children's program. */
  readonly script: string
  /** A job whose worker was not heard of for so long is given to another one, seconds. Default 15. */
  readonly unheardSeconds?: number
  /** How many workers may die of a job before it is set aside. Default 4. */
  readonly deaths?: number
  /** Told of every job that ended here. */
  readonly tell?: (news: { readonly key: string; readonly state: 'done' | 'refused' | 'failed'; readonly seconds: number; readonly message?: string }) => void // prettier-ignore
}

export interface QueueWorker {
  /** Jobs it works at side by side. */
  readonly size: number
  /** Ends after the jobs that run; no new ones are begun. */
  close(): Promise<void>
}

/** Bytes of files that are kept at hand. */
const AT_HAND = 512 * 2 ** 20
/** How often it is told how far a job is, milliseconds. */
const TELL = 250

/**
 * Takes jobs from a queue and answers them into the store, each in a child process that can be ended.
 * @throws ChiraxisError `missing-file` where no queue answers
 */
export async function serveQueue(options: WorkerOptions): Promise<QueueWorker> {
  const { url, store, program, script, unheardSeconds = 15, deaths = 4, tell } = options
  const connection = await connect(url)
  const pool = createPool(script, options)
  const files = atHand(store)

  async function answerOf(job: Job<Queued>): Promise<Answer> {
    let told = 0
    const onProgress = (share: number): void => {
      // that it is begun the queue tells itself
      if (share === 0 || performance.now() - told < TELL) return
      told = performance.now()
      void job.updateProgress(share).catch(() => undefined)
    }
    const asked = await unpacked(job.data.asked, files)
    try {
      const given = await pool.run(job.name as JobKind, asked as never, undefined, onProgress)
      return { given: await packed(given, store) }
    } catch (error) {
      // what was asked too much of this machine or went wrong with the store may go well another time
      if (!(error instanceof ChiraxisError) || error.code === 'too-large') throw error
      return { refused: { code: error.code, message: error.message } }
    }
  }
  const name = queueName(store, program)
  // how often each was begun without an end: what was in work when a worker died
  const begins = `${PREFIX}:${name}:begun`
  const take = turns()
  const worker = new Worker<Queued>(
    name,
    async job => {
      const key = job.id!
      if (await store.answer(key)) return
      const died = Number((await connection.hget(begins, key)) ?? 0)
      if (died >= deaths) {
        await connection.hdel(begins, key)
        throw new UnrecoverableError(JSON.stringify({ code: 'too-large', message: `${died} workers died while they had it.` })) // prettier-ignore
      }
      // whoever was there when a worker died is next tried alone, so that nobody is blamed for another
      await take(died > 0, async () => {
        await connection.hincrby(begins, key, 1)
        try {
          await work(job, key)
        } finally {
          await connection.hdel(begins, key)
        }
      })
    },
    {
      connection,
      prefix: PREFIX,
      concurrency: pool.size,
      lockDuration: 1000 * unheardSeconds,
      stalledInterval: 500 * unheardSeconds,
      // it is counted here how often one is begun
      maxStalledCount: 1000,
    },
  )
  async function work(job: Job<Queued>, key: string): Promise<void> {
    const since = performance.now()
    const seconds = (): number => (performance.now() - since) / 1000
    try {
      const answer = await answerOf(job)
      await store.settle(key, answer)
      tell?.({ key, state: 'given' in answer ? 'done' : 'refused', seconds: seconds(), ...('refused' in answer && { message: answer.refused.message }) }) // prettier-ignore
    } catch (error) {
      const code = error instanceof ChiraxisError ? error.code : 'bad-input'
      const message = error instanceof Error ? error.message : String(error)
      tell?.({ key, state: 'failed', seconds: seconds(), message })
      throw new Error(JSON.stringify({ code, message }))
    }
  }
  worker.on('error', () => undefined)
  return {
    size: pool.size,
    async close() {
      await worker.close()
      pool.close()
      connection.disconnect()
    },
  }
}

/** Files asked for lately come from memory. */
function atHand(store: Store): Pick<Store, 'get'> {
  const held = new Map<string, Uint8Array>()
  let room = 0
  return {
    async get(hash) {
      const bytes = held.get(hash) ?? (await store.get(hash))
      if (!held.delete(hash)) room += bytes.length
      held.set(hash, bytes)
      for (const [oldest, old] of held) {
        if (room <= AT_HAND) break
        held.delete(oldest)
        room -= old.length
      }
      return bytes
    },
  }
}

/** Lets work run side by side, or alone: then after all that runs, and before all that comes later. */
function turns(): (alone: boolean, work: () => Promise<void>) => Promise<void> {
  let gate: Promise<unknown> = Promise.resolve()
  const running = new Set<Promise<unknown>>()
  return async (alone, work) => {
    if (alone) {
      const run = gate.then(() => Promise.allSettled([...running])).then(work)
      gate = run.catch(() => undefined)
      return run
    }
    for (let passed; passed !== gate;) {
      passed = gate
      await passed
    }
    const run = work()
    running.add(run)
    try {
      await run
    } finally {
      running.delete(run)
    }
  }
}
