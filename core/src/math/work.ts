import { ChiraxisError } from './error'

/** The part of AbortSignal that the core needs, so that it runs without the DOM library. */
export interface StopSignal {
  readonly aborted: boolean
}

/** Given to every long computation. */
export interface WorkOptions {
  /** When aborted, the work ends within 100 ms with an error of code `stopped`. */
  readonly signal?: StopSignal
  /** Told the share done, 0..1, a few times a second at most. */
  readonly onProgress?: (share: number) => void
}

/** Corners of triangles between two looks at the clock, in loops over a surface. */
export const CORNERS_A_LOOK = 3 * 32768

/** How long a stretch of work may hold the thread before it lets messages in, milliseconds. */
const STRETCH = 24

/**
 * Lets a long loop breathe: `await pulse(share)` is nearly free until the stretch is over, then it
 * reports progress, yields to the host and throws `stopped` when the signal says so.
 */
export function breather(work: WorkOptions = {}): (share?: number) => Promise<void> | undefined {
  let last = performance.now()
  return share => {
    if (performance.now() - last < STRETCH) return undefined
    if (share !== undefined) work.onProgress?.(Math.min(1, Math.max(0, share)))
    return new Promise<void>((resolve, reject) => {
      setTimeout(() => {
        last = performance.now()
        if (work.signal?.aborted) reject(new ChiraxisError('stopped', 'The work was stopped.'))
        else resolve()
      }, 0)
    })
  }
}

/** The same work as a slice `from`..`to` of a larger one. */
export function partOf(work: WorkOptions, from: number, to: number): WorkOptions {
  const report = work.onProgress
  if (!report) return work
  return { signal: work.signal, onProgress: share => report(from + (to - from) * share) }
}
