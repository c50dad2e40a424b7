/** Nearest-neighbour lookup among packed points by hashing into cubes. */
export interface PointGrid { nearest(x: number, y: number, z: number, reach: number): number }

/** @param cell edge of a cube, about the distance between points */
export function pointGrid(points: Float32Array, cell: number): PointGrid {
  const cubes = new Map<number, number[]>()
  const key = (i: number, j: number, k: number): number => (i + 4096) + 8192 * ((j + 4096) + 8192 * (k + 4096))
  const cube = (v: number): number => Math.max(-4095, Math.min(4095, Math.floor(v / cell)))
  for (let p = 0; p < points.length / 3; p++) {
    const id = key(cube(points[3 * p]), cube(points[3 * p + 1]), cube(points[3 * p + 2]))
    const list = cubes.get(id)
    if (list) list.push(p)
    else cubes.set(id, [p])
  }
  return {
    nearest(x, y, z, reach) {
      const ci = cube(x), cj = cube(y), ck = cube(z)
      let best = -1
      let bestD = Infinity
      for (let ring = 0; ring <= reach; ring++) {
        if (best >= 0 && bestD < ((ring - 1) * cell) ** 2) break
        for (let k = ck - ring; k <= ck + ring; k++) for (let j = cj - ring; j <= cj + ring; j++) for (let i = ci - ring; i <= ci + ring; i++) {
          if (Math.max(Math.abs(k - ck), Math.abs(j - cj), Math.abs(i - ci)) !== ring) continue
          for (const p of cubes.get(key(i, j, k)) ?? []) {
            const d = (points[3 * p] - x) ** 2 + (points[3 * p + 1] - y) ** 2 + (points[3 * p + 2] - z) ** 2
            if (d < bestD) {
              bestD = d
              best = p
            }
          }
        }
      }
      return best
    },
  }
}
