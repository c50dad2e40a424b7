import { SIDES } from '../body'
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
import { worldPose, type Skeleton, type WorldPose } from '../skeleton'
import type { Take } from './take'

/** Below this share of its length a twist is told too badly by a limb turned right back; it fades there. */
const CLEAR = 0.35
/** What lies farther off the line of its bone, as a share of the bone's length, would move the bone's end when it twists. */
const OFF_LINE = 0.02

/** A long bone with joints along it. */
export interface TwistSegment {
  readonly from: number
  readonly to: number
  /** Joints between, from above, and the share of the bone's length each lies at. */
  readonly between: readonly number[]
  readonly shares: readonly number[]
  /** The twist of the bone's far end is shared (a forearm's by its hand), or that of its near end (an upper arm's at the shoulder). */
  readonly end: 'far' | 'near'
  /** The bone's direction in the own space of `from` and of each joint between. */
  readonly axes: readonly Vec3[]
}

/** The joints between two, from above; undefined where one does not hang on the other. */
export function jointsBetween(skeleton: Skeleton, from: number, to: number): number[] | undefined {
  const between: number[] = []
  for (let j = skeleton.parents[to]; j !== from; j = skeleton.parents[j]) {
    if (j < 0) return undefined
    between.unshift(j)
  }
  return between
}

/**
 * A bone along which twist can be shared; undefined where no joint lies along it.
 * @param rest world pose at rest
 */
export function twistSegment(
  skeleton: Skeleton,
  rest: WorldPose,
  from: number,
  to: number,
  end: 'far' | 'near',
): TwistSegment | undefined {
  const between = jointsBetween(skeleton, from, to)
  if (!between?.length) return undefined
  const start = vec3At(rest.positions, from),
    bone = sub(vec3At(rest.positions, to), start)
  const long = bone[0] ** 2 + bone[1] ** 2 + bone[2] ** 2
  if (long < 1e-12) return undefined
  const shares: number[] = []
  for (const j of between) {
    const d = sub(vec3At(rest.positions, j), start)
    const along = (d[0] * bone[0] + d[1] * bone[1] + d[2] * bone[2]) / long
    if (d[0] ** 2 + d[1] ** 2 + d[2] ** 2 - along * along * long > OFF_LINE ** 2 * long) return undefined
    shares.push(Math.min(1, Math.max(0, along)))
  }
  const way = normalize(bone)
  const axes = [from, ...between].map(j => rotate(conjugate(quatAt(rest.rotations, j)), way))
  return { from, to, between, shares, end, axes }
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
      const segment = twistSegment(skeleton, rest, from, to, end)
      return segment && !segment.between.some(j => played.has(j)) ? [segment] : []
    }),
  )
}

/**
 * Shares the twist of one bone along its joints in one pose: a forearm turns more and more towards its hand, an upper arm
 * ever less towards its shoulder. Where the bone points and how its far end is turned does not change; what is shared
 * already stays as it is.
 * @param rotations 4·J·N local turns, changed at `offset`
 * @param before angle of the frame before, so that whole turns go on; 0 where there is none
 * @returns the angle that was shared, radians
 */
export function shareTwistAt(
  skeleton: Skeleton,
  { from, to, between, shares, end, axes }: TwistSegment,
  rotations: Float32Array,
  offset: number,
  before = 0,
): number {
  const at = (j: number): Quat => quatAt(rotations, offset + j)
  const restOf = (j: number): Quat => quatAt(skeleton.restRotations, j)
  const own = axes[axes.length - 1]
  const most = shares[shares.length - 1]
  // the axes of one joint are the space in which the next one's local turn is told
  const held = between.map((j, i) => twistAbout(multiply(at(j), conjugate(restOf(j))), axes[i], 0))
  const heldAll = held.reduce((a, b) => a + b, 0)
  // far: what the end is turned beyond the last joint; near: how the bone is turned in its own rest space
  const beyond =
    end === 'far'
      ? twistAbout(multiply(at(to), conjugate(restOf(to))), own, before - heldAll)
      : twistAbout(multiply(conjugate(restOf(from)), at(from)), axes[0], before)
  const angle = end === 'far' ? beyond + heldAll : beyond + (most > 0.05 ? heldAll / most : 0)
  let told = 0
  between.forEach((j, i) => {
    const turn = angle * (shares[i] - told) - held[i]
    setQuat(rotations, offset + j, multiply(fromAxisAngle(axes[i], turn), at(j)))
    told = shares[i]
  })
  if (end === 'near') setQuat(rotations, offset + from, multiply(at(from), fromAxisAngle(axes[0], -beyond)))
  const was = end === 'far' ? heldAll : beyond + heldAll
  setQuat(rotations, offset + to, multiply(fromAxisAngle(own, was - angle * told), at(to)))
  return angle
}

/** Shares the twist of limbs along the joints of their long bones in every frame of a take. */
export function shareTwist(skeleton: Skeleton, segments: readonly TwistSegment[], take: Take): Take {
  if (segments.length === 0) return take
  const J = skeleton.names.length
  const rotations = take.rotations.slice()
  for (const segment of segments) {
    let before = 0
    for (let f = 0; f < take.frames; f++) before = shareTwistAt(skeleton, segment, rotations, f * J, before)
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
