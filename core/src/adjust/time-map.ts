import { ADJUST_DEFAULTS, type AdjustSettings } from './settings'

/** The clock of a recording against that of the take made of it: what is told in seconds of the recording survives a new trim. */
export interface TimeMap {
  /** Length of the result, seconds. */
  readonly seconds: number
  /** The moment of the recording that a moment of the result shows. */
  toRecording(result: number): number
  /** When a moment of the recording is shown; before 0 or after the end where it is cut away. */
  toResult(recording: number): number
}

/**
 * How trim, loop seam and pace map time. Rates change nothing of it.
 * @param recording frames and frames a second as recorded
 */
export function timeMapOf(
  settings: Partial<AdjustSettings> | undefined,
  recording: { readonly frames: number; readonly fps: number },
): TimeMap {
  const { trim, loopBlend, pace } = { ...ADJUST_DEFAULTS, ...settings }
  const { frames, fps } = recording
  const first = trim ? Math.max(0, Math.round(trim[0] * fps)) : 0
  const last = trim ? Math.min(frames - 1, Math.round(trim[1] * fps)) : frames - 1
  const kept = Math.max(0, last - first) + 1
  // the seam lays the end over the beginning
  const seam = Math.min(Math.round(loopBlend * fps), Math.floor(kept / 3))
  const begin = first / fps
  return {
    seconds: Math.max(0, kept - seam - 1) / fps / pace,
    toRecording: result => begin + result * pace,
    toResult: taken => (taken - begin) / pace,
  }
}
