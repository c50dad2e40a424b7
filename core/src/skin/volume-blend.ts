import { conjugate, multiply, quatAt, rotate, vec3At, type Quat } from '../math'
import { bindPose, type Skeleton, type WorldPose } from '../skeleton'
import type { Skin } from './skin'

/**
 * Vertex positions in a pose by blending rigid motions as dual quaternions, which keeps the volume of twisted limbs
 * (Kavan, Collins, Žára and O'Sullivan 2008, "Geometric skinning with approximate dual quaternion blending").
 * For comparison only: files carry weights for linear blending.
 * @returns 3·V
 */
export function deformKeepingVolume(
  positions: Float32Array,
  skeleton: Skeleton,
  skin: Skin,
  posed: WorldPose,
): Float32Array {
  const bound = bindPose(skeleton)
  const J = skeleton.names.length
  const real = new Float64Array(4 * J),
    dual = new Float64Array(4 * J)
  for (let j = 0; j < J; j++) {
    const q = multiply(quatAt(posed.rotations, j), conjugate(quatAt(bound.rotations, j)))
    const back = rotate(q, vec3At(bound.positions, j))
    const at = vec3At(posed.positions, j)
    const t: Quat = [at[0] - back[0], at[1] - back[1], at[2] - back[2], 0]
    const d = multiply(t, q)
    real.set(q, 4 * j)
    for (let c = 0; c < 4; c++) dual[4 * j + c] = 0.5 * d[c]
  }
  const out = new Float32Array(positions.length)
  const k = skin.influences
  for (let v = 0; v < positions.length / 3; v++) {
    let rx = 0,
      ry = 0,
      rz = 0,
      rw = 0,
      dx = 0,
      dy = 0,
      dz = 0,
      dw = 0
    const pivot = 4 * skin.joints[v * k]
    for (let i = v * k; i < v * k + k; i++) {
      if (skin.weights[i] === 0) continue
      const a = 4 * skin.joints[i]
      // opposite quaternions are the same turn: all are taken on the side of the first
      const side =
        real[a] * real[pivot] +
          real[a + 1] * real[pivot + 1] +
          real[a + 2] * real[pivot + 2] +
          real[a + 3] * real[pivot + 3] <
        0
          ? -1
          : 1
      const w = side * skin.weights[i]
      rx += w * real[a]
      ry += w * real[a + 1]
      rz += w * real[a + 2]
      rw += w * real[a + 3]
      dx += w * dual[a]
      dy += w * dual[a + 1]
      dz += w * dual[a + 2]
      dw += w * dual[a + 3]
    }
    const n = Math.hypot(rx, ry, rz, rw) || 1
    const q: Quat = [rx / n, ry / n, rz / n, rw / n]
    const t = multiply([dx / n, dy / n, dz / n, dw / n], conjugate(q))
    const p = rotate(q, vec3At(positions, v))
    out[3 * v] = p[0] + 2 * t[0]
    out[3 * v + 1] = p[1] + 2 * t[1]
    out[3 * v + 2] = p[2] + 2 * t[2]
  }
  return out
}
