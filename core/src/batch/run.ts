import { ChiraxisError, type StopSignal } from '../math'

export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'stopped'
export interface JobOutcome<R> {
  readonly state: JobState
  readonly result?: R
  readonly code?: string
  readonly message?: string
}

export interface RunOptions<R> {
  /** How many at a time. Default 1. */
  readonly concurrency?: number
  readonly signal?: StopSignal
  /** Told of every change of a job. */
  readonly onChange?: (index: number, outcome: JobOutcome<R>) => void
  /** Jobs that are done already and are not run again. */
  readonly done?: ReadonlySet<number>
}

/**
 * Runs many jobs, some at a time and in order. One that fails is told and the rest goes on; when stopped, those that had not
 * begun stay waiting, so that the same call with `done` takes up where it ended.
 */
export async function runBatch<T, R>(
  jobs: readonly T[],
  run: (job: T, index: number) => Promise<R>,
  options: RunOptions<R> = {},
): Promise<JobOutcome<R>[]> {
  const outcomes = jobs.map((_, i): JobOutcome<R> => ({ state: options.done?.has(i) ? 'done' : 'waiting' }))
  const tell = (i: number, outcome: JobOutcome<R>): void => {
    outcomes[i] = outcome
    options.onChange?.(i, outcome)
  }
  let next = 0
  async function lane(): Promise<void> {
    while (next < jobs.length && !options.signal?.aborted) {
      const i = next++
      if (options.done?.has(i)) continue
      tell(i, { state: 'running' })
      try {
        tell(i, { state: 'done', result: await run(jobs[i], i) })
      } catch (error) {
        const code = error instanceof ChiraxisError ? error.code : 'bad-input'
        tell(
          i,
          code === 'stopped'
            ? { state: 'stopped' }
            : { state: 'failed', code, message: error instanceof Error ? error.message : String(error) },
        )
      }
    }
  }
  await Promise.all(Array.from({ length: Math.max(1, Math.min(options.concurrency ?? 1, jobs.length)) }, lane))
  return outcomes
}
