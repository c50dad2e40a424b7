import {
  angleBetween,
  angleOf,
  AXIS_NAMES,
  AXIS_VECTORS,
  conjugate,
  cross,
  dot,
  fromAxes,
  length,
  multiply,
  nearestAxis,
  normalize,
  oppositeAxis,
  quatAt,
  rotate,
  sub,
  vec3At,
  type AxisName,
  type Quat,
  type Vec3,
  maxOf,
} from '../math'
import { childrenOf, nextJoint, type Skeleton } from './skeleton'
import { worldPose } from './kinematics'

/** Which of a joint's own axes runs along its bone, and which one it hinges about. */
export interface AxisConvention {
  readonly along: AxisName
  readonly hinge: AxisName
  /** Joints of the right run along the other end of the axis, so that equal turns of both sides are mirror images. */
  readonly mirrored?: boolean
}
export const OWN_CONVENTION: AxisConvention = { along: '+y', hinge: '+x' }

/** How a skeleton's joints are aimed. */
export interface AxisReading {
  /** `along`: an own axis follows the bone; `world`: all joints are turned alike, whatever their bones do; `mixed`: neither. */
  readonly kind: 'along' | 'world' | 'mixed'
  /** The own axis that most bones follow. */
  readonly along: AxisName
  /** J: angle between that axis and the bone, radians; NaN for joints without a bone. */
  readonly off: Float64Array
}

/** Direction of the bone of a joint in world space at rest, unit; undefined where it has none. */
export function boneDirection(
  skeleton: Skeleton,
  j: number,
  children = childrenOf(skeleton),
  world = worldPose(skeleton),
): Vec3 | undefined {
  const next = nextJoint(skeleton, children, j)
  if (next !== undefined) {
    const d = sub(vec3At(world.positions, next), vec3At(world.positions, j))
    return length(d) > 1e-7 ? normalize(d) : undefined
  }
  if (!skeleton.tips) return undefined
  const tip = vec3At(skeleton.tips, j)
  return length(tip) > 1e-7 ? normalize(rotate(quatAt(world.rotations, j), tip)) : undefined
}

/** Tells how the joints are aimed: along their bones, like the world, or neither. */
export function readAxes(skeleton: Skeleton): AxisReading {
  const world = worldPose(skeleton)
  const children = childrenOf(skeleton)
  const bones = skeleton.names.map((_, j) => boneDirection(skeleton, j, children, world))
  const votes = new Map<AxisName, number>()
  const own = bones.map((d, j) => d && rotate(conjugate(quatAt(world.rotations, j)), d))
  for (const d of own) {
    if (!d) continue
    const best = nearestAxis(d)
    if (angleBetween(AXIS_VECTORS[best], d) < 0.15) votes.set(best, (votes.get(best) ?? 0) + 1)
  }
  const along =
    [...votes.entries()].sort((a, b) => b[1] - a[1] || AXIS_NAMES.indexOf(a[0]) - AXIS_NAMES.indexOf(b[0]))[0]?.[0] ??
    '+y'
  const opposite = oppositeAxis(along)
  const boned = own.filter(d => d !== undefined).length
  // left and right limbs may run along opposite ends of one axis
  const fitting = (votes.get(along) ?? 0) + (votes.get(opposite) ?? 0)
  const off = Float64Array.from(own, d =>
    d
      ? Math.min(
          angleBetween(AXIS_VECTORS[along], d),
          votes.has(opposite) ? angleBetween(AXIS_VECTORS[opposite], d) : Infinity,
        )
      : NaN,
  )
  const rotations = skeleton.names.map((_, j) => quatAt(world.rotations, j))
  // most joints turned one way although their bones point many ways: that way is the world's
  const own0 = [...bones.keys()].filter(j => bones[j])
  // a way that most share is found from any few of them
  const some = own0.filter((_, n) => n % Math.ceil(own0.length / 64) === 0)
  const alike = maxOf(
    some.map(i => own0.filter(j => angleOf(rotations[j], rotations[i]) < 0.02).length),
    0,
  )
  const spread = maxOf(
    own0.map(j => angleBetween(bones[j]!, bones[own0[0]]!)),
    0,
  )
  if (boned > 3 && alike > 0.8 * boned && spread > 0.5) return { kind: 'world', along, off }
  return { kind: boned > 0 && fitting >= 0.75 * boned ? 'along' : 'mixed', along, off }
}

/** Which way the middle joint of a limb naturally stands out at rest, and the limb's three joints. */
export const LIMB_BENDS: readonly {
  readonly middle: string
  readonly from: string
  readonly to: string
  readonly way: Vec3
  readonly word: string
}[] = ['left', 'right'].flatMap(s => {
  const side = s === 'left' ? 'Left' : 'Right'
  return [
    { middle: `${s}LowerArm`, from: `${s}UpperArm`, to: `${s}Hand`, way: [0, 0, -1] as Vec3, word: `${side} elbow` },
    { middle: `${s}LowerLeg`, from: `${s}UpperLeg`, to: `${s}Foot`, way: [0, 0, 1] as Vec3, word: `${side} knee` },
  ]
})

/** How an elbow or a knee is bent at rest. */
export interface BendReading {
  readonly joint: number
  readonly role: string
  readonly word: string
  /** Signed bend, radians: positive the natural way, negative backwards. */
  readonly bend: number
  /** The hinge a natural bend turns about, unit, in world space at rest. */
  readonly hinge: Vec3
  /** The joint's own axis nearest to that hinge, and the angle between both, radians. */
  readonly own: AxisName
  readonly off: number
}

/** Reads elbows and knees of a skeleton that stands upright, facing +Z. */
export function readBends(skeleton: Skeleton): BendReading[] {
  const world = worldPose(skeleton)
  return LIMB_BENDS.flatMap(({ middle, from, to, way, word }) => {
    const [a, j, b] = [from, middle, to].map(r => skeleton.roles.indexOf(r))
    if (a < 0 || j < 0 || b < 0) return []
    const upper = sub(vec3At(world.positions, j), vec3At(world.positions, a))
    const lower = sub(vec3At(world.positions, b), vec3At(world.positions, j))
    if (length(upper) < 1e-7 || length(lower) < 1e-7) return []
    const u = normalize(upper),
      l = normalize(lower)
    const natural = naturalHinge(u, l, way)
    const angle = angleBetween(u, l)
    const axis = cross(u, l)
    const bend = dot(axis, natural) >= 0 ? angle : -angle
    // a clear bend tells its hinge itself; a straight limb has only the natural one
    const hinge = Math.abs(angle) > 0.035 ? normalize(bend >= 0 ? axis : [-axis[0], -axis[1], -axis[2]]) : natural
    const inverse = conjugate(quatAt(world.rotations, j))
    const local = rotate(inverse, hinge)
    const own = nearestAxis(local)
    return [{ joint: j, role: middle, word, bend, hinge, own, off: angleBetween(AXIS_VECTORS[own], local) }]
  })
}

/** The hinge about which a limb bends when its middle joint stands out towards `way`. */
export function naturalHinge(upper: Vec3, lower: Vec3, way: Vec3): Vec3 {
  const line = normalize([upper[0] + lower[0], upper[1] + lower[1], upper[2] + lower[2]])
  // the middle stands out along `way`, so the limb turns from line+way to line-way
  return normalize(cross(way, line))
}

/** The rotation whose own axes follow a convention: `along` on the bone, `hinge` as near to the wished one as it goes. */
export function aimedRotation(bone: Vec3, hinge: Vec3, convention: AxisConvention): Quat {
  const y = normalize(bone)
  const flat = sub(hinge, [y[0] * dot(hinge, y), y[1] * dot(hinge, y), y[2] * dot(hinge, y)])
  const x = length(flat) > 1e-6 ? normalize(flat) : normalize(cross(y, Math.abs(y[2]) < 0.9 ? [0, 0, 1] : [0, 1, 0]))
  const z = cross(x, y)
  // columns of the frame that carries own axes (hinge, along, their cross) to the world
  const a = AXIS_VECTORS[convention.hinge],
    b = AXIS_VECTORS[convention.along]
  const c = cross(a, b)
  return multiply(fromAxes(x, y, z), conjugate(fromAxes(a, b, c)))
}
