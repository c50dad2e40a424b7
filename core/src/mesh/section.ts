import { add, cross, normalize, scale, sub, dot, type ReadonlyVec3, type Vec3, perpendicular } from '../math'
import type { Mesh } from './mesh'
import { weldByPosition, type Weld } from './weld'

/** A plane cut through a body, in the plane's own two coordinates about the asked point. */
export interface Section {
  /** Unit axes of the cut in space. */
  readonly u: Vec3
  readonly v: Vec3
  /** Every outline the plane cuts, metres from the asked point: u0 v0 u1 v1 … */
  readonly outlines: readonly { readonly points: Float32Array; readonly closed: boolean }[]
  /** The outline around the asked point, or the nearest one; -1 where the plane meets nothing. */
  readonly chosen: number
  /** Centre of area of the chosen outline, in space. */
  readonly centre: Vec3 | undefined
  /** Area of the chosen outline, square metres. */
  readonly area: number
}

/**
 * Cuts the surface by the plane through `point` with normal `direction`.
 * @param weld vertices at one place seen as one; computed when left out
 */
export function sectionOf(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  point: ReadonlyVec3,
  direction: ReadonlyVec3,
  weld?: Weld,
): Section {
  const { positions, indices } = mesh
  const of = (weld ?? weldByPosition(positions)).of
  const n = normalize(direction)
  // across the body first, so that the cut of a standing limb is seen from above with the front down
  const u = Math.abs(n[0]) < 0.9 ? normalize(sub([1, 0, 0], scale(n, n[0]))) : normalize(cross(perpendicular(n), n))
  const v = cross(n, u)
  const offset = dot(n, point)

  // each crossed triangle joins two crossed edges; an edge is a node of the outline graph
  const nodes = new Map<number, number>()
  const xs: number[] = []
  const ys: number[] = []
  const links: number[][] = []
  const vertices = positions.length / 3
  // once a vertex and not once a corner: most triangles lie wholly on one side
  const side = new Float64Array(vertices)
  for (let i = 0; i < vertices; i++)
    side[i] = n[0] * positions[3 * i] + n[1] * positions[3 * i + 1] + n[2] * positions[3 * i + 2] - offset
  const node = (a: number, b: number, da: number, db: number): number => {
    const wa = of[a],
      wb = of[b]
    const key = wa < wb ? wa * vertices + wb : wb * vertices + wa
    const known = nodes.get(key)
    if (known !== undefined) return known
    const t = da / (da - db)
    const p: Vec3 = [0, 1, 2].map(
      k => positions[3 * a + k] + (positions[3 * b + k] - positions[3 * a + k]) * t - point[k],
    ) as Vec3
    const id = xs.length
    nodes.set(key, id)
    xs.push(dot(p, u))
    ys.push(dot(p, v))
    links.push([])
    return id
  }
  for (let f = 0; f < indices.length; f += 3) {
    const a = indices[f],
      b = indices[f + 1],
      c = indices[f + 2]
    const da = side[a],
      db = side[b],
      dc = side[c]
    if (da > 0 === db > 0 && db > 0 === dc > 0) continue
    const ends: number[] = []
    if (da > 0 !== db > 0) ends.push(node(a, b, da, db))
    if (db > 0 !== dc > 0) ends.push(node(b, c, db, dc))
    if (dc > 0 !== da > 0) ends.push(node(c, a, dc, da))
    if (ends.length === 2 && ends[0] !== ends[1]) {
      links[ends[0]].push(ends[1])
      links[ends[1]].push(ends[0])
    }
  }
  const outlines = traceOutlines(links, xs, ys)
  let chosen = -1
  let best = Infinity
  let centre: Vec3 | undefined
  let area = 0
  outlines.forEach((outline, i) => {
    const m = outlineMoments(outline.points)
    const around = outline.closed && contains(outline.points, 0, 0)
    // the smallest outline that holds the point, else the nearest outline
    const score = around ? -1 / (1e-9 + m.area) : nearestSquared(outline.points)
    if (score < best) {
      best = score
      chosen = i
      area = m.area
      centre = add(point, add(scale(u, m.u), scale(v, m.v)))
    }
  })
  return { u, v, outlines, chosen, centre, area }
}

function traceOutlines(
  links: readonly number[][],
  xs: number[],
  ys: number[],
): { points: Float32Array; closed: boolean }[] {
  const used = new Uint8Array(links.length)
  const outlines: { points: Float32Array; closed: boolean }[] = []
  const trace = (start: number): void => {
    const points: number[] = []
    let at = start
    let closed = false
    for (;;) {
      used[at] = 1
      points.push(xs[at], ys[at])
      const next = links[at].find(l => !used[l])
      if (next === undefined) {
        closed = points.length > 4 && links[at].includes(start)
        break
      }
      at = next
    }
    if (points.length >= 6) outlines.push({ points: Float32Array.from(points), closed })
  }
  // open outlines from their ends first, so that they are not cut in two
  for (let i = 0; i < links.length; i++) if (!used[i] && links[i].length === 1) trace(i)
  for (let i = 0; i < links.length; i++) if (!used[i] && links[i].length > 1) trace(i)
  return outlines
}

/** Area and centre of area of a polygon; its mean point where the area vanishes. */
function outlineMoments(p: Float32Array): { area: number; u: number; v: number } {
  let area = 0,
    u = 0,
    v = 0,
    mu = 0,
    mv = 0
  const n = p.length / 2
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n
    const w = p[2 * i] * p[2 * j + 1] - p[2 * j] * p[2 * i + 1]
    area += w / 2
    u += (p[2 * i] + p[2 * j]) * w
    v += (p[2 * i + 1] + p[2 * j + 1]) * w
    mu += p[2 * i] / n
    mv += p[2 * i + 1] / n
  }
  return Math.abs(area) < 1e-12
    ? { area: 0, u: mu, v: mv }
    : { area: Math.abs(area), u: u / (6 * area), v: v / (6 * area) }
}

function contains(p: Float32Array, x: number, y: number): boolean {
  let inside = false
  const n = p.length / 2
  for (let i = 0, j = n - 1; i < n; j = i++) {
    const yi = p[2 * i + 1],
      yj = p[2 * j + 1]
    if (yi > y !== yj > y && x < ((p[2 * j] - p[2 * i]) * (y - yi)) / (yj - yi) + p[2 * i]) inside = !inside
  }
  return inside
}

function nearestSquared(p: Float32Array): number {
  let best = Infinity
  for (let i = 0; i < p.length; i += 2) best = Math.min(best, p[i] * p[i] + p[i + 1] * p[i + 1])
  return best
}
