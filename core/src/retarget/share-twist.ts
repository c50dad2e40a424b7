import {
  conjugate,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import type { Take } from '../motion'
import { worldPose, type Skeleton } from '../skeleton'
import { SIDES } from '../body'

/** Below this share of its length a twist is told too badly by a limb turned right back; it fades there. */
const CLEAR = 0.35

/** A long bone with joints along it. */
export interface TwistSegment {
  readonly from: number
  readonly to: number
  /** Joints between, from above, and the share of the bone's length each lies at. */
  readonly between: readonly number[]
  readonly shares: readonly number[]
  /** The twist of the bone's far end is shared (a forearm's by its hand), or that of its near end (an upper arm's at the shoulder). */
  readonly end: 'far' | 'near'
}

/**
 * The long bones of a figure along which twist can be shared.
 * @param played figure joints that follow a performer joint and keep what it does
 */
export function twistSegments(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  played: ReadonlySet<number>,
): TwistSegment[] {
  const rest = worldPose(skeleton)
  return SIDES.flatMap(s =>
    (
      [
        ['UpperArm', 'LowerArm', 'near'],
        ['LowerArm', 'Hand', 'far'],
        ['UpperLeg', 'LowerLeg', 'near'],
        ['LowerLeg', 'Foot', 'far'],
      ] as const
    ).flatMap(([a, b, end]): TwistSegment[] => {
      const from = joints[s + a],
        to = joints[s + b]
      if (from === undefined || to === undefined) return []
      const between: number[] = []
      for (let j = skeleton.parents[to]; j >= 0 && j !== from; j = skeleton.parents[j]) between.unshift(j)
      if (between.length === 0 || skeleton.parents[between[0]] !== from || between.some(j => played.has(j))) return []
      const start = vec3At(rest.positions, from),
        bone = sub(vec3At(rest.positions, to), start)
      const long = bone[0] ** 2 + bone[1] ** 2 + bone[2] ** 2 || 1
      const shares = between.map(j => {
        const d = sub(vec3At(rest.positions, j), start)
        return Math.min(1, Math.max(0, (d[0] * bone[0] + d[1] * bone[1] + d[2] * bone[2]) / long))
      })
      return [{ from, to, between, shares, end }]
    }),
  )
}

/**
 * Shares the twist of limbs along the joints of their long bones: a forearm turns more and more towards its hand, an upper arm
 * ever less towards its shoulder. Where a bone points and how its far end is turned does not change.
 */
export function shareTwist(skeleton: Skeleton, segments: readonly TwistSegment[], take: Take): Take {
  if (segments.length === 0) return take
  const rest = worldPose(skeleton)
  const J = skeleton.names.length
  const rotations = take.rotations.slice()
  for (const { from, to, between, shares, end } of segments) {
    const bone = normalize(sub(vec3At(rest.positions, to), vec3At(rest.positions, from)))
    /** The bone's direction in a joint's own space. */
    const own = (j: number): Vec3 => rotate(conjugate(quatAt(rest.rotations, j)), bone)
    const axes = [from, ...between].map(own)
    const last = between[between.length - 1]
    const restLocal = (j: number): Quat => quatAt(skeleton.restRotations, j)
    let before = 0
    for (let f = 0; f < take.frames; f++) {
      const at = (j: number): Quat => quatAt(rotations, f * J + j)
      // far: how the end is turned in the space of the last joint; near: how the bone is turned in its own rest space
      const turn =
        end === 'far' ? multiply(at(to), conjugate(restLocal(to))) : multiply(conjugate(restLocal(from)), at(from))
      const angle = twistAbout(turn, end === 'far' ? own(last) : axes[0], before)
      before = angle
      let told = 0
      between.forEach((j, i) => {
        setQuat(rotations, f * J + j, multiply(fromAxisAngle(axes[i], angle * (shares[i] - told)), at(j)))
        told = shares[i]
      })
      if (end === 'far') setQuat(rotations, f * J + to, multiply(fromAxisAngle(own(last), -angle * told), at(to)))
      else {
        setQuat(rotations, f * J + from, multiply(at(from), fromAxisAngle(axes[0], -angle)))
        setQuat(rotations, f * J + to, multiply(fromAxisAngle(own(last), angle * (1 - told)), at(to)))
      }
    }
  }
  return { ...take, rotations }
}

/** The part of a turn that goes about an axis, radians, as near to the one before as whole turns allow (swing and twist). */
function twistAbout(q: Quat, axis: Vec3, before: number): number {
  const along = q[0] * axis[0] + q[1] * axis[1] + q[2] * axis[2]
  const size = Math.hypot(along, q[3])
  let angle = 2 * Math.atan2(along, q[3])
  while (angle - before > Math.PI) angle -= 2 * Math.PI
  while (before - angle > Math.PI) angle += 2 * Math.PI
  const t = Math.min(1, size / CLEAR)
  return angle * t * t * (3 - 2 * t)
}
