import type { Flat } from '../math'
import { bindPose, type Skeleton, type WorldPose } from '../skeleton'
import { blendSkin } from './blend'
import type { Skin } from './skin'

/**
 * How every joint moves what it holds: 3×4 matrices, row after row, from where it was bound to where it is.
 * @param out 12·J to write into
 * @returns 12·J
 */
export function jointMatrices(skeleton: Skeleton, posed: WorldPose, out?: Float32Array): Float32Array {
  const rest = bindPose(skeleton)
  const J = skeleton.names.length
  const m = out ?? new Float32Array(12 * J)
  const P = posed.positions,
    Q = posed.rotations,
    B = rest.positions,
    R = rest.rotations
  for (let j = 0; j < J; j++) {
    const r = 4 * j,
      p = 3 * j,
      o = 12 * j
    // the turn from where it was bound
    const ax = Q[r],
      ay = Q[r + 1],
      az = Q[r + 2],
      aw = Q[r + 3],
      bx = -R[r],
      by = -R[r + 1],
      bz = -R[r + 2],
      bw = R[r + 3]
    const x = aw * bx + ax * bw + ay * bz - az * by,
      y = aw * by - ax * bz + ay * bw + az * bx,
      z = aw * bz + ax * by - ay * bx + az * bw,
      w = aw * bw - ax * bx - ay * by - az * bz
    const px = B[p],
      py = B[p + 1],
      pz = B[p + 2]
    const a = 1 - 2 * (y * y + z * z),
      b = 2 * (x * y - w * z),
      c = 2 * (x * z + w * y),
      d = 2 * (x * y + w * z),
      e = 1 - 2 * (x * x + z * z),
      f = 2 * (y * z - w * x),
      g = 2 * (x * z - w * y),
      h = 2 * (y * z + w * x),
      i = 1 - 2 * (x * x + y * y)
    m[o] = a
    m[o + 1] = b
    m[o + 2] = c
    m[o + 3] = P[p] - (a * px + b * py + c * pz)
    m[o + 4] = d
    m[o + 5] = e
    m[o + 6] = f
    m[o + 7] = P[p + 1] - (d * px + e * py + f * pz)
    m[o + 8] = g
    m[o + 9] = h
    m[o + 10] = i
    m[o + 11] = P[p + 2] - (g * px + h * py + i * pz)
  }
  return m
}

/**
 * Linear blend skinning: vertex positions of the body in a pose.
 * @param positions 3·V as bound  @param posed world pose of the joints
 * @returns 3·V
 */
export function deform(positions: Float32Array, skeleton: Skeleton, skin: Skin, posed: WorldPose): Float32Array {
  return blendSkin(positions, skin, jointMatrices(skeleton, posed))
}

/**
 * Where one vertex goes.
 * @param out receives 3 numbers at `o`  @param m of {@link jointMatrices}
 */
export function deformOne(out: Flat, o: number, v: number, positions: Float32Array, skin: Skin, m: Float32Array): void {
  const k = skin.influences
  const x = positions[3 * v],
    y = positions[3 * v + 1],
    z = positions[3 * v + 2]
  let ox = 0,
    oy = 0,
    oz = 0
  for (let i = v * k; i < v * k + k; i++) {
    const w = skin.weights[i]
    if (w === 0) continue
    const a = 12 * skin.joints[i]
    ox += w * (m[a] * x + m[a + 1] * y + m[a + 2] * z + m[a + 3])
    oy += w * (m[a + 4] * x + m[a + 5] * y + m[a + 6] * z + m[a + 7])
    oz += w * (m[a + 8] * x + m[a + 9] * y + m[a + 10] * z + m[a + 11])
  }
  out[o] = ox
  out[o + 1] = oy
  out[o + 2] = oz
}
