import type { Skeleton, WorldPose } from './skeleton'

/** The joints on the ways from the roots to the given ones, parents first: all that their places depend on. */
export function waysTo(skeleton: Skeleton, joints: Iterable<number | undefined>): Int32Array {
  const wanted = new Set<number>()
  for (const joint of joints) for (let j = joint ?? -1; j >= 0 && !wanted.has(j); j = skeleton.parents[j]) wanted.add(j)
  return Int32Array.from([...wanted].sort((a, b) => a - b))
}

/** The joint that carries the whole body: the topmost above the given one. */
export function rootAbove(skeleton: Skeleton, joint: number): number {
  let j = joint
  while (skeleton.parents[j] >= 0) j = skeleton.parents[j]
  return j
}

/**
 * Forward kinematics of some joints only, for loops over many frames.
 * @param ways from {@link waysTo}
 * @param offset first joint of the frame in `translations` (3·J·N) and `rotations` (4·J·N)
 * @param out full buffers (3·J, 4·J); only the joints of `ways` are written
 */
export function poseOf(
  ways: Int32Array,
  parents: Int16Array,
  translations: Float32Array,
  rotations: Float32Array,
  offset: number,
  out: WorldPose,
): void {
  const P = out.positions
  const R = out.rotations
  for (let i = 0; i < ways.length; i++) {
    const j = ways[i]
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
