/** Lookup among packed points by hashing into cubes. */
export interface PointGrid {
  /** The nearest point within `reach` cubes, or -1. */
  nearest(x: number, y: number, z: number, reach: number): number
  /** Visits every point within a radius once, with its squared distance. */
  within(x: number, y: number, z: number, radius: number, visit: (point: number, squared: number) => void): void
}

/**
 * Points sorted by the hash of the cube they lie in (counting sort into flat arrays, after Teschner and others
 * 2003, "Optimized spatial hashing"). Cubes that share a hash only cost a few needless distances.
 * @param points 3·N  @param cell edge of a cube, about the distance between points
 */
export function pointGrid(points: Float32Array, cell: number): PointGrid {
  const n = points.length / 3
  let size = 1024
  while (size < 2 * n) size *= 2
  const mask = size - 1
  const hash = (i: number, j: number, k: number): number => {
    const h = Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)
    return (h ^ (h >>> 15)) & mask
  }
  const starts = new Uint32Array(size + 1)
  const bucket = new Uint32Array(n)
  for (let p = 0; p < n; p++) {
    const b = hash(
      Math.floor(points[3 * p] / cell),
      Math.floor(points[3 * p + 1] / cell),
      Math.floor(points[3 * p + 2] / cell),
    )
    bucket[p] = b
    starts[b + 1]++
  }
  for (let b = 0; b < size; b++) starts[b + 1] += starts[b]
  const list = new Uint32Array(n)
  const fill = starts.slice(0, size)
  for (let p = 0; p < n; p++) list[fill[bucket[p]]++] = p
  return {
    within(x, y, z, radius, visit) {
      const r2 = radius * radius
      const i0 = Math.floor((x - radius) / cell),
        i1 = Math.floor((x + radius) / cell)
      const j0 = Math.floor((y - radius) / cell),
        j1 = Math.floor((y + radius) / cell)
      const k0 = Math.floor((z - radius) / cell),
        k1 = Math.floor((z + radius) / cell)
      for (let k = k0; k <= k1; k++)
        for (let j = j0; j <= j1; j++)
          for (let i = i0; i <= i1; i++) {
            const b = hash(i, j, k)
            for (let e = starts[b]; e < starts[b + 1]; e++) {
              const p = 3 * list[e]
              const d = (points[p] - x) ** 2 + (points[p + 1] - y) ** 2 + (points[p + 2] - z) ** 2
              if (d > r2) continue
              // two cubes may share a hash: a point counts only where it lies
              if (
                Math.floor(points[p] / cell) === i &&
                Math.floor(points[p + 1] / cell) === j &&
                Math.floor(points[p + 2] / cell) === k
              )
                visit(list[e], d)
            }
          }
    },
    nearest(x, y, z, reach) {
      const ci = Math.floor(x / cell),
        cj = Math.floor(y / cell),
        ck = Math.floor(z / cell)
      let best = -1
      let bestD = Infinity
      for (let ring = 0; ring <= reach; ring++) {
        if (best >= 0 && bestD < ((ring - 1) * cell) ** 2) break
        for (let k = ck - ring; k <= ck + ring; k++)
          for (let j = cj - ring; j <= cj + ring; j++) {
            const shell = k === ck - ring || k === ck + ring || j === cj - ring || j === cj + ring
            const step = shell || ring === 0 ? 1 : 2 * ring
            for (let i = ci - ring; i <= ci + ring; i += step) {
              const b = hash(i, j, k)
              for (let e = starts[b]; e < starts[b + 1]; e++) {
                const p = 3 * list[e]
                const d = (points[p] - x) ** 2 + (points[p + 1] - y) ** 2 + (points[p + 2] - z) ** 2
                if (d < bestD) {
                  bestD = d
                  best = list[e]
                }
              }
            }
          }
      }
      return best
    },
  }
}
