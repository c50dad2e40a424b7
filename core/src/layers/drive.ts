import {
  conjugate,
  distance,
  fromRotationVector,
  multiply,
  quatAt,
  rotate,
  rotationVector,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { hipLegsOf, middleWay, limbsOf } from '../body'
import { limbOf, type Limb, type Played } from '../motion'
import { atBind, findJoint, worldPose, type WorldPose } from '../skeleton'
import type { ChannelKind } from './layer'

/** The part of a figure that a channel drives, and the axes and lengths it is told in. */
export interface Drive {
  readonly kind: ChannelKind
  /** The joint that is turned, or moved. */
  readonly joint: number
  /** From the joint's own axes, as bound, to those of the body. */
  readonly axes: Quat
  readonly bindLocal: Quat
  /** The limb that follows its end. */
  readonly limb?: Limb
  /** The length shares are told of. */
  readonly long: number
  /** What carries the axes of a shift along, and its turn as bound; -1 for the ground. */
  readonly trunk: number
  readonly trunkBind: Quat
}

/** What a figure offers to layers: its limbs by their ends, its trunk and the legs that carry the hips. */
export interface LayerParts {
  readonly bind: WorldPose
  /** From the body's own frame to the skeleton's space. */
  readonly back: Quat
  readonly limbs: ReadonlyMap<string, { readonly limb: Limb; readonly long: number; readonly leg: boolean }>
  readonly legs: readonly { readonly limb: Limb; readonly long: number }[]
  readonly trunk: number
}

const TRUNK = ['upperChest', 'chest', 'spine', 'hips'] as const

export function layerParts({ skeleton, joints, frame }: Omit<Played, 'take'>): LayerParts {
  const bind = worldPose(atBind(skeleton))
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const back = conjugate(frame)
  const limbs = new Map<string, { limb: Limb; long: number; leg: boolean }>()
  for (const [upper, lower, end] of limbsOf(joints)) {
    const [a, b, c] = [joints[upper], joints[lower], joints[end]]
    if (a === undefined || b === undefined || c === undefined) continue
    const leg = end.endsWith('Foot')
    limbs.set(end, {
      limb: limbOf(bind, a, b, c, rotate(back, middleWay(end))),
      long: distance(at(a), at(b)) + distance(at(b), at(c)),
      leg,
    })
  }
  const legs = hipLegsOf(joints).flatMap(leg => limbs.get(`${leg}Foot`) ?? [])
  return { bind, back, limbs, legs, trunk: TRUNK.map(r => joints[r]).find(j => j !== undefined) ?? -1 }
}

/** What a channel drives; undefined where the figure has no such part. @param ref the joint, by role, else by what it is known by */
export function driveOf(
  { skeleton, joints, frame }: Omit<Played, 'take'>,
  { bind, limbs, legs, trunk }: LayerParts,
  kind: ChannelKind,
  ref: string,
): Drive | undefined {
  const j = joints[ref] ?? findJoint(skeleton, ref)
  if (j < 0) return undefined
  const world = quatAt(bind.rotations, j)
  const p = skeleton.parents[j]
  const plain: Drive = {
    kind,
    joint: j,
    axes: multiply(frame, world),
    bindLocal: p < 0 ? world : multiply(conjugate(quatAt(bind.rotations, p)), world),
    long: 0,
    trunk: -1,
    trunkBind: [0, 0, 0, 1],
  }
  if (kind === 'turn') return plain
  if (kind === 'move') return legs[0] && j === joints.hips ? { ...plain, long: legs[0].long } : undefined
  const limb = kind === 'reach' ? limbs.get(ref) : undefined
  if (!limb) return undefined
  const carried = !limb.leg && trunk >= 0
  return {
    ...plain,
    limb: limb.limb,
    long: limb.long,
    ...(carried && { trunk, trunkBind: quatAt(bind.rotations, trunk) }),
  }
}

/** A turn told as a rotation vector in the body's axes, in the joint's own; undefined where there is none. */
export function turnBy(value: ArrayLike<number>, axes: Quat, share: number): Quat | undefined {
  const [x, y, z] = rotate(conjugate(axes), [value[0], value[1], value[2]])
  const own: Vec3 = [share * x, share * y, share * z]
  return Math.hypot(...own) < 1e-9 ? undefined : fromRotationVector(own)
}

/**
 * The value of a channel of a layer that adds, after its part was dragged.
 * @param value before  @param by metres, in the skeleton's space  @param pose the figure as it stands  @param weight of the layer there
 */
export function draggedShift(
  parts: LayerParts,
  { long, trunk, trunkBind }: Drive,
  value: readonly number[],
  by: Vec3,
  pose: WorldPose,
  weight: number,
): Vec3 {
  // out of the trunk's axes as it is turned now, into those of the body
  const bound = trunk < 0 ? by : rotate(multiply(trunkBind, conjugate(quatAt(pose.rotations, trunk))), by)
  const told = rotate(conjugate(parts.back), bound)
  return [0, 1, 2].map(k => (value[k] ?? 0) + told[k] / (long * weight)) as unknown as Vec3
}

/** The same of a joint that was turned in the world. */
export function draggedTurn(
  { joint, axes }: Drive,
  value: readonly number[],
  turn: Quat,
  pose: WorldPose,
  weight: number,
): Vec3 {
  const world = quatAt(pose.rotations, joint)
  // what the turn is in the joint's own axes, after what it was turned by already
  const own = multiply(multiply(conjugate(world), turn), world)
  const before = turnBy([value[0] ?? 0, value[1] ?? 0, value[2] ?? 0], axes, weight)
  const [x, y, z] = rotationVector(before ? multiply(before, own) : own)
  return rotate(axes, [x / weight, y / weight, z / weight])
}

/**
 * The value with which a layer that replaces would leave a part as it stands.
 * @param local the joint's own turn as it stands
 */
export function standingValue(parts: LayerParts, drive: Drive, pose: WorldPose, local: Quat): Vec3 {
  const { kind, joint, limb, axes, bindLocal } = drive
  if (kind === 'turn') return rotate(axes, rotationVector(multiply(conjugate(bindLocal), local)))
  const from = kind === 'move' ? vec3At(parts.bind.positions, joint) : vec3At(pose.positions, limb!.upper)
  const to = vec3At(pose.positions, joint)
  return draggedShift(parts, drive, [0, 0, 0], [to[0] - from[0], to[1] - from[1], to[2] - from[2]], pose, 1)
}
