import {
  add,
  conjugate,
  distance,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { SIDES } from '../body'
import { worldPose, type Skeleton } from '../skeleton'
import { AROUND, axesAlong, BONES, ROWS, tableOf, type BodyRadii, type LimbRadii } from './limb-radii'

/** Thigh and shin as a share of a person's height (Drillis and Contini 1966, as in Winter, "Biomechanics and motor control of human movement"). */
const LEG = 0.491

/**
 * Half widths and half depths of an adult as shares of height, clothed lightly: breadths and depths of hips, waist, chest and
 * head, girths of limbs (Pheasant and Haslegrave, "Bodyspace", means of men and women; Winter, table 4.1). Trunk
 * widths are told from the joints: this far beyond the hip joints, and this far within those of the shoulders.
 */
const BEYOND_HIPS = 0.043,
  WITHIN_SHOULDERS = 0.036
const DEEP = { hips: 0.066, waist: 0.06, chest: 0.068 } as const
const SEAT = -0.055
const HEAD = { wide: 0.047, deep: 0.06, low: -0.02, high: 0.115 } as const
const GIRTH: Readonly<Record<string, readonly [near: number, far: number]>> = {
  UpperArm: [0.028, 0.025],
  LowerArm: [0.025, 0.016],
  Hand: [0.017, 0.014],
  UpperLeg: [0.052, 0.036],
  LowerLeg: [0.033, 0.022],
}
const HAND = 0.108

/** Height of a body with such legs, unit of the skeleton. */
export function usualHeight(skeleton: Skeleton, joints: Readonly<Record<string, number>>): number {
  const world = worldPose(skeleton)
  const at = (role: string): Vec3 => vec3At(world.positions, joints[role])
  const legs = SIDES.map(
    s => distance(at(`${s}UpperLeg`), at(`${s}LowerLeg`)) + distance(at(`${s}LowerLeg`), at(`${s}Foot`)),
  )
  return (legs[0] + legs[1]) / 2 / LEG
}

/**
 * The body a person with such a skeleton usually has: for performers, of whom a recording tells the bones alone.
 * @param frame from the skeleton's space to Y up, facing +Z
 * @returns tables by role, unit of the skeleton
 */
export function usualRadii(skeleton: Skeleton, joints: Readonly<Record<string, number>>, frame: Quat): BodyRadii {
  const world = worldPose(skeleton)
  const height = usualHeight(skeleton, joints)
  const at = (role: string): Vec3 => rotate(frame, vec3At(world.positions, joints[role]))
  const has = (role: string): boolean => joints[role] !== undefined
  const hips = Math.abs(at('leftUpperLeg')[0] - at('rightUpperLeg')[0]) / 2 + BEYOND_HIPS * height
  const shoulders =
    has('leftUpperArm') && has('rightUpperArm')
      ? distance(at('leftUpperArm'), at('rightUpperArm')) / 2 - WITHIN_SHOULDERS * height
      : hips
  const chest = Math.max(0.6 * hips, shoulders)
  const foot = (at('leftUpperLeg')[1] + at('rightUpperLeg')[1]) / 2
  const top = has('leftUpperArm') ? (at('leftUpperArm')[1] + at('rightUpperArm')[1]) / 2 : at('head')[1]
  /** Half width and half depth of the trunk at a height. */
  const trunkAt = (y: number): readonly [number, number] => {
    const u = (y - foot) / (top - foot || 1)
    const along = (values: readonly number[]): number => {
      const marks = [0, 0.4, 0.75, 1]
      let i = 0
      while (i < 2 && u > marks[i + 1]) i++
      const t = Math.min(1, Math.max(0, (u - marks[i]) / (marks[i + 1] - marks[i])))
      return values[i] + (values[i + 1] - values[i]) * t
    }
    return [
      along([hips, 0.45 * (hips + chest), chest, 0.9 * chest]),
      along([DEEP.hips, DEEP.waist, DEEP.chest, 0.8 * DEEP.chest]) * height,
    ]
  }
  const out: Record<string, LimbRadii> = {}
  for (const [role, ends] of BONES) {
    if (!has(role)) continue
    const from = at(role)
    const end = ends.find(r => has(r) && joints[r] !== joints[role])
    const part = role.replace(/^(left|right)/, '')
    const side = role.startsWith('left') ? 1 : -1
    const limb = GIRTH[part]
    const to: Vec3 = end
      ? at(end)
      : part === 'Hand'
        ? add(from, handWay(at, has, role, side, height))
        : add(from, [0, HEAD.high * height, 0])
    const along = sub(to, from)
    const bone = length(along)
    if (bone < 1e-9) continue
    const y = normalize(along)
    const j = joints[role]
    const axes = multiply(conjugate(quatAt(world.rotations, j)), multiply(conjugate(frame), axesAlong(y)))
    const low = role === 'hips' ? SEAT * height : role === 'head' ? HEAD.low * height : 0
    const high = role === 'head' ? HEAD.high * height : part === 'Hand' ? 1.6 * bone : bone
    const points: number[] = []
    // one ring in the middle of each row of the table, and one at either end
    for (const t of [0, ...Array.from({ length: ROWS }, (_, r) => (r + 0.5) / ROWS), 1]) {
      const h = low + (high - low) * t
      const share = Math.min(1, Math.max(0, h / bone))
      const [wide, deep] = limb
        ? [height * (limb[0] + (limb[1] - limb[0]) * share), height * (limb[0] + (limb[1] - limb[0]) * share)]
        : role === 'head'
          ? [HEAD.wide * height * domed(t), HEAD.deep * height * domed(t)]
          : trunkAt(from[1] + h * y[1])
      for (const [cx, cz] of AROUND) {
        // of an ellipse in that direction
        const k = 1 / Math.hypot(cx / wide, cz / deep)
        points.push(k * cx, h, k * cz)
      }
    }
    out[role] = { joint: j, axes, bone, ...tableOf(points) }
  }
  return out
}

/** A skull narrows to its top and to the chin. */
const domed = (t: number): number => Math.sqrt(Math.max(0.1, 1 - (2 * t - 0.9) ** 2))

/** From the wrist to the knuckles: on along the forearm, or straight out where there is none. */
function handWay(
  at: (role: string) => Vec3,
  has: (role: string) => boolean,
  role: string,
  side: number,
  height: number,
): Vec3 {
  const forearm = role.replace('Hand', 'LowerArm')
  const way: Vec3 = has(forearm) ? normalize(sub(at(role), at(forearm)), [side, 0, 0]) : [side, 0, 0]
  const long = 0.5 * HAND * height
  return [way[0] * long, way[1] * long, way[2] * long]
}
