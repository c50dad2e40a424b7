import { quatAt, vec3At, type Rigid } from '../math'

/** As much of a skeleton as kinematics need: joints in packed arrays, parents before children. */
interface Jointed {
  readonly names: readonly string[]
  readonly parents: Int16Array
  readonly restTranslations: Float32Array
  readonly restRotations: Float32Array
}

/** World positions (3·J) and rotations (4·J) of a posed skeleton. */
export interface WorldPose {
  readonly positions: Float64Array
  readonly rotations: Float64Array
}

export const worldPoseBuffer = (joints: number): WorldPose => ({
  positions: new Float64Array(3 * joints),
  rotations: new Float64Array(4 * joints),
})

/** The joints on the ways from the roots to the given ones, parents first: all that their places depend on. */
export function waysTo(skeleton: Jointed, joints: Iterable<number | undefined>): Int32Array {
  const wanted = new Set<number>()
  for (const joint of joints) for (let j = joint ?? -1; j >= 0 && !wanted.has(j); j = skeleton.parents[j]) wanted.add(j)
  return Int32Array.from([...wanted].sort((a, b) => a - b))
}

/** The joint that carries the whole body: the topmost above the given one. */
export function rootAbove(skeleton: Jointed, joint: number): number {
  let j = joint
  while (skeleton.parents[j] >= 0) j = skeleton.parents[j]
  return j
}

/**
 * Forward kinematics: places and turns of joints in the world from their own values, parents before children. The one
 * loop for all of them; takes are followed through it frame by frame without a copy.
 * @param joints which, parents first, see {@link waysTo}; left out, all
 * @param offset first joint of the frame in `translations` (3·J·N, metres) and `rotations` (4·J·N)
 * @param out full buffers (3·J, 4·J); only the given joints are written
 */
export function forwardKinematics(
  parents: Int16Array,
  joints: Int32Array | undefined,
  translations: ArrayLike<number>,
  rotations: ArrayLike<number>,
  offset: number,
  out: WorldPose,
): void {
  const P = out.positions
  const R = out.rotations
  const n = joints ? joints.length : parents.length
  for (let i = 0; i < n; i++) {
    const j = joints ? joints[i] : i
    const t = 3 * (offset + j),
      r = 4 * (offset + j),
      p3 = 3 * j,
      p4 = 4 * j
    const p = parents[j]
    const bx = rotations[r],
      by = rotations[r + 1],
      bz = rotations[r + 2],
      bw = rotations[r + 3]
    const x = translations[t],
      y = translations[t + 1],
      z = translations[t + 2]
    if (p < 0) {
      P[p3] = x
      P[p3 + 1] = y
      P[p3 + 2] = z
      R[p4] = bx
      R[p4 + 1] = by
      R[p4 + 2] = bz
      R[p4 + 3] = bw
      continue
    }
    const ax = R[4 * p],
      ay = R[4 * p + 1],
      az = R[4 * p + 2],
      aw = R[4 * p + 3]
    const tx = 2 * (ay * z - az * y),
      ty = 2 * (az * x - ax * z),
      tz = 2 * (ax * y - ay * x)
    P[p3] = P[3 * p] + x + aw * tx + ay * tz - az * ty
    P[p3 + 1] = P[3 * p + 1] + y + aw * ty + az * tx - ax * tz
    P[p3 + 2] = P[3 * p + 2] + z + aw * tz + ax * ty - ay * tx
    R[p4] = aw * bx + ax * bw + ay * bz - az * by
    R[p4 + 1] = aw * by - ax * bz + ay * bw + az * bx
    R[p4 + 2] = aw * bz + ax * by - ay * bx + az * bw
    R[p4 + 3] = aw * bw - ax * bx - ay * by - az * bz
  }
}

/**
 * All joints of a skeleton in the world, at rest where nothing else is given.
 * @param translations 3·J, rotations 4·J, both from `offset` joints on (so a take's frame can be given without a copy)
 */
export function worldPose(
  skeleton: Jointed,
  translations: ArrayLike<number> = skeleton.restTranslations,
  rotations: ArrayLike<number> = skeleton.restRotations,
  offset = 0,
  out = worldPoseBuffer(skeleton.names.length),
): WorldPose {
  forwardKinematics(skeleton.parents, undefined, translations, rotations, offset, out)
  return out
}

/** Where a joint is and how it is turned. */
export const jointPlace = (pose: WorldPose, joint: number): Rigid => ({
  at: vec3At(pose.positions, joint),
  turn: quatAt(pose.rotations, joint),
})
