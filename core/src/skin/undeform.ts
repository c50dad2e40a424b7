import type { Skeleton, WorldPose } from '../skeleton'
import { jointMatrices } from './deform'
import type { Skin } from './skin'

/** Directions a blend shrinks to less than this share are not brought back in full: noise would grow without bound. */
const LEAST_STRETCH = 0.05

/**
 * The way back through linear blend skinning: how far each vertex must go as bound so that it is moved by `moves` in the pose.
 * A blend of turns is no turn and may have all but no inverse where skin collapses; there the least squares answer with a
 * small damping is taken (Levenberg 1944), which falls short and never flies off.
 * @param moves 3·V, metres in the world as posed
 * @returns 3·V, metres as bound; exactly nothing where nothing is moved
 */
export function undeformMoves(skeleton: Skeleton, skin: Skin, posed: WorldPose, moves: Float32Array): Float32Array {
  const m = jointMatrices(skeleton, posed)
  const out = new Float32Array(moves.length)
  const k = skin.influences
  const a = new Float64Array(9)
  const damping = LEAST_STRETCH * LEAST_STRETCH
  for (let v = 0; v < moves.length / 3; v++) {
    const x = moves[3 * v],
      y = moves[3 * v + 1],
      z = moves[3 * v + 2]
    if (x === 0 && y === 0 && z === 0) continue
    a.fill(0)
    for (let i = v * k; i < v * k + k; i++) {
      const w = skin.weights[i]
      if (w === 0) continue
      const j = 12 * skin.joints[i]
      for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) a[3 * r + c] += w * m[j + 4 * r + c]
    }
    // (AᵀA + λI) o = Aᵀ d
    const xx = a[0] * a[0] + a[3] * a[3] + a[6] * a[6] + damping,
      yy = a[1] * a[1] + a[4] * a[4] + a[7] * a[7] + damping,
      zz = a[2] * a[2] + a[5] * a[5] + a[8] * a[8] + damping,
      xy = a[0] * a[1] + a[3] * a[4] + a[6] * a[7],
      xz = a[0] * a[2] + a[3] * a[5] + a[6] * a[8],
      yz = a[1] * a[2] + a[4] * a[5] + a[7] * a[8]
    const bx = a[0] * x + a[3] * y + a[6] * z,
      by = a[1] * x + a[4] * y + a[7] * z,
      bz = a[2] * x + a[5] * y + a[8] * z
    const cxx = yy * zz - yz * yz,
      cxy = xz * yz - xy * zz,
      cxz = xy * yz - xz * yy
    const det = xx * cxx + xy * cxy + xz * cxz
    out[3 * v] = (cxx * bx + cxy * by + cxz * bz) / det
    out[3 * v + 1] = (cxy * bx + (xx * zz - xz * xz) * by + (xy * xz - xx * yz) * bz) / det
    out[3 * v + 2] = (cxz * bx + (xy * xz - xx * yz) * by + (xx * yy - xy * xy) * bz) / det
  }
  return out
}
