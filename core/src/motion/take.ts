import { slerpAt, type Flat } from '../math'
import { retime, type Beside } from './beside'

/** One motion on one skeleton, at even steps in time. All values are local to the parent joint. */
export interface Take extends Beside {
  readonly name: string
  readonly fps: number
  readonly frames: number
  /** 4·J·N, frame after frame */
  readonly rotations: Float32Array
  /** 3·J·N, metres */
  readonly translations: Float32Array
}

export const takeSeconds = (take: Take): number => Math.max(0, take.frames - 1) / take.fps

/**
 * Local translations (3·J) and rotations (4·J) at a time in seconds, held at both ends. Writes into `out` and makes
 * nothing.
 */
export function sampleTake(
  take: Take,
  seconds: number,
  out: { readonly translations: Flat; readonly rotations: Flat },
): void {
  const { frames, rotations: R, translations: T } = take
  const joints = R.length / (4 * frames)
  const at = Math.min(frames - 1, Math.max(0, seconds * take.fps))
  const f = Math.min(frames - 1, Math.floor(at))
  const g = Math.min(frames - 1, f + 1)
  const t = at - f
  const r0 = 4 * joints * f,
    r1 = 4 * joints * g,
    t0 = 3 * joints * f,
    t1 = 3 * joints * g
  if (t === 0) for (let i = 0; i < 4 * joints; i++) out.rotations[i] = R[r0 + i]
  else for (let i = 0; i < 4 * joints; i += 4) slerpAt(out.rotations, i, R, r0 + i, R, r1 + i, t)
  for (let i = 0; i < 3 * joints; i++) out.translations[i] = T[t0 + i] + (T[t1 + i] - T[t0 + i]) * t
}

/** The same motion at another rate; the last moment is kept to within half a frame. */
export function resampleTake(take: Take, fps: number): Take {
  if (fps === take.fps) return take
  const joints = take.rotations.length / (4 * take.frames)
  const frames = Math.max(1, Math.round(takeSeconds(take) * fps) + 1)
  const rotations = new Float32Array(4 * joints * frames)
  const translations = new Float32Array(3 * joints * frames)
  for (let f = 0; f < frames; f++) {
    sampleTake(take, f / fps, {
      rotations: rotations.subarray(4 * joints * f, 4 * joints * (f + 1)),
      translations: translations.subarray(3 * joints * f, 3 * joints * (f + 1)),
    })
  }
  return { name: take.name, fps, frames, rotations, translations, ...retime(take, frames, fps) }
}

/** Whether anything moves in a take. */
function moves({ rotations, translations, frames }: Take): boolean {
  const differs = (values: Float32Array): boolean => {
    const each = values.length / frames
    for (let i = each; i < values.length; i++) if (Math.abs(values[i] - values[i % each]) > 1e-5) return true
    return false
  }
  return frames > 1 && (differs(rotations) || differs(translations))
}

/** The takes of a file without those that hold still, which many programs write beside the real ones; all where none moves. `told` says what is left out. */
export function movingTakes(takes: readonly Take[]): {
  readonly takes: readonly Take[]
  readonly told: readonly string[]
} {
  const moving = takes.filter(moves)
  if (moving.length === 0) return { takes, told: [] }
  return {
    takes: moving,
    told: takes
      .filter(t => !moving.includes(t))
      .map(t => `The take ${t.name} holds still from beginning to end and is left out.`),
  }
}

/**
 * Whether a joint is ever anywhere but at its rest place on what it hangs on.
 * @param rest 3·J  @param share how far counts, beside a unit and beside that place
 */
export function travelsOnParent(take: Take, rest: Float32Array, j: number, share: number): boolean {
  const J = rest.length / 3
  for (let f = 0; f < take.frames; f++)
    for (let k = 0; k < 3; k++) {
      const home = rest[3 * j + k]
      if (Math.abs(take.translations[3 * (f * J + j) + k] - home) > share * (1 + Math.abs(home))) return true
    }
  return false
}
