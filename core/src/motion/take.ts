import { lerp, quatAt, setQuat, setVec3, slerp, vec3At } from '../math'

/** One motion on one skeleton, at even steps in time. All values are local to the parent joint. */
export interface Take {
  readonly name: string
  readonly fps: number
  readonly frames: number
  /** 4·J·N, frame after frame */
  readonly rotations: Float32Array
  /** 3·J·N, metres */
  readonly translations: Float32Array
}

export const takeSeconds = (take: Take): number => Math.max(0, take.frames - 1) / take.fps

/** Local translations (3·J) and rotations (4·J) at a time in seconds, held at both ends. */
export function sampleTake(
  take: Take,
  seconds: number,
  out: { translations: Float32Array; rotations: Float32Array },
): void {
  const joints = take.rotations.length / (4 * take.frames)
  const at = Math.min(take.frames - 1, Math.max(0, seconds * take.fps))
  const f = Math.min(take.frames - 1, Math.floor(at))
  const g = Math.min(take.frames - 1, f + 1)
  const t = at - f
  for (let j = 0; j < joints; j++) {
    const a = f * joints + j
    const b = g * joints + j
    if (t === 0) {
      setQuat(out.rotations, j, quatAt(take.rotations, a))
      setVec3(out.translations, j, vec3At(take.translations, a))
    } else {
      setQuat(out.rotations, j, slerp(quatAt(take.rotations, a), quatAt(take.rotations, b), t))
      setVec3(out.translations, j, lerp(vec3At(take.translations, a), vec3At(take.translations, b), t))
    }
  }
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
  return { name: take.name, fps, frames, rotations, translations }
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
