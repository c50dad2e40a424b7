/** Lookup among packed points by sorting them into cubes. */
export interface PointGrid {
  /** The nearest point within `reach` cubes, or -1. */
  nearest(x: number, y: number, z: number, reach: number): number
  /** Visits every point within a radius once, with its squared distance. */
  within(x: number, y: number, z: number, radius: number, visit: (point: number, squared: number) => void): void
}

/** Cubes of the box around the points that are looked up directly, at the most, beside eight a point. */
const DENSE_CELLS = 200_000
/** As far as cubes know how far off the next point is. */
const KNOWN_RINGS = 4

/**
 * Points sorted by the cube they lie in (counting sort into flat arrays). Where the box around them has few enough cubes each has
 * its own place and knows how many rings of cubes around it are empty; elsewhere cubes are hashed (after Teschner and others 2003,
 * "Optimized spatial hashing"), and cubes that share a hash only cost a few needless distances.
 * @param points 3·N  @param cell edge of a cube, about the distance between points
 */
export function pointGrid(points: Float32Array, cell: number): PointGrid {
  const n = points.length / 3
  const low = [Infinity, Infinity, Infinity],
    high = [-Infinity, -Infinity, -Infinity]
  for (let p = 0; p < points.length; p++) {
    const c = Math.floor(points[p] / cell)
    if (c < low[p % 3]) low[p % 3] = c
    if (c > high[p % 3]) high[p % 3] = c
  }
  // with a margin of cubes that know the way to the points
  const [i0, j0, k0] = low.map(c => c - KNOWN_RINGS)
  const [w, h, d] = low.map((c, a) => high[a] - c + 1 + 2 * KNOWN_RINGS)
  const dense = n > 0 && w * h * d <= Math.max(DENSE_CELLS, 8 * n)
  let size = 1024
  if (dense) size = w * h * d
  else while (size < 2 * n) size *= 2
  const mask = size - 1
  /** Where a cube's points begin; -1 outside the box. */
  const placeOf = dense
    ? (i: number, j: number, k: number): number => {
        const x = i - i0,
          y = j - j0,
          z = k - k0
        return x >= 0 && y >= 0 && z >= 0 && x < w && y < h && z < d ? (z * h + y) * w + x : -1
      }
    : (i: number, j: number, k: number): number => {
        const hash = Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)
        return (hash ^ (hash >>> 15)) & mask
      }
  const starts = new Uint32Array(size + 1)
  const bucket = new Uint32Array(n)
  for (let p = 0; p < n; p++) {
    const b = Math.max(
      0,
      placeOf(
        Math.floor(points[3 * p] / cell),
        Math.floor(points[3 * p + 1] / cell),
        Math.floor(points[3 * p + 2] / cell),
      ),
    )
    // what is nowhere is never nearest
    bucket[p] = b
    starts[b + 1]++
  }
  const empty = dense ? emptyRings(starts, w, h, d) : undefined
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
            const b = placeOf(i, j, k)
            if (b < 0) continue
            for (let e = starts[b]; e < starts[b + 1]; e++) {
              const p = 3 * list[e]
              const d = (points[p] - x) ** 2 + (points[p + 1] - y) ** 2 + (points[p + 2] - z) ** 2
              if (d > r2) continue
              // two cubes may share a hash: a point counts only where it lies
              if (
                dense ||
                (Math.floor(points[p] / cell) === i &&
                  Math.floor(points[p + 1] / cell) === j &&
                  Math.floor(points[p + 2] / cell) === k)
              )
                visit(list[e], d)
            }
          }
    },
    nearest(x, y, z, reach) {
      const ci = Math.floor(x / cell),
        cj = Math.floor(y / cell),
        ck = Math.floor(z / cell)
      let first = 0
      if (empty) {
        const own = placeOf(ci, cj, ck)
        // outside the margin nothing is within the rings that are known
        first = own < 0 ? KNOWN_RINGS + 1 : empty[own]
      }
      let best = -1
      let bestD = Infinity
      for (let ring = first; ring <= reach; ring++) {
        if (best >= 0 && bestD < ((ring - 1) * cell) ** 2) break
        for (let k = ck - ring; k <= ck + ring; k++) {
          // rows of cubes that begin farther off than the nearest so far hold nothing nearer
          const dz = k > ck ? k * cell - z : k < ck ? z - (k + 1) * cell : 0
          if (dz * dz > bestD) continue
          for (let j = cj - ring; j <= cj + ring; j++) {
            const dy = j > cj ? j * cell - y : j < cj ? y - (j + 1) * cell : 0
            if (dz * dz + dy * dy > bestD) continue
            const shell = k === ck - ring || k === ck + ring || j === cj - ring || j === cj + ring
            const step = shell || ring === 0 ? 1 : 2 * ring
            for (let i = ci - ring; i <= ci + ring; i += step) {
              const b = placeOf(i, j, k)
              if (b < 0) continue
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
      }
      return best
    },
  }
}

/**
 * How many rings of cubes around each cube hold nothing, counting itself, up to one more than are known: distances of the largest
 * coordinate, by one pass along each axis.
 * @param counts of the cube before it, as they are gathered for sorting
 */
function emptyRings(counts: Uint32Array, w: number, h: number, d: number): Uint8Array {
  const most = KNOWN_RINGS + 1
  const rings = new Uint8Array(w * h * d)
  for (let b = 0; b < rings.length; b++) rings[b] = counts[b + 1] > 0 ? 0 : most
  const line = new Uint8Array(Math.max(w, h, d))
  const along = (start: number, stride: number, length: number): void => {
    for (let a = 0; a < length; a++) line[a] = rings[start + a * stride]
    for (let a = 0; a < length; a++) {
      let least = line[a]
      for (let o = 1; o < least; o++) {
        // a cube so many steps along is as far off as the farther of the two
        if (a >= o) least = Math.min(least, Math.max(o, line[a - o]))
        if (a + o < length) least = Math.min(least, Math.max(o, line[a + o]))
      }
      rings[start + a * stride] = least
    }
  }
  for (let z = 0; z < d; z++) for (let y = 0; y < h; y++) along((z * h + y) * w, 1, w)
  for (let z = 0; z < d; z++) for (let x = 0; x < w; x++) along(z * h * w + x, w, h)
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) along(y * w + x, w * h, d)
  return rings
}
