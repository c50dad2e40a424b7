import { addScaled, cross, dot, lerp, normalize, perpendicular, scale, sub, distance, type Vec3 } from '../math'
import { cellCentre, nearestSolid, neighbourSteps, type Voxels } from '../mesh'

/** A cut across a limb in solid cells. */
export interface LimbCut {
  readonly centre: Vec3
  readonly area: number
  readonly width: number
  readonly depth: number
}

/** Cells a cut has come by; all free between two cuts. */
let marked = new Uint8Array(0)

/** Cuts the solid across `direction` at `point`: the connected slab there, no farther out than `reach` metres. */
export function cutLimb(voxels: Voxels, point: Vec3, direction: Vec3, reach: number): LimbCut | undefined {
  const start = nearestSolid(voxels, point, 4)
  if (start < 0) return undefined
  const half = 0.75 * voxels.size
  const offsets = neighbourSteps(voxels.counts).map(s => s.offset)
  const { slot, cells, size, origin } = voxels
  const [nx, ny] = voxels.counts
  if (marked.length < cells.length) marked = new Uint8Array(cells.length)
  const seen = [start]
  marked[start] = 1
  const stack = [start]
  const [px, py, pz] = point
  const [ex, ey, ez] = direction
  let sx = 0,
    sy = 0,
    sz = 0
  let n = 0
  const u = perpendicular(direction)
  const v = cross(direction, u)
  let uu = 0,
    uv = 0,
    vv = 0,
    su = 0,
    sv = 0
  while (stack.length > 0) {
    const cell = stack.pop()!
    const at = cells[cell]
    const cx = origin[0] + (at % nx) * size,
      cy = origin[1] + (Math.floor(at / nx) % ny) * size,
      cz = origin[2] + Math.floor(at / (nx * ny)) * size
    const dx = cx - px,
      dy = cy - py,
      dz = cz - pz
    const along = dx * ex + dy * ey + dz * ez
    if (cell !== start) {
      const ox = dx - ex * along,
        oy = dy - ey * along,
        oz = dz - ez * along
      if (Math.abs(along) > half || Math.sqrt(ox * ox + oy * oy + oz * oz) > reach) continue
    }
    sx += cx
    sy += cy
    sz += cz
    const pu = dx * u[0] + dy * u[1] + dz * u[2],
      pv = dx * v[0] + dy * v[1] + dz * v[2]
    su += pu
    sv += pv
    uu += pu * pu
    uv += pu * pv
    vv += pv * pv
    n++
    for (const o of offsets) {
      const next = slot[at + o]
      if (next >= 0 && marked[next] === 0) {
        marked[next] = 1
        seen.push(next)
        stack.push(next)
      }
    }
  }
  for (const cell of seen) marked[cell] = 0
  const centre = scale([sx, sy, sz], 1 / n)
  const a = uu / n - (su / n) ** 2,
    b = uv / n - (su / n) * (sv / n),
    c = vv / n - (sv / n) ** 2
  const mean = (a + c) / 2
  const spread = Math.sqrt(Math.max(0, ((a - c) / 2) ** 2 + b * b))
  return {
    // the slab is 1.5 cells thick; its centre is told in the plane itself
    centre: addScaled(centre, direction, dot(sub(point, centre), direction)),
    area: (n * voxels.size ** 3) / (2 * half),
    width: 4 * Math.sqrt(mean + spread),
    depth: 4 * Math.sqrt(Math.max(0, mean - spread)),
  }
}

/** Mean cell of every step of distance within a set of cells: a first centreline, from far to near. */
export function levelCentres(
  voxels: Voxels,
  distanceField: Float32Array,
  cells: readonly number[],
  step: number,
): Vec3[] {
  const bins = new Map<number, { sum: Vec3; n: number }>()
  for (const cell of cells) {
    const bin = Math.floor(distanceField[cell] / step)
    const c = cellCentre(voxels, cell)
    const b = bins.get(bin) ?? { sum: [0, 0, 0], n: 0 }
    for (let k = 0; k < 3; k++) b.sum[k] += c[k]
    b.n++
    bins.set(bin, b)
  }
  return [...bins.entries()].sort((a, b) => b[0] - a[0]).map(([, b]) => scale(b.sum, 1 / b.n))
}

/** A polyline smoothed by repeated averaging of neighbours; its ends stay. */
export function smoothLine(line: readonly Vec3[], rounds: number): Vec3[] {
  let out = line.map(p => [...p] as Vec3)
  for (let r = 0; r < rounds; r++) {
    out = out.map((p, i) => (i === 0 || i === out.length - 1 ? p : lerp(p, lerp(out[i - 1], out[i + 1], 0.5), 0.5)))
  }
  return out
}

/** Points at even distances along a polyline, and the length of the whole. */
export function resampleLine(line: readonly Vec3[], count: number): Vec3[] {
  const lengths = [0]
  for (let i = 1; i < line.length; i++) lengths.push(lengths[i - 1] + distance(line[i - 1], line[i]))
  const total = lengths[lengths.length - 1]
  const out: Vec3[] = []
  let i = 0
  for (let s = 0; s < count; s++) {
    const target = (total * s) / (count - 1)
    while (i < line.length - 2 && lengths[i + 1] < target) i++
    const span = lengths[i + 1] - lengths[i]
    out.push(lerp(line[i], line[i + 1], span > 0 ? (target - lengths[i]) / span : 0))
  }
  return out
}

/** The point at a share of the way along a polyline of even steps. */
export function pointOn(line: readonly Vec3[], share: number): Vec3 {
  const at = share * (line.length - 1)
  const i = Math.max(0, Math.min(line.length - 2, Math.floor(at)))
  return lerp(line[i], line[i + 1], at - i)
}

export const lineLength = (line: readonly Vec3[]): number =>
  line.reduce((sum, p, i) => (i === 0 ? 0 : sum + distance(line[i - 1], p)), 0)

/** The straight line nearest to points: a point on it and its direction from the first to the last. */
export function fitLine(points: readonly Vec3[]): { point: Vec3; direction: Vec3 } {
  const mean = scale(
    points.reduce((s, p) => [s[0] + p[0], s[1] + p[1], s[2] + p[2]] as Vec3, [0, 0, 0] as Vec3),
    1 / points.length,
  )
  let d = normalize(sub(points[points.length - 1], points[0]))
  for (let round = 0; round < 8; round++) {
    let next: Vec3 = [0, 0, 0]
    for (const p of points) {
      const r = sub(p, mean)
      next = addScaled(next, r, dot(r, d))
    }
    d = normalize(next, d)
  }
  return { point: mean, direction: d }
}

/**
 * Where a limb bends: the split of its centreline into two straight runs with the least squared error.
 * @returns share along the line, the bend there in radians, and the deviation of the points, metres
 */
export function bendOf(
  line: readonly Vec3[],
  from: number,
  to: number,
): { share: number; angle: number; deviation: number } {
  const n = line.length
  let best = { share: 0.5, error: Infinity }
  for (let i = Math.ceil(from * (n - 1)); i <= Math.floor(to * (n - 1)); i++) {
    const error = spread(line.slice(0, i + 1)) + spread(line.slice(i))
    if (error < best.error) best = { share: i / (n - 1), error }
  }
  const split = Math.round(best.share * (n - 1))
  const a = fitLine(line.slice(0, split + 1)).direction
  const b = fitLine(line.slice(split)).direction
  return {
    share: best.share,
    angle: Math.acos(Math.min(1, Math.max(-1, dot(a, b)))),
    deviation: Math.sqrt(best.error / n),
  }
}

function spread(points: readonly Vec3[]): number {
  if (points.length < 3) return 0
  const { point, direction } = fitLine(points)
  return points.reduce((s, p) => {
    const r = sub(p, point)
    return s + dot(r, r) - dot(r, direction) ** 2
  }, 0)
}
