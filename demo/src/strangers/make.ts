import { seededNormal, type Vec3 } from '@chiraxis/core/math'
import { meshOf, voxelize, type Mesh, type Voxels } from '@chiraxis/core/mesh'
import type { Grain } from './flesh'

/** Ways bodies are modelled. */
export const MAKE_KINDS = ['smooth pieces', 'low-poly', 'boxy', 'one surface', 'scan'] as const
export type MakeKind = (typeof MAKE_KINDS)[number]

export const GRAINS: Readonly<Record<MakeKind, Grain>> = {
  'smooth pieces': { sides: 20, square: 2.2, every: 1 },
  'low-poly': { sides: 6, square: 2, every: 2 },
  boxy: { sides: 12, square: 5, every: 1 },
  'one surface': { sides: 18, square: 2.2, every: 1 },
  scan: { sides: 18, square: 2.3, every: 1 },
}

/** Joins pieces into one skin as a scanner or a remesher leaves it; a scan has noise and holes too. */
export async function oneSurface(pieces: Mesh, scan: boolean, seed: number): Promise<Mesh> {
  const voxels = await voxelize(pieces.positions, pieces.indices, { cells: 190 })
  const mesh = skinOf(voxels)
  smooth(mesh, 4)
  if (!scan) return mesh
  const normal = seededNormal(seed)
  for (let i = 0; i < mesh.positions.length; i++) mesh.positions[i] += 0.22 * voxels.size * normal()
  // holes where the scanner did not see: between the legs, under the arms, anywhere
  const holes = Array.from({ length: 8 }, (_, h) => {
    const v = 3 * Math.floor((((seed * 7919 + h * 104729) % 9973) / 9973) * (mesh.positions.length / 3))
    return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]] as Vec3
  })
  const kept: number[] = []
  for (let f = 0; f < mesh.indices.length; f += 3) {
    const v = 3 * mesh.indices[f]
    const away = (p: Vec3): boolean =>
      Math.hypot(mesh.positions[v] - p[0], mesh.positions[v + 1] - p[1], mesh.positions[v + 2] - p[2]) > 3 * voxels.size
    if (holes.every(away)) kept.push(mesh.indices[f], mesh.indices[f + 1], mesh.indices[f + 2])
  }
  return meshOf(mesh.positions, Uint32Array.from(kept))
}

/** The faces between solid cells and empty ones, corners shared. */
function skinOf({ cells, slot, counts, origin, size }: Voxels): Mesh {
  const [nx, ny] = counts
  const strides = [1, nx, nx * ny]
  const corner = new Map<number, number>()
  const positions: number[] = []
  const indices: number[] = []
  const NX = nx + 1,
    NY = ny + 1
  const vertex = (i: number, j: number, k: number): number => {
    const key = i + NX * (j + NY * k)
    let v = corner.get(key)
    if (v === undefined) {
      v = positions.length / 3
      corner.set(key, v)
      positions.push(origin[0] + (i - 0.5) * size, origin[1] + (j - 0.5) * size, origin[2] + (k - 0.5) * size)
    }
    return v
  }
  for (const cell of cells) {
    const at = [cell % nx, Math.floor(cell / nx) % ny, Math.floor(cell / (nx * ny))]
    for (let axis = 0; axis < 3; axis++)
      for (const up of [0, 1]) {
        if (slot[cell + (up ? 1 : -1) * strides[axis]] >= 0) continue
        const u = (axis + 1) % 3,
          w = (axis + 2) % 3
        const quad = [
          [0, 0],
          [1, 0],
          [1, 1],
          [0, 1],
        ].map(([a, b]) => {
          const c = [...at]
          c[axis] += up
          c[u] += a
          c[w] += b
          return vertex(c[0], c[1], c[2])
        })
        if (!up) quad.reverse()
        indices.push(quad[0], quad[1], quad[2], quad[0], quad[2], quad[3])
      }
  }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices))
}

/** Rounds of averaging with neighbours, and back out a little, so that nothing shrinks (Taubin 1995). */
function smooth(mesh: Mesh, rounds: number): void {
  const n = mesh.positions.length / 3
  const p = mesh.positions
  for (let r = 0; r < 2 * rounds; r++) {
    const k = r % 2 === 0 ? 0.6 : -0.62
    const sum = new Float64Array(3 * n)
    const count = new Uint16Array(n)
    for (let f = 0; f < mesh.indices.length; f++) {
      const a = mesh.indices[f],
        b = mesh.indices[f % 3 === 2 ? f - 2 : f + 1]
      for (let c = 0; c < 3; c++) {
        sum[3 * a + c] += p[3 * b + c]
        sum[3 * b + c] += p[3 * a + c]
      }
      count[a]++
      count[b]++
    }
    for (let v = 0; v < n; v++)
      for (let c = 0; c < 3; c++) p[3 * v + c] += k * (sum[3 * v + c] / count[v] - p[3 * v + c])
  }
}
