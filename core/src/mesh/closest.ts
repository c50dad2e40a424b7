import type { Vec3 } from '../math'
import { adjacencyOf } from './adjacency'
import { boundsOf } from './bounds'
import { pointGrid } from './point-grid'

/** A point on a surface: a triangle and the shares of its corners. */
export interface SurfacePoint {
  readonly triangle: number
  readonly a: number
  readonly b: number
  readonly c: number
  readonly distance: number
}

/** Finds the point of a surface nearest to a place: through the nearest vertices and the triangles around them. */
export interface ClosestOnSurface {
  nearest(x: number, y: number, z: number): SurfacePoint | undefined
}

/** @param positions 3·V  @param indices 3·F of the surface */
export function closestOnSurface(positions: Float32Array, indices: ArrayLike<number>): ClosestOnSurface {
  const vertices = positions.length / 3
  // only vertices the surface uses take part
  const used = [...new Set(Array.from({ length: indices.length }, (_, i) => indices[i]))].sort((a, b) => a - b)
  const points = new Float32Array(3 * used.length)
  used.forEach((v, i) => points.set(positions.subarray(3 * v, 3 * v + 3), 3 * i))
  let sum = 0
  for (let f = 0; f < Math.min(indices.length, 3000); f += 3) {
    const a = 3 * indices[f],
      b = 3 * indices[f + 1]
    sum += Math.hypot(
      positions[a] - positions[b],
      positions[a + 1] - positions[b + 1],
      positions[a + 2] - positions[b + 2],
    )
  }
  const edge = Math.max(1e-9, sum / Math.max(1, Math.min(indices.length, 3000) / 3))
  const grid = pointGrid(points, 1.5 * edge)
  const adjacency = adjacencyOf(vertices, indices)
  const around: number[][] = Array.from({ length: vertices }, () => [])
  for (let f = 0; f < indices.length; f += 3) for (let k = 0; k < 3; k++) around[indices[f + k]].push(f / 3)
  const { min, max } = boundsOf(points)
  const nearestUsed = (x: number, y: number, z: number): number => {
    // from far outside, the way to the box of the surface is the same for all of it, nearly
    const clamp = (q: number, k: number): number => Math.min(max[k] + edge, Math.max(min[k] - edge, q))
    const near = grid.nearest(clamp(x, 0), clamp(y, 1), clamp(z, 2), 24)
    if (near >= 0) return near
    let best = -1,
      least = Infinity
    for (let i = 0; i < used.length; i++) {
      const d = (points[3 * i] - x) ** 2 + (points[3 * i + 1] - y) ** 2 + (points[3 * i + 2] - z) ** 2
      if (d >= least) continue
      least = d
      best = i
    }
    return best
  }
  return {
    nearest(x, y, z) {
      const seed = nearestUsed(x, y, z)
      if (seed < 0) return undefined
      const v = used[seed]
      let best: SurfacePoint | undefined
      const tried = new Set<number>()
      const look = (f: number): void => {
        if (tried.has(f)) return
        tried.add(f)
        const q = onTriangle(positions, indices[3 * f], indices[3 * f + 1], indices[3 * f + 2], [x, y, z])
        if (!best || q.distance < best.distance) best = { triangle: f, ...q }
      }
      for (const f of around[v]) look(f)
      // the nearest vertex need not belong to the nearest triangle: its neighbours' triangles are looked at too
      for (let e = adjacency.starts[v]; e < adjacency.starts[v + 1]; e++)
        for (const f of around[adjacency.neighbours[e]]) look(f)
      return best
    },
  }
}

/** The point of a triangle nearest to a place, as shares of its corners (Ericson 2005, "Real-time collision detection", 5.1.5). */
function onTriangle(
  p: Float32Array,
  ia: number,
  ib: number,
  ic: number,
  at: Vec3,
): { a: number; b: number; c: number; distance: number } {
  const A = 3 * ia,
    B = 3 * ib,
    C = 3 * ic
  const abx = p[B] - p[A],
    aby = p[B + 1] - p[A + 1],
    abz = p[B + 2] - p[A + 2]
  const acx = p[C] - p[A],
    acy = p[C + 1] - p[A + 1],
    acz = p[C + 2] - p[A + 2]
  const apx = at[0] - p[A],
    apy = at[1] - p[A + 1],
    apz = at[2] - p[A + 2]
  const d1 = abx * apx + aby * apy + abz * apz,
    d2 = acx * apx + acy * apy + acz * apz
  const shares = (b: number, c: number): { a: number; b: number; c: number; distance: number } => {
    const x = p[A] + b * abx + c * acx - at[0],
      y = p[A + 1] + b * aby + c * acy - at[1],
      z = p[A + 2] + b * abz + c * acz - at[2]
    return { a: 1 - b - c, b, c, distance: Math.hypot(x, y, z) }
  }
  if (d1 <= 0 && d2 <= 0) return shares(0, 0)
  const bpx = at[0] - p[B],
    bpy = at[1] - p[B + 1],
    bpz = at[2] - p[B + 2]
  const d3 = abx * bpx + aby * bpy + abz * bpz,
    d4 = acx * bpx + acy * bpy + acz * bpz
  if (d3 >= 0 && d4 <= d3) return shares(1, 0)
  const vc = d1 * d4 - d3 * d2
  if (vc <= 0 && d1 >= 0 && d3 <= 0) return shares(d1 / (d1 - d3), 0)
  const cpx = at[0] - p[C],
    cpy = at[1] - p[C + 1],
    cpz = at[2] - p[C + 2]
  const d5 = abx * cpx + aby * cpy + abz * cpz,
    d6 = acx * cpx + acy * cpy + acz * cpz
  if (d6 >= 0 && d5 <= d6) return shares(0, 1)
  const vb = d5 * d2 - d1 * d6
  if (vb <= 0 && d2 >= 0 && d6 <= 0) return shares(0, d2 / (d2 - d6))
  const va = d3 * d6 - d5 * d4
  if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
    const t = (d4 - d3) / (d4 - d3 + (d5 - d6))
    return shares(1 - t, t)
  }
  const k = va + vb + vc
  return k > 0 ? shares(vb / k, vc / k) : shares(0, 0)
}
