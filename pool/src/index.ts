import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import type { BatchFile, TransferJob, TransferJobResult } from '@chiraxis/core/batch'
import { ChiraxisError } from '@chiraxis/core/math'
import { hashBytes } from '@chiraxis/core/recipe'

type Answer =
  | { ok: true; result: TransferJobResult }
  | { ok: false; code: ConstructorParameters<typeof ChiraxisError>[0]; message: string }

/** A file in memory that all threads share, so that none of them copies it. */
export function sharedFile(name: string, content: Uint8Array): BatchFile {
  const bytes = new Uint8Array(new SharedArrayBuffer(content.length))
  bytes.set(content)
  return { key: hashBytes(content), name, bytes }
}

/** Memory a thread may take before its job is refused, MiB. */
const THREAD_MEMORY = 1024

export interface Pool {
  readonly size: number
  /** Runs a job on a free thread. @throws ChiraxisError as the job does, or `too-large` where it asks for too much memory */
  run(job: TransferJob): Promise<TransferJobResult>
  close(): Promise<void>
}

/**
 * A pool of worker threads for transfer jobs; threads start when they are first needed and are replaced when they die.
 * @param script the thread's program, built from `@chiraxis/pool/thread`
 */
export function createPool(script: URL | string, size = Math.max(1, Math.min(8, availableParallelism()))): Pool {
  const idle: Worker[] = []
  const all = new Set<Worker>()
  const waiting: ((worker: Worker) => void)[] = []
  const give = (worker: Worker): void => {
    const next = waiting.shift()
    if (next) next(worker)
    else idle.push(worker)
  }
  const start = (): Worker => {
    const worker = new Worker(script, { resourceLimits: { maxOldGenerationSizeMb: THREAD_MEMORY } })
    all.add(worker)
    return worker
  }
  const free = (): Promise<Worker> => {
    const known = idle.pop()
    if (known) return Promise.resolve(known)
    if (all.size < size) return Promise.resolve(start())
    return new Promise(resolve => waiting.push(resolve))
  }
  return {
    size,
    async run(job) {
      const worker = await free()
      return new Promise<TransferJobResult>((resolve, reject) => {
        const answered = (answer: Answer): void => {
          worker.off('error', died)
          give(worker)
          if (answer.ok) resolve(answer.result)
          else reject(new ChiraxisError(answer.code, answer.message))
        }
        const died = (error: Error & { code?: string }): void => {
          worker.off('message', answered)
          all.delete(worker)
          // somebody may be waiting for this one's place
          if (waiting.length > 0) give(start())
          reject(
            error.code === 'ERR_WORKER_OUT_OF_MEMORY'
              ? new ChiraxisError('too-large', `${job.take.name} asks for more memory than a job may take.`)
              : error,
          )
        }
        worker.once('message', answered)
        worker.once('error', died)
        worker.postMessage(job)
      })
    },
    async close() {
      await Promise.all([...all].map(w => w.terminate()))
      all.clear()
      idle.length = 0
    },
  }
}
