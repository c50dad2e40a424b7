import { z } from 'zod'
import {
  angleOf,
  conjugate,
  fromTo,
  length,
  multiply,
  normalize,
  normalizeQuat,
  quatAt,
  setQuat,
  sub,
  vec3At,
  type Quat,
  type ReadonlyQuat,
  type Vec3,
} from '../math'
import { worldPose } from './kinematics'
import { mirroredName, partnerJoint } from './side'
import { atBind, childrenOf, findJoint, jointRef, nextJoint, type Skeleton } from './skeleton'

/**
 * How a joint is turned away from where it was bound, in the axes of the body (x to its left, y up, z ahead) while all it hangs
 * on still stands as bound. So told, a pose fits any joint axes and other bodies.
 */
export const poseTurnSchema = z.object({
  /** By role, else by what it is known by. */
  joint: z.string().min(1).max(200),
  by: z.tuple([z.number(), z.number(), z.number(), z.number()]),
})
export type PoseTurn = Readonly<z.infer<typeof poseTurnSchema>>

/** Turns smaller than this are none, radians. */
const STILL = 1e-5

/**
 * Local rotations of a pose; joints that are not told stand as the skeleton rests.
 * @returns 4·J
 */
export function posed(skeleton: Skeleton, turns: readonly PoseTurn[]): Float32Array {
  const bind = worldPose(atBind(skeleton))
  const out = skeleton.restRotations.slice()
  for (const { joint, by } of turns) {
    const j = findJoint(skeleton, joint)
    if (j < 0) continue
    setQuat(out, j, localOf(bind.rotations, skeleton.parents[j], j, by))
  }
  return out
}

/**
 * The turns of a pose: of every joint that is turned away from where it was bound, or that rests so.
 * @param rotations 4·J, local
 */
export function turnsOf(skeleton: Skeleton, rotations: ArrayLike<number>): PoseTurn[] {
  const bind = worldPose(atBind(skeleton))
  return skeleton.names.flatMap((_, j): PoseTurn[] => {
    const by = turnOf(bind.rotations, skeleton.parents[j], j, quatAt(rotations, j))
    const rest = turnOf(bind.rotations, skeleton.parents[j], j, quatAt(skeleton.restRotations, j))
    return angleOf(by) < STILL && angleOf(rest) < STILL ? [] : [{ joint: jointRef(skeleton, j), by }]
  })
}

/**
 * How far a local rotation turns a joint away from where it was bound, in the axes of the body.
 * @param bind 4·J rotations in the world as bound  @param p the joint's parent, -1 for none
 */
export function turnOf(bind: ArrayLike<number>, p: number, j: number, local: Quat): Quat {
  const world = p < 0 ? local : multiply(quatAt(bind, p), local)
  return normalizeQuat(multiply(world, conjugate(quatAt(bind, j))))
}

/** The local rotation that turns a joint so: the way back from {@link turnOf}. */
function localOf(bind: ArrayLike<number>, p: number, j: number, by: ReadonlyQuat): Quat {
  const turned = multiply(by, quatAt(bind, j))
  return normalizeQuat(p < 0 ? turned : multiply(conjugate(quatAt(bind, p)), turned))
}

/** The turn of one joint of a pose, see {@link PoseTurn}. */
export function turnAt(skeleton: Skeleton, rotations: ArrayLike<number>, j: number): Quat {
  return turnOf(worldPose(atBind(skeleton)).rotations, skeleton.parents[j], j, quatAt(rotations, j))
}

/** A pose with one joint turned otherwise, and its partner as its mirror image where that is asked. */
export function withTurn(
  skeleton: Skeleton,
  rotations: Float32Array,
  j: number,
  by: ReadonlyQuat,
  mirror = false,
): Float32Array {
  const bind = worldPose(atBind(skeleton)).rotations
  const out = rotations.slice()
  const put = (joint: number, turn: ReadonlyQuat): void =>
    setQuat(out, joint, localOf(bind, skeleton.parents[joint], joint, turn))
  put(j, by)
  const partner = mirror ? partnerJoint(skeleton, j) : -1
  if (partner >= 0 && partner !== j) put(partner, mirrorTurn(by))
  return out
}

/** The turn a mirror across the midline shows. */
export const mirrorTurn = ([x, y, z, w]: ReadonlyQuat): Quat => [x, -y, -z, w]

/**
 * Which joint turns when another is pulled: the one whose bone leads to it, else, where many hang, the pulled joint itself
 * cannot be moved and -1 is told.
 */
export function pulledBy(skeleton: Skeleton, j: number): number {
  const p = skeleton.parents[j]
  if (p < 0) return -1
  return nextJoint(skeleton, childrenOf(skeleton), p) === j ? p : -1
}

/**
 * A pose in which a bone points at a place: its joint is turned by the least turn that does it.
 * @param from where the end of the bone is now  @param to where it is pulled, metres in the world as posed
 */
export function pull(
  skeleton: Skeleton,
  rotations: Float32Array,
  j: number,
  from: Vec3,
  to: Vec3,
  mirror = false,
): Float32Array {
  const world = worldPose(skeleton, skeleton.restTranslations, rotations)
  const at = vec3At(world.positions, j)
  const [a, b] = [sub(from, at), sub(to, at)]
  if (length(a) < 1e-7 || length(b) < 1e-7) return rotations
  return turnInWorld(skeleton, rotations, j, fromTo(normalize(a), normalize(b)), mirror)
}

/** A pose with one joint turned in the world as it is posed now. */
export function turnInWorld(
  skeleton: Skeleton,
  rotations: Float32Array,
  j: number,
  turn: ReadonlyQuat,
  mirror = false,
): Float32Array {
  const world = worldPose(skeleton, skeleton.restTranslations, rotations)
  const p = skeleton.parents[j]
  const turned = multiply(turn, quatAt(world.rotations, j))
  const local = p < 0 ? turned : multiply(conjugate(quatAt(world.rotations, p)), turned)
  const bind = worldPose(atBind(skeleton)).rotations
  return withTurn(skeleton, rotations, j, turnOf(bind, p, j, local), mirror)
}

/** A pose with left and right exchanged, as a mirror shows it. */
export function mirrored(skeleton: Skeleton, turns: readonly PoseTurn[]): PoseTurn[] {
  return turns.map(({ joint, by }) => {
    const j = findJoint(skeleton, joint)
    const partner = j < 0 ? -1 : partnerJoint(skeleton, j)
    return { joint: partner >= 0 ? jointRef(skeleton, partner) : mirroredName(joint), by: mirrorTurn(by) }
  })
}
