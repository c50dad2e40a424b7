import { Queue, QueueEvents, type Job } from 'bullmq'
import { ChiraxisError, type ErrorCode, type StopSignal } from '@chiraxis/core/math'
import type { Pool } from '..'
import type { JobKind, JobKinds } from '../jobs'
import { connect, PREFIX, queueName, type Answer, type QueueAddress, type Queued } from './connection'
import { jobKey, packed, unpacked } from './parcel'
import type { Store } from './store'

export interface QueuePoolOptions extends QueueAddress {
  /** Jobs that are out at a time. Default 256. */
  readonly size?: number
  /** How often a job is tried when it takes too long, asks for too much or its worker fails. Default 3. */
  readonly tries?: number
  /** Told once when jobs wait and nobody takes them. */
  readonly onIdle?: () => void
}

interface Wanted {
  readonly resolve: (answer: Answer) => void
  readonly reject: (error: ChiraxisError) => void
  readonly begun: Set<(share: number) => void>
  readonly signals: (StopSignal | undefined)[]
  readonly answer: Promise<Answer>
  readonly add: () => Promise<Job>
}

/** How often stopping is looked for, milliseconds. */
const LOOK = 100
/** How often jobs are looked after whose news may have been lost, milliseconds. */
const LOOK_AFTER = 5000

/**
 * Jobs answered by workers on any number of machines, behind the interface of the embedded pool. A job whose answer the
 * store has is not done again. When it is stopped, what nobody has begun is taken back; what runs ends where it is, and
 * its answer stays for the next asking.
 * @throws ChiraxisError `missing-file` where no queue answers, `bad-settings` for a bad address
 */
export async function createQueuePool(options: QueuePoolOptions): Promise<Pool> {
  const { url, store, program, size = 256, tries = 3 } = options
  const connection = await connect(url)
  const name = queueName(store, program)
  const queue = new Queue<Queued>(name, { connection, prefix: PREFIX })
  const events = new QueueEvents(name, { connection: connection.duplicate(), prefix: PREFIX })
  // connections that break come back; what matters is told by what is asked
  queue.on('error', () => undefined)
  events.on('error', () => undefined)
  await events.waitUntilReady()
  const files = broughtOnce(store)
  const wanted = new Map<string, Wanted>()
  let closed = false

  async function lookUp(key: string): Promise<void> {
    const job = wanted.get(key)
    const answer = job && ((await store.answer(key)) as Answer | undefined)
    if (!answer) return
    wanted.delete(key)
    job.resolve(answer)
  }
  function fail(key: string, error: ChiraxisError): void {
    const job = wanted.get(key)
    wanted.delete(key)
    job?.reject(error)
  }
  events.on('completed', ({ jobId }) => void lookUp(jobId).catch(() => undefined))
  events.on('failed', ({ jobId, failedReason }) => fail(jobId, setAside(failedReason)))
  events.on('active', ({ jobId }) => wanted.get(jobId)?.begun.forEach(tell => tell(0)))
  events.on('progress', ({ jobId, data }) => {
    if (typeof data === 'number') wanted.get(jobId)?.begun.forEach(tell => tell(data))
  })
  // somebody else took back what is wanted here
  events.on(
    'removed',
    ({ jobId }) =>
      void wanted
        .get(jobId)
        ?.add()
        .catch(() => undefined),
  )

  const stopping = setInterval(() => {
    for (const [key, job] of wanted) {
      if (!job.signals.every(s => s?.aborted)) continue
      fail(key, new ChiraxisError('stopped', 'The work was stopped.'))
      void queue.remove(key).catch(() => undefined)
    }
  }, LOOK)
  let lookingAfter = false
  let idle = 0
  const after = setInterval(() => {
    if (lookingAfter) return
    lookingAfter = true
    void lookAfter()
      .catch(() => undefined)
      .finally(() => {
        lookingAfter = false
      })
  }, LOOK_AFTER)
  /** Whether the queue still knows a job that is waited for, once its end was looked for in the store and the queue. */
  async function lookAt(key: string): Promise<boolean> {
    await lookUp(key)
    if (!wanted.has(key)) return true
    const known = await queue.getJob(key)
    if (known && (await known.isFailed())) fail(key, setAside(known.failedReason))
    return known !== undefined
  }
  /** News can be lost with the queue, and jobs with it: the store and the queue are asked. */
  async function lookAfter(): Promise<void> {
    for (const [key, job] of wanted) {
      const isKnown = await lookAt(key)
      if (!isKnown) await job.add()
    }
    if (wanted.size === 0 || (await queue.getWorkersCount()) > 0) idle = 0
    else if (++idle === 2) options.onIdle?.()
  }

  function want(key: string, kind: JobKind, asked: unknown): Wanted {
    let resolve!: Wanted['resolve']
    let reject!: Wanted['reject']
    const answer = new Promise<Answer>((done, failed) => {
      resolve = done
      reject = failed
    })
    answer.catch(() => undefined)
    const add = (): Promise<Job> =>
      queue.add(
        kind,
        { asked },
        {
          jobId: key,
          attempts: tries,
          backoff: { type: 'exponential', delay: 1000 },
          // the store knows what is done; what fails stays, set aside with its reason
          removeOnComplete: true,
          removeOnFail: false,
        },
      )
    const job: Wanted = { resolve, reject, begun: new Set(), signals: [], answer, add }
    wanted.set(key, job)
    return job
  }

  async function run(
    kind: JobKind,
    asked: JobKinds[JobKind]['asked'],
    signal?: StopSignal,
    onProgress?: (share: number) => void,
  ): Promise<unknown> {
    const parcel = await packed(asked, files)
    const key = jobKey(program, kind, parcel)
    // a second time where the files of an answer were swept away
    for (let again = false; ; again = true) {
      const done = (await store.answer(key)) as Answer | undefined
      const answer = done ?? (await ordered(key, kind, parcel, signal, onProgress))
      if ('refused' in answer) throw new ChiraxisError(answer.refused.code as ErrorCode, answer.refused.message)
      try {
        return await unpacked(answer.given, store)
      } catch (error) {
        if (again || !(error instanceof ChiraxisError)) throw error
        await store.forget(key)
      }
    }
  }
  async function ordered(
    key: string,
    kind: JobKind,
    parcel: unknown,
    signal: StopSignal | undefined,
    onProgress: ((share: number) => void) | undefined,
  ): Promise<Answer> {
    if (signal?.aborted || closed) throw new ChiraxisError('stopped', 'The work was stopped.')
    const known = wanted.get(key)
    const job = known ?? want(key, kind, parcel)
    job.signals.push(signal)
    if (onProgress) job.begun.add(onProgress)
    if (!known) {
      await job.add()
      // it may lie there from before, set aside; or its answer came in the meantime
      await lookAt(key)
    }
    return job.answer
  }

  return {
    size,
    children: 0,
    run: run as Pool['run'],
    close() {
      closed = true
      clearInterval(stopping)
      clearInterval(after)
      for (const key of [...wanted.keys()]) {
        fail(key, new ChiraxisError('stopped', 'The work was stopped.'))
        void queue.remove(key).catch(() => undefined)
      }
      void Promise.allSettled([events.close(), queue.close()]).then(() => connection.disconnect())
    },
  }
}

/** Puts what many jobs share into the store once, however many of them ask at the same time. */
function broughtOnce(store: Store): Pick<Store, 'put'> {
  const brought = new WeakMap<Uint8Array, Promise<string>>()
  return {
    put(bytes) {
      const known = brought.get(bytes)
      if (known) return known
      const put = store.put(bytes)
      brought.set(bytes, put)
      put.catch(() => brought.delete(bytes))
      return put
    },
  }
}

/** Why a job was set aside, from what the queue keeps of it. */
export function setAside(text: string | undefined): ChiraxisError {
  const known = /^\{/.test(text ?? '') ? (JSON.parse(text!) as { code: ErrorCode; message: string }) : undefined
  const { code = 'bad-input', message = `The queue gave it up: ${text ?? 'it does not say why'}.` } = known ?? {}
  return new ChiraxisError(code, `${message} It is set aside until it is to be tried again.`)
}
