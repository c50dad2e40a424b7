import { conjugate, multiply, quatAt, rotate, sub, vec3At } from '../math'
import { bindPose, type Skeleton, type WorldPose } from '../skeleton'
import type { Skin } from './skin'

/**
 * How every joint moves what it holds: 3×4 matrices, row after row, from where it was bound to where it is.
 * @returns 12·J
 */
export function jointMatrices(skeleton: Skeleton, posed: WorldPose): Float32Array {
  const rest = bindPose(skeleton)
  const J = skeleton.names.length
  const m = new Float32Array(12 * J)
  for (let j = 0; j < J; j++) {
    const q = multiply(quatAt(posed.rotations, j), conjugate(quatAt(rest.rotations, j)))
    const x = rotate(q, [1, 0, 0]),
      y = rotate(q, [0, 1, 0]),
      z = rotate(q, [0, 0, 1])
    const t = sub(vec3At(posed.positions, j), rotate(q, vec3At(rest.positions, j)))
    for (let r = 0; r < 3; r++) m.set([x[r], y[r], z[r], t[r]], 12 * j + 4 * r)
  }
  return m
}

/**
 * Linear blend skinning: vertex positions of the body in a pose.
 * @param positions 3·V as bound  @param posed world pose of the joints
 * @returns 3·V
 */
export function deform(positions: Float32Array, skeleton: Skeleton, skin: Skin, posed: WorldPose): Float32Array {
  const m = jointMatrices(skeleton, posed)
  const out = new Float32Array(positions.length)
  const k = skin.influences
  for (let v = 0; v < positions.length / 3; v++) {
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
    out[3 * v] = ox
    out[3 * v + 1] = oy
    out[3 * v + 2] = oz
  }
  return out
}
