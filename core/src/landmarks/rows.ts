import type { Voxels } from '../mesh'

/** A connected patch of one horizontal row of cells. */
export interface Patch {
  readonly y: number
  readonly count: number
  /** Mean and extents across and in depth, metres. */
  readonly x: number
  readonly z: number
  readonly minX: number
  readonly maxX: number
  readonly minZ: number
  readonly maxZ: number
}

/** The patches of every horizontal row of a solid, from the ground up (8-neighbour connectivity). */
export function rowPatches(voxels: Voxels): Patch[][] {
  const [nx, ny, nz] = voxels.counts
  const { slot, size, origin } = voxels
  const seen = new Uint8Array(voxels.cells.length)
  const rows: Patch[][] = []
  const stack: number[] = []
  for (let j = 0; j < ny; j++) {
    const patches: Patch[] = []
    for (let k = 0; k < nz; k++)
      for (let i = 0; i < nx; i++) {
        const start = slot[i + nx * (j + ny * k)]
        if (start < 0 || seen[start]) continue
        seen[start] = 1
        stack.push(i, k)
        let count = 0,
          sx = 0,
          sz = 0,
          minX = Infinity,
          maxX = -Infinity,
          minZ = Infinity,
          maxZ = -Infinity
        while (stack.length > 0) {
          const c = stack.pop()!
          const a = stack.pop()!
          count++
          sx += a
          sz += c
          minX = Math.min(minX, a)
          maxX = Math.max(maxX, a)
          minZ = Math.min(minZ, c)
          maxZ = Math.max(maxZ, c)
          for (let dk = -1; dk <= 1; dk++)
            for (let di = -1; di <= 1; di++) {
              const b = a + di,
                d = c + dk
              if (b < 0 || d < 0 || b >= nx || d >= nz) continue
              const s = slot[b + nx * (j + ny * d)]
              if (s >= 0 && !seen[s]) {
                seen[s] = 1
                stack.push(b, d)
              }
            }
        }
        const X = (v: number): number => origin[0] + v * size
        const Z = (v: number): number => origin[2] + v * size
        patches.push({
          y: origin[1] + j * size,
          count,
          x: X(sx / count),
          z: Z(sz / count),
          minX: X(minX - 0.5),
          maxX: X(maxX + 0.5),
          minZ: Z(minZ - 0.5),
          maxZ: Z(maxZ + 0.5),
        })
      }
    rows.push(patches)
  }
  return rows
}
