import type { Vec3 } from '../math'
import { adjacencyOf, componentsOf, weldByPosition, weldedIndices, type Mesh } from '../mesh'

/** A piece of surface near to a sphere. */
export interface Ball {
  readonly centre: Vec3
  readonly radius: number
  /** How far its points lie off the sphere, as a share of the radius. */
  readonly off: number
  /** The component of the surface it is. */
  readonly component: number
}

/** Surfaces that hang together among some triangles, by vertex. */
export function componentsAmong(mesh: Mesh, corners: readonly number[]): { of: Int32Array; count: number } {
  const weld = weldByPosition(mesh.positions)
  const own = new Uint32Array(3 * corners.length)
  corners.forEach((f, i) => {
    for (let k = 0; k < 3; k++) own[3 * i + k] = mesh.indices[f + k]
  })
  const indices = weldedIndices(own, weld)
  const { labels, count } = componentsOf(adjacencyOf(weld.first.length, indices))
  const of = new Int32Array(mesh.positions.length / 3).fill(-1)
  for (const v of own) of[v] = labels[weld.of[v]]
  return { of, count }
}

/**
 * Balls among the surfaces of a head: eyeballs. The sphere that fits the points best is linear in its centre and the square of its
 * radius (Kåsa 1976).
 * @param least, most radius, metres
 */
export function ballsIn(
  mesh: Mesh,
  components: { of: Int32Array; count: number },
  least: number,
  most: number,
): Ball[] {
  const members = new Map<number, number[]>()
  components.of.forEach((c, v) => {
    if (c < 0) return
    const list = members.get(c)
    if (list) list.push(v)
    else members.set(c, [v])
  })
  const P = mesh.positions
  const out: Ball[] = []
  for (const [component, list] of members) {
    if (list.length < 12) continue
    const low: Vec3 = [Infinity, Infinity, Infinity]
    const high: Vec3 = [-Infinity, -Infinity, -Infinity]
    for (const v of list)
      for (let k = 0; k < 3; k++) {
        low[k] = Math.min(low[k], P[3 * v + k])
        high[k] = Math.max(high[k], P[3 * v + k])
      }
    const size = [0, 1, 2].map(k => high[k] - low[k])
    // half of a ball is as deep as half of its width
    if (Math.max(size[0], size[1]) > 2.6 * most || Math.min(size[0], size[1]) < 1.2 * least) continue
    const ball = sphereThrough(P, list, [(low[0] + high[0]) / 2, (low[1] + high[1]) / 2, (low[2] + high[2]) / 2])
    if (!ball || ball.radius < least || ball.radius > most || ball.off > 0.08) continue
    out.push({ ...ball, component })
  }
  return out
}

function sphereThrough(
  P: ArrayLike<number>,
  list: readonly number[],
  about: Vec3,
): { centre: Vec3; radius: number; off: number } | undefined {
  // x² + y² + z² = 2 c·p + d, by the normal equations of four unknowns
  const A = Array.from({ length: 4 }, () => new Float64Array(5))
  for (const v of list) {
    const p = [P[3 * v] - about[0], P[3 * v + 1] - about[1], P[3 * v + 2] - about[2], 1]
    const s = p[0] ** 2 + p[1] ** 2 + p[2] ** 2
    for (let i = 0; i < 4; i++) {
      for (let j = 0; j < 4; j++) A[i][j] += p[i] * p[j]
      A[i][4] += p[i] * s
    }
  }
  for (let i = 0; i < 4; i++) {
    let pivot = i
    for (let r = i + 1; r < 4; r++) if (Math.abs(A[r][i]) > Math.abs(A[pivot][i])) pivot = r
    ;[A[i], A[pivot]] = [A[pivot], A[i]]
    if (Math.abs(A[i][i]) < 1e-18) return undefined
    for (let r = 0; r < 4; r++) {
      if (r === i) continue
      const k = A[r][i] / A[i][i]
      for (let c = i; c < 5; c++) A[r][c] -= k * A[i][c]
    }
  }
  const [x, y, z, d] = [0, 1, 2, 3].map(i => A[i][4] / A[i][i])
  const c = [x / 2, y / 2, z / 2]
  const square = d + c[0] ** 2 + c[1] ** 2 + c[2] ** 2
  if (!(square > 0)) return undefined
  const radius = Math.sqrt(square)
  const centre: Vec3 = [about[0] + c[0], about[1] + c[1], about[2] + c[2]]
  let off = 0
  for (const v of list) off += Math.abs(Math.hypot(P[3 * v] - centre[0], P[3 * v + 1] - centre[1], P[3 * v + 2] - centre[2]) - radius) // prettier-ignore
  return { centre, radius, off: off / list.length / radius }
}
