import { fieldDistance, nearField, type BlobGroup } from './field'

/** Grid lines along x, y, z; they may lie denser where detail is wanted. */
export type Lines = readonly [Float64Array, Float64Array, Float64Array]

/** Rising grid lines from `min` to `max` whose spacing at t is `spacing(t)`. */
export function gridLines(min: number, max: number, spacing: (t: number) => number): Float64Array {
  const lines: number[] = []
  for (let t = min; t < max; t += spacing(t)) lines.push(t)
  lines.push(lines[lines.length - 1] + spacing(max))
  return Float64Array.from(lines)
}

/** Blocks of cells that are read at once, the largest and the smallest. */
const LARGEST = 16,
  SMALLEST = 4

/** A field read at the crossings of grid lines, where its surface may be; elsewhere only whether that is inside. */
interface Sampled {
  readonly lines: Lines
  readonly values: Float32Array
  /** The part of the field that matters in a block of cells. */
  near(i: number, j: number, k: number): readonly BlobGroup[]
}

function sampleField(groups: readonly BlobGroup[], lines: Lines): Sampled {
  const [lx, ly, lz] = lines
  const nx = lx.length,
    ny = ly.length,
    nz = lz.length
  const values = new Float32Array(nx * ny * nz).fill(1)
  const fields = new Map<number, readonly BlobGroup[]>()
  const small = [nx, ny, nz].map(n => Math.ceil(n / SMALLEST))
  const blockOf = (i: number, j: number, k: number): number =>
    Math.floor(i / SMALLEST) + small[0] * (Math.floor(j / SMALLEST) + small[1] * Math.floor(k / SMALLEST))
  /** Reads a block of so many cells a side: halved again and again where the surface may be in it. */
  function read(field: readonly BlobGroup[], i0: number, j0: number, k0: number, size: number): void {
    if (i0 >= nx || j0 >= ny || k0 >= nz) return
    const i1 = Math.min(nx, i0 + size),
      j1 = Math.min(ny, j0 + size),
      k1 = Math.min(nz, k0 + size)
    const x0 = lx[i0],
      y0 = ly[j0],
      z0 = lz[k0]
    const x1 = lx[Math.min(nx - 1, i1)],
      y1 = ly[Math.min(ny - 1, j1)],
      z1 = lz[Math.min(nz - 1, k1)]
    const cx = (x0 + x1) / 2,
      cy = (y0 + y1) / 2,
      cz = (z0 + z1) / 2
    const reach = Math.hypot(x1 - x0, y1 - y0, z1 - z0) / 2
    const near = nearField(field, cx, cy, cz, reach)
    const centre = fieldDistance(near, cx, cy, cz)
    // ellipsoid distances are bounds, so the margin is generous
    if (Math.abs(centre) > 2 * reach + 0.02) {
      if (centre < 0)
        for (let k = k0; k < k1; k++)
          for (let j = j0; j < j1; j++) values.fill(-1, i0 + nx * (j + ny * k), i1 + nx * (j + ny * k))
      return
    }
    if (size > SMALLEST) {
      const half = size / 2
      for (let c = 0; c < 8; c++)
        read(near, i0 + half * (c & 1), j0 + half * ((c >> 1) & 1), k0 + half * (c >> 2), half)
      return
    }
    fields.set(blockOf(i0, j0, k0), near)
    for (let k = k0; k < k1; k++)
      for (let j = j0; j < j1; j++)
        for (let i = i0; i < i1; i++) values[i + nx * (j + ny * k)] = fieldDistance(near, lx[i], ly[j], lz[k])
  }
  for (let k = 0; k < nz; k += LARGEST)
    for (let j = 0; j < ny; j += LARGEST) for (let i = 0; i < nx; i += LARGEST) read(groups, i, j, k, LARGEST)
  return { lines, values, near: (i, j, k) => fields.get(blockOf(i, j, k)) ?? groups }
}

/** How many vertices the surface of a field has on these lines, see {@link surfaceNets}. */
export function countVertices(groups: readonly BlobGroup[], lines: Lines): number {
  const { values } = sampleField(groups, lines)
  const [nx, ny, nz] = lines.map(l => l.length)
  let count = 0
  for (let k = 0; k < nz - 1; k++)
    for (let j = 0; j < ny - 1; j++)
      for (let i = 0; i < nx - 1; i++) {
        const mask = maskAt(values, i + nx * (j + ny * k), nx, nx * ny)
        if (mask !== 0 && mask !== 255) count++
      }
  return count
}

/** Which corners of a cell are inside, as bits. @param dy, dz steps to the next line */
function maskAt(values: Float32Array, at: number, dy: number, dz: number): number {
  return (
    (values[at] < 0 ? 1 : 0) |
    (values[at + 1] < 0 ? 2 : 0) |
    (values[at + dy] < 0 ? 4 : 0) |
    (values[at + dy + 1] < 0 ? 8 : 0) |
    (values[at + dz] < 0 ? 16 : 0) |
    (values[at + dz + 1] < 0 ? 32 : 0) |
    (values[at + dz + dy] < 0 ? 64 : 0) |
    (values[at + dz + dy + 1] < 0 ? 128 : 0)
  )
}

/**
 * A closed surface around the zero set of a field, one vertex per crossed cell pulled onto the surface
 * by Newton steps. Method: naive surface nets, Gibson 1998, "Constrained elastic surface nets".
 */
export function surfaceNets(
  groups: readonly BlobGroup[],
  lines: Lines,
): { positions: Float32Array; indices: Uint32Array; normals: Float32Array } {
  const { values, near: nearAt } = sampleField(groups, lines)
  const [lx, ly, lz] = lines
  const nx = lx.length,
    ny = ly.length,
    nz = lz.length
  const at = (i: number, j: number, k: number): number => values[i + nx * (j + ny * k)]
  const vertexOf = new Int32Array(nx * ny * nz).fill(-1)
  const positions: number[] = []
  const normals: number[] = []
  for (let k = 0; k < nz - 1; k++)
    for (let j = 0; j < ny - 1; j++)
      for (let i = 0; i < nx - 1; i++) {
        const mask = maskAt(values, i + nx * (j + ny * k), nx, nx * ny)
        if (mask === 0 || mask === 255) continue
        let sx = 0,
          sy = 0,
          sz = 0,
          n = 0
        for (const [a, b] of CUBE_EDGES) {
          if (((mask >> a) & 1) === ((mask >> b) & 1)) continue
          const va = at(i + (a & 1), j + ((a >> 1) & 1), k + (a >> 2))
          const vb = at(i + (b & 1), j + ((b >> 1) & 1), k + (b >> 2))
          const t = va / (va - vb)
          const put = (l: Float64Array, o: number, sa: number, sb: number): number =>
            l[o + sa] + (l[o + sb] - l[o + sa]) * t
          sx += put(lx, i, a & 1, b & 1)
          sy += put(ly, j, (a >> 1) & 1, (b >> 1) & 1)
          sz += put(lz, k, a >> 2, b >> 2)
          n++
        }
        const p = pullOnto(nearAt(i, j, k), sx / n, sy / n, sz / n, lx[i + 1] - lx[i])
        vertexOf[i + nx * (j + ny * k)] = positions.length / 3
        positions.push(p[0], p[1], p[2])
        normals.push(p[3], p[4], p[5])
      }
  const indices: number[] = []
  const quad = (a: number, b: number, c: number, d: number, flip: boolean): void => {
    const d2 = (p: number, q: number): number =>
      (positions[3 * p] - positions[3 * q]) ** 2 +
      (positions[3 * p + 1] - positions[3 * q + 1]) ** 2 +
      (positions[3 * p + 2] - positions[3 * q + 2]) ** 2
    const tris = d2(a, c) <= d2(b, d) ? [a, b, c, a, c, d] : [a, b, d, b, c, d]
    if (flip) for (let t = 0; t < 6; t += 3) indices.push(tris[t], tris[t + 2], tris[t + 1])
    else indices.push(...tris)
  }
  const v = (i: number, j: number, k: number): number => vertexOf[i + nx * (j + ny * k)]
  for (let k = 1; k < nz - 1; k++)
    for (let j = 1; j < ny - 1; j++)
      for (let i = 1; i < nx - 1; i++) {
        const inside = at(i, j, k) < 0
        if (inside !== at(i + 1, j, k) < 0)
          quad(v(i, j - 1, k - 1), v(i, j, k - 1), v(i, j, k), v(i, j - 1, k), !inside)
        if (inside !== at(i, j + 1, k) < 0)
          quad(v(i - 1, j, k - 1), v(i - 1, j, k), v(i, j, k), v(i, j, k - 1), !inside)
        if (inside !== at(i, j, k + 1) < 0)
          quad(v(i - 1, j - 1, k), v(i, j - 1, k), v(i, j, k), v(i - 1, j, k), !inside)
      }
  return {
    positions: Float32Array.from(positions),
    indices: Uint32Array.from(indices),
    normals: Float32Array.from(normals),
  }
}

const CUBE_EDGES = [
  [0, 1],
  [2, 3],
  [4, 5],
  [6, 7],
  [0, 2],
  [1, 3],
  [4, 6],
  [5, 7],
  [0, 4],
  [1, 5],
  [2, 6],
  [3, 7],
] as const

/** Newton steps along the gradient; returns the point and the unit gradient. */
function pullOnto(
  field: readonly BlobGroup[],
  x: number,
  y: number,
  z: number,
  cell: number,
): [number, number, number, number, number, number] {
  const e = 2e-4
  let gx = 0,
    gy = 1,
    gz = 0
  for (let step = 0; step < 2; step++) {
    const d = fieldDistance(field, x, y, z)
    gx = fieldDistance(field, x + e, y, z) - d
    gy = fieldDistance(field, x, y + e, z) - d
    gz = fieldDistance(field, x, y, z + e) - d
    const l = Math.hypot(gx, gy, gz) || 1
    gx /= l
    gy /= l
    gz /= l
    const move = Math.max(-0.5 * cell, Math.min(0.5 * cell, d * (e / l)))
    x -= gx * move
    y -= gy * move
    z -= gz * move
  }
  return [x, y, z, gx, gy, gz]
}
