import { conjugate, multiply, quatAt, rotate, vec3At, type Quat } from '../math'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import type { Played } from './tracks'

/**
 * Where a whole body goes, away from where it stands at rest, in its own frame: N each. `across` to its left, `ahead` and
 * `height` in the unit of the skeleton, `turn` about the vertical in radians without jumps.
 */
export interface RootPath {
  readonly across: Float64Array
  readonly ahead: Float64Array
  readonly height: Float64Array
  readonly turn: Float64Array
}
export const ROOT_CHANNELS = ['across', 'ahead', 'height', 'turn'] as const
export type RootChannel = (typeof ROOT_CHANNELS)[number]

/** Below this a turn about the vertical can hardly be told: the body is nearly upside down or lies across it. */
const CLEAR = 0.25

/** The part of a turn about the vertical ("swing-twist", Dobrowolski 2015), radians, and how clearly it can be told, 0..1. */
export function turnAboutVertical(q: Quat): { readonly turn: number; readonly clear: number } {
  return { turn: 2 * Math.atan2(q[1], q[3]), clear: Math.hypot(q[1], q[3]) }
}

/**
 * Follows the hips over the ground.
 * @param smooth seconds over which the sway of single steps is evened out; 0 follows the hips exactly
 */
export function rootPath({ skeleton, joints, take, frame }: Played, smooth = 0): RootPath {
  const n = take.frames
  const { hips } = joints
  const rest = worldPose(skeleton)
  const start = rotate(frame, vec3At(rest.positions, hips))
  const restTurn = multiply(frame, quatAt(rest.rotations, hips))
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [hips])
  const channel = (): Float64Array => new Float64Array(n)
  const path = { across: channel(), ahead: channel(), height: channel(), turn: channel() }
  const clear = channel()
  for (let f = 0; f < n; f++) {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    const at = rotate(frame, vec3At(pose.positions, hips))
    path.across[f] = at[0] - start[0]
    path.height[f] = at[1] - start[1]
    path.ahead[f] = at[2] - start[2]
    const told = turnAboutVertical(multiply(multiply(frame, quatAt(pose.rotations, hips)), conjugate(restTurn)))
    path.turn[f] = told.turn
    clear[f] = told.clear
  }
  goOn(path.turn, clear)
  if (smooth <= 0) return path
  const half = Math.max(1, Math.round((smooth * take.fps) / 2))
  return {
    across: evened(path.across, half),
    ahead: evened(path.ahead, half),
    height: evened(path.height, half),
    turn: evened(path.turn, half),
  }
}

/** Turns without jumps of a whole round; where they cannot be told they go on from one side to the other. */
function goOn(turn: Float64Array, clear: Float64Array): void {
  const n = turn.length
  let last = -1
  for (let f = 0; f < n; f++) {
    if (clear[f] < CLEAR) continue
    // the first one goes the shorter way around
    const before = last < 0 ? 0 : turn[last]
    turn[f] += 2 * Math.PI * Math.round((before - turn[f]) / (2 * Math.PI))
    for (let i = last + 1; i < f; i++)
      turn[i] = last < 0 ? turn[f] : turn[last] + ((turn[f] - turn[last]) * (i - last)) / (f - last)
    last = f
  }
  for (let i = last + 1; i < n; i++) turn[i] = last < 0 ? 0 : turn[last]
}

/**
 * Values evened out by a bell of so many frames to each side, fewer in a short take. Ends are led on as they go (odd reflection), so that nothing
 * bends there and both ends stay.
 */
export function evened(values: Float64Array, wished: number): Float64Array {
  const n = values.length
  const half = Math.min(wished, Math.floor((n - 1) / 2))
  if (half < 1) return values
  const at = (f: number): number => {
    if (f < 0) return 2 * values[0] - values[Math.min(n - 1, -f)]
    if (f >= n) return 2 * values[n - 1] - values[Math.max(0, 2 * (n - 1) - f)]
    return values[f]
  }
  const weights = Float64Array.from({ length: 4 * half + 1 }, (_, i) => Math.exp(-(((i - 2 * half) / half) ** 2)))
  const whole = weights.reduce((s, w) => s + w, 0)
  return Float64Array.from(values, (_, f) => {
    let sum = 0
    for (let i = 0; i < weights.length; i++) sum += weights[i] * at(f + i - 2 * half)
    return sum / whole
  })
}
