import {
  add,
  addScaled,
  breather,
  cross,
  dot,
  normalize,
  perpendicular,
  scale,
  symmetricEigen,
  vec3At,
  type ReadonlyVec3,
  type Vec3,
  type WorkOptions,
} from '../math'
import { boundsOf, pointGrid, type PointGrid } from '../mesh'

/** The plane a body mirrors about: points x with normal·x = offset. */
export interface MirrorPlane {
  readonly normal: Vec3
  readonly offset: number
  /** Mean distance from mirrored points to the body, as a share of its size: 0 is perfect. */
  readonly error: number
}

/** A body's points, ready to be mirrored about many planes. */
export interface MirrorSearch {
  /** The largest extent of the points. */
  readonly size: number
  /**
   * How badly a plane mirrors the body: mean distance of mirrored points, as a share of its size; of those no
   * farther from the plane than `near` of the size alone, where told.
   */
  errorOf(normal: ReadonlyVec3, offset: number, near?: number): number
  /** The plane near one that mirrors best, by matching mirrored points with their nearest partners. */
  settle(normal: Vec3, offset: number): MirrorPlane
  /** Planes at right angles to `up`, in even steps of the half turn, each through the middle of the points. */
  around(up: Vec3): Promise<MirrorPlane[]>
}

/**
 * Looks for planes a body mirrors about: every direction at right angles to an axis is tried coarsely, then single
 * ones are settled by matching mirrored points with their nearest partners (as in iterative closest points; Mitra,
 * Guibas and Pauly 2006 vote for such pairs instead).
 * @param points 3·N surface samples
 */
export function mirrorSearch(points: Float32Array, work: WorkOptions = {}): MirrorSearch {
  const pulse = breather(work)
  const { min, max } = boundsOf(points)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  const n = points.length / 3
  const grid = pointGrid(points, size * 0.02)
  const coarse = Math.max(1, Math.floor(n / 400))
  return {
    size,
    errorOf: (normal, offset, near) =>
      mirrorError(points, grid, normal, offset, size, Math.max(1, Math.floor(n / 1500)), near),
    settle: (normal, offset) => whole(points, grid, settle(points, grid, normal, offset, size), size),
    async around(up) {
      const u = perpendicular(up)
      const v = cross(up, u)
      const found: MirrorPlane[] = []
      for (let step = 0; step < 36; step++) {
        await pulse()
        const angle = (step * Math.PI) / 36
        const normal = normalize(add(scale(u, Math.cos(angle)), scale(v, Math.sin(angle))))
        // what is held on one side moves the mean, not so much the middle of all points
        const along = new Float64Array(Math.ceil(n / coarse))
        for (let i = 0, k = 0; i < n; i += coarse) along[k++] = dot(normal, vec3At(points, i))
        along.sort()
        const offset = along[along.length >> 1]
        found.push({ normal, offset, error: mirrorError(points, grid, normal, offset, size, coarse) })
      }
      return found
    },
  }
}

/** A plane of the file's own that mirrors as well as the settled one within the noise of the samples is the one meant. */
function whole(points: Float32Array, grid: PointGrid, found: MirrorPlane, size: number): MirrorPlane {
  const k = [0, 1, 2].reduce((a, b) => (Math.abs(found.normal[b]) > Math.abs(found.normal[a]) ? b : a))
  if (Math.abs(found.normal[k]) < Math.cos(0.05)) return found
  const normal: Vec3 = [0, 0, 0]
  normal[k] = Math.sign(found.normal[k])
  const error = mirrorError(points, grid, normal, 0, size, 1)
  const own = mirrorError(points, grid, found.normal, found.offset, size, 1)
  return error <= own * 1.03 + 2e-4 ? { normal, offset: 0, error } : found
}

/** How far off a mirrored point counts at most, as a share of size. */
const FARTHEST = 0.06

function mirrorError(
  points: Float32Array,
  grid: PointGrid,
  normal: ReadonlyVec3,
  offset: number,
  size: number,
  step: number,
  most = Infinity,
): number {
  let sum = 0
  let n = 0
  const [nx, ny, nz] = normal
  for (let i = 0; i < points.length; i += 3 * step) {
    const away = offset - (nx * points[i] + ny * points[i + 1] + nz * points[i + 2])
    if (Math.abs(away) > most * size) continue
    const x = points[i] + 2 * away * nx,
      y = points[i + 1] + 2 * away * ny,
      z = points[i + 2] + 2 * away * nz
    const near = 3 * grid.nearest(x, y, z, 3)
    n++
    if (near < 0) {
      sum += FARTHEST
      continue
    }
    const dx = points[near] - x,
      dy = points[near + 1] - y,
      dz = points[near + 2] - z
    sum += Math.min(FARTHEST, Math.sqrt(dx * dx + dy * dy + dz * dz) / size)
  }
  return sum / Math.max(1, n)
}

function settle(points: Float32Array, grid: PointGrid, normal: Vec3, offset: number, size: number): MirrorPlane {
  const n = points.length / 3
  const step = Math.max(1, Math.floor(n / 1500))
  for (let round = 0; round < 12; round++) {
    // the difference of a point and its partner lies along the normal; their middle lies on the plane
    const m = [0, 0, 0, 0, 0, 0]
    const middles: number[] = []
    const limit = size * (round < 4 ? 0.06 : 0.03)
    const pairs: Vec3[] = []
    for (let i = 0; i < n; i += step) {
      const p = vec3At(points, i)
      const away = offset - dot(normal, p)
      const q = addScaled(p, normal, 2 * away)
      const near = grid.nearest(q[0], q[1], q[2], 3)
      if (near < 0) continue
      const r = vec3At(points, near)
      if (Math.hypot(r[0] - q[0], r[1] - q[1], r[2] - q[2]) > limit) continue
      const d: Vec3 = [r[0] - p[0], r[1] - p[1], r[2] - p[2]]
      m[0] += d[0] * d[0]
      m[1] += d[0] * d[1]
      m[2] += d[0] * d[2]
      m[3] += d[1] * d[1]
      m[4] += d[1] * d[2]
      m[5] += d[2] * d[2]
      pairs.push([(r[0] + p[0]) / 2, (r[1] + p[1]) / 2, (r[2] + p[2]) / 2])
    }
    if (pairs.length < 20) break
    const next = symmetricEigen(m).vectors[0]
    const turned: Vec3 = dot(next, normal) < 0 ? [-next[0], -next[1], -next[2]] : next
    for (const p of pairs) middles.push(dot(turned, p))
    middles.sort((a, b) => a - b)
    const [was, before] = [normal, offset]
    normal = turned
    offset = middles[middles.length >> 1]
    // from a plane that stays where it is every further round comes to the same
    if (round >= 4 && before === offset && was.every((v, k) => v === normal[k])) break
  }
  return { normal, offset, error: mirrorError(points, grid, normal, offset, size, step) }
}
