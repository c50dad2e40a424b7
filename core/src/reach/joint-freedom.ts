import { bodyPart, middleWay, limbsOf } from '../body'
import {
  angleBetween,
  conjugate,
  cross,
  dot,
  fromDirections,
  multiply,
  normalize,
  quatAt,
  rotate,
  sub,
  vec3At,
  length,
  type Quat,
  type Vec3,
} from '../math'
import { atBind, boneDirection, childrenOf, naturalHinge, worldPose, type Skeleton } from '../skeleton'

/**
 * How a joint gives. Its own axes stand so: the first is its hinge, the second runs along its bone, the third across both; a
 * turn is told in them as a rotation vector away from where the joint was bound.
 */
export interface JointFreedom {
  readonly joint: number
  /** From these axes to the joint's own space. */
  readonly axes: Quat
  /** Local turn as bound. */
  readonly bindLocal: Quat
  /** The axes it turns about at all: a hinge about its own, a joint within a bone about its length, others about all. */
  readonly about: readonly (0 | 1 | 2)[]
  /** What turning away from the pose it began with costs, per radian squared. */
  readonly stiff: number
  /** Least and most about the hinge, radians, and where on that way the limb is straight. */
  readonly hinge?: readonly [number, number]
  readonly straight: number
  /** Farthest swing and turn about its length, radians. */
  readonly swing: number
  readonly twist: number
}

/** Parts that keep their pose longer than the limbs do: what a body would rather not move to bring a hand somewhere. */
const STIFF: Readonly<Record<string, number>> = {
  hips: 8,
  spine: 5,
  chest: 5,
  upperChest: 5,
  neck: 3,
  head: 3,
  Shoulder: 5,
  Hand: 2,
  Foot: 2,
  Toes: 3,
}
const TWISTING = 0.5
const HINGE = [0] as const
const LENGTH = [1] as const
const ALL = [0, 1, 2] as const
/** How far beyond straight a knee or an elbow goes, and how far it folds, degrees between its bones. */
const BACKWARDS = 3
const FOLDED = 155
const RADIANS = Math.PI / 180

/**
 * How every joint of a figure gives.
 * @param joints joint by role  @param frame from the skeleton's space to Y up, facing +Z
 */
export function jointFreedom(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
): readonly JointFreedom[] {
  const bind = worldPose(atBind(skeleton))
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const back = conjugate(frame)
  const children = childrenOf(skeleton)
  const middles = new Map<number, { readonly hinge: Vec3; readonly bent: number }>()
  const within = new Set<number>()
  for (const [upper, lower, end] of limbsOf(joints)) {
    const [a, b, c] = [joints[upper], joints[lower], joints[end]]
    if (a === undefined || b === undefined || c === undefined) continue
    const [u, l] = [sub(at(b), at(a)), sub(at(c), at(b))]
    if (length(u) < 1e-7 || length(l) < 1e-7) continue
    const [nu, nl] = [normalize(u), normalize(l)]
    const natural = naturalHinge(nu, nl, rotate(back, middleWay(end)))
    const axis = cross(nu, nl)
    const along = dot(axis, natural)
    const bent = angleBetween(nu, nl)
    // a clear bend tells its hinge itself, unless it is one to the side
    const clear = bent > CLEAR * RADIANS && along > ASIDE * length(axis)
    middles.set(b, { hinge: clear ? normalize(axis) : natural, bent: along >= 0 ? bent : -bent })
    for (const [top, bottom] of [
      [a, b],
      [b, c],
    ] as const)
      for (let j = skeleton.parents[bottom]; j >= 0 && j !== top; j = skeleton.parents[j]) within.add(j)
  }
  return skeleton.names.map((_, j): JointFreedom => {
    const p = skeleton.parents[j]
    const world = quatAt(bind.rotations, j)
    const own = conjugate(world)
    const bindLocal = p < 0 ? world : multiply(conjugate(quatAt(bind.rotations, p)), world)
    const bone = boneDirection(skeleton, j, children, bind) ?? (p < 0 ? undefined : sub(at(j), at(p)))
    const along = bone && length(bone) > 1e-9 ? rotate(own, normalize(bone)) : ([0, 1, 0] as Vec3)
    const middle = middles.get(j)
    const role = skeleton.roles[j] ?? ''
    const part = bodyPart(role)
    const range = part?.range
    return {
      joint: j,
      axes: fromDirections(along, rotate(own, middle?.hinge ?? rotate(back, [1, 0, 0]))),
      bindLocal,
      about: within.has(j) ? LENGTH : middle ? HINGE : ALL,
      stiff: within.has(j) ? TWISTING : middle ? 1 : (STIFF[role] ?? STIFF[part?.part ?? ''] ?? 1),
      ...(middle && {
        hinge: [-middle.bent - BACKWARDS * RADIANS, FOLDED * RADIANS - middle.bent] as const,
      }),
      straight: middle ? -middle.bent : 0,
      swing: middle ? Infinity : (range?.swing ?? Infinity) * RADIANS,
      twist: (range?.twist ?? Infinity) * RADIANS,
    }
  })
}
/** Bends beyond this tell the way of their hinge themselves, degrees. */
const CLEAR = 4
/** Cosine of how far aside such a bend may lie. */
const ASIDE = 0.65
