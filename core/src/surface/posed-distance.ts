import { closestOnSurface, type ClosestOnSurface, type Mesh, type SurfacePoint } from '../mesh'
import type { Skeleton, WorldPose } from '../skeleton'
import { deformOne, jointMatrices, type Skin } from '../skin'

/** How far a place is from a posed surface, and the way out from there. */
export interface PosedDistance {
  /** Negative inside. */
  distance: number
  x: number
  y: number
  z: number
}

/** Rounds of going from place to nearest surface and back; a third changes a hundredth of a millimetre. */
const ROUNDS = 3

/**
 * The distance of places from the skinned surface of a body in any pose, without posing the surface: a place is taken back to
 * where the body was bound by the joint it is near, the nearest triangle is found there in a tree built once, and the place
 * is taken back again by how that triangle moves, until it stays (fixed-point search of the inverse of linear blend
 * skinning, as in Chen, Zheng, Black et al. 2021, "SNARF", section 3.2, here for nearest points).
 */
export interface PosedSurface {
  /** Poses the surface: world pose of the skeleton. */
  pose(posed: WorldPose): void
  /**
   * The signed distance of a place.
   * @param joints from which the search starts
   * @param within nothing farther is looked for: the distance is infinite then
   */
  distanceTo(out: PosedDistance, joints: readonly number[], x: number, y: number, z: number, within?: number): void
}

/** @param counts which joints hold the surface that is asked about; triangles any other joint moves most are left out */
export function posedSurface(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  counts: (joint: number) => boolean,
): PosedSurface {
  const { positions } = mesh
  const k = skin.influences
  const counted = new Uint8Array(positions.length / 3)
  for (let v = 0; v < counted.length; v++) counted[v] = counts(skin.joints[k * v]) ? 1 : 0
  const kept: number[] = []
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const a = mesh.indices[t],
      b = mesh.indices[t + 1],
      c = mesh.indices[t + 2]
    if (counted[a] && counted[b] && counted[c]) kept.push(a, b, c)
  }
  const indices = Uint32Array.from(kept)
  let tree: ClosestOnSurface | undefined
  const matrices = new Float32Array(12 * skeleton.names.length)
  const blended = new Float64Array(12)
  const posed = new Float64Array(9)

  /** The blended matrix of a place on the surface. */
  function blend(hit: SurfacePoint): void {
    blended.fill(0)
    const shares = [hit.a, hit.b, hit.c]
    for (let corner = 0; corner < 3; corner++) {
      const v = indices[3 * hit.triangle + corner]
      for (let i = v * k; i < v * k + k; i++) {
        const w = shares[corner] * skin.weights[i]
        if (w === 0) continue
        const m = 12 * skin.joints[i]
        for (let e = 0; e < 12; e++) blended[e] += w * matrices[m + e]
      }
    }
  }

  function corners(triangle: number): void {
    for (let corner = 0; corner < 3; corner++)
      deformOne(posed, 3 * corner, indices[3 * triangle + corner], positions, skin, matrices)
  }

  const back = new Float64Array(3)
  return {
    pose(world) {
      tree ??= closestOnSurface(positions, indices)
      jointMatrices(skeleton, world, matrices)
    },
    distanceTo(out, joints, x, y, z, within) {
      out.distance = Infinity
      if (indices.length === 0 || !tree) return
      // between two joints that bend the surface its own place may be found from neither: half of each is tried as well
      const starts = joints.length > 1 ? joints.length + 1 : joints.length
      for (let start = 0; start < starts; start++) {
        const a = 12 * joints[start < joints.length ? start : 0],
          b = 12 * joints[start < joints.length ? start : 1]
        for (let e = 0; e < 12; e++) blended[e] = (matrices[a + e] + matrices[b + e]) / 2
        let last = -1
        for (let round = 0; round < ROUNDS; round++) {
          undo(back, blended, x, y, z)
          const hit = tree.nearest(back[0], back[1], back[2], within)
          if (!hit) break
          corners(hit.triangle)
          const px = hit.a * posed[0] + hit.b * posed[3] + hit.c * posed[6],
            py = hit.a * posed[1] + hit.b * posed[4] + hit.c * posed[7],
            pz = hit.a * posed[2] + hit.b * posed[5] + hit.c * posed[8]
          const dx = x - px,
            dy = y - py,
            dz = z - pz
          const far = Math.sqrt(dx * dx + dy * dy + dz * dz)
          if (far < Math.abs(out.distance)) {
            const ux = posed[3] - posed[0],
              uy = posed[4] - posed[1],
              uz = posed[5] - posed[2],
              vx = posed[6] - posed[0],
              vy = posed[7] - posed[1],
              vz = posed[8] - posed[2]
            const nx = uy * vz - uz * vy,
              ny = uz * vx - ux * vz,
              nz = ux * vy - uy * vx
            const n = Math.sqrt(nx * nx + ny * ny + nz * nz) || 1
            // beside an edge a triangle's own side tells little
            const within = nx * dx + ny * dy + nz * dz < -0.25 * n * far
            out.distance = within ? -far : far
            // out of the surface: along the way there, or where it is on it, as the triangle faces
            const s = far > 1e-6 ? (within ? -1 : 1) / far : 0
            out.x = s === 0 ? nx / n : s * dx
            out.y = s === 0 ? ny / n : s * dy
            out.z = s === 0 ? nz / n : s * dz
          }
          if (hit.triangle === last) break
          last = hit.triangle
          blend(hit)
        }
      }
    },
  }
}

/** The place a 3×4 matrix takes to x, y, z. */
function undo(out: Float64Array, m: Float64Array, x: number, y: number, z: number): void {
  const a = m[0],
    b = m[1],
    c = m[2],
    d = m[4],
    e = m[5],
    f = m[6],
    g = m[8],
    h = m[9],
    i = m[10]
  const A = e * i - f * h,
    B = f * g - d * i,
    C = d * h - e * g
  const det = a * A + b * B + c * C || 1
  const px = x - m[3],
    py = y - m[7],
    pz = z - m[11]
  out[0] = (A * px + (c * h - b * i) * py + (b * f - c * e) * pz) / det
  out[1] = (B * px + (a * i - c * g) * py + (c * d - a * f) * pz) / det
  out[2] = (C * px + (b * g - a * h) * py + (a * e - b * d) * pz) / det
}
