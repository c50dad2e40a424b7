import type { ReadonlyVec3, Vec3 } from '../math'
import type { Voxels } from './voxelize'

/** Column, row and layer of a solid cell in the grid. */
export function cellCoordinates(voxels: Voxels, solid: number): [number, number, number] {
  const cell = voxels.cells[solid]
  const [nx, ny] = voxels.counts
  return [cell % nx, Math.floor(cell / nx) % ny, Math.floor(cell / (nx * ny))]
}

/** Centre of a solid cell. */
export function cellCentre(voxels: Voxels, solid: number): Vec3 {
  const [i, j, k] = cellCoordinates(voxels, solid)
  return [voxels.origin[0] + i * voxels.size, voxels.origin[1] + j * voxels.size, voxels.origin[2] + k * voxels.size]
}

/** The solid cell that holds a point, or -1. */
export function solidAt(voxels: Voxels, p: ReadonlyVec3): number {
  const { counts, origin, size } = voxels
  const i = Math.round((p[0] - origin[0]) / size)
  const j = Math.round((p[1] - origin[1]) / size)
  const k = Math.round((p[2] - origin[2]) / size)
  if (i < 0 || j < 0 || k < 0 || i >= counts[0] || j >= counts[1] || k >= counts[2]) return -1
  return voxels.slot[i + counts[0] * (j + counts[1] * k)]
}

/**
 * The solid cell nearest to a point within `reach` cells, or -1.
 * @param accept keeps the search to some cells only
 */
export function nearestSolid(
  voxels: Voxels,
  p: ReadonlyVec3,
  reach: number,
  accept?: (solid: number) => boolean,
): number {
  const { counts, origin, size, slot } = voxels
  const fx = (p[0] - origin[0]) / size
  const fy = (p[1] - origin[1]) / size
  const fz = (p[2] - origin[2]) / size
  const ci = Math.round(fx),
    cj = Math.round(fy),
    ck = Math.round(fz)
  let best = -1
  let bestD = Infinity
  for (let ring = 0; ring <= reach; ring++) {
    // a cell of this ring is at least ring - 0.5 away, so nothing nearer can follow
    if (best >= 0 && (ring - 0.5) * (ring - 0.5) > bestD) break
    for (let k = Math.max(0, ck - ring); k <= Math.min(counts[2] - 1, ck + ring); k++) {
      for (let j = Math.max(0, cj - ring); j <= Math.min(counts[1] - 1, cj + ring); j++) {
        const shell = Math.abs(k - ck) === ring || Math.abs(j - cj) === ring
        const step = shell ? 1 : Math.max(1, 2 * ring)
        for (let i = ci - ring; i <= ci + ring; i += step) {
          if (i < 0 || i >= counts[0]) continue
          const s = slot[i + counts[0] * (j + counts[1] * k)]
          if (s < 0) continue
          const d = (i - fx) ** 2 + (j - fy) ** 2 + (k - fz) ** 2
          if (d < bestD && (!accept || accept(s))) {
            bestD = d
            best = s
          }
        }
      }
    }
  }
  return best
}

/** The 26 neighbour steps of a grid: index offset, length in cells, and the step along x, y, z. */
export function neighbourSteps(
  counts: readonly [number, number, number],
): { offset: number; length: number; step: Vec3 }[] {
  const steps: { offset: number; length: number; step: Vec3 }[] = []
  for (let dk = -1; dk <= 1; dk++) {
    for (let dj = -1; dj <= 1; dj++) {
      for (let di = -1; di <= 1; di++) {
        if (di === 0 && dj === 0 && dk === 0) continue
        steps.push({
          offset: di + counts[0] * (dj + counts[1] * dk),
          length: Math.hypot(di, dj, dk),
          step: [di, dj, dk],
        })
      }
    }
  }
  return steps
}
