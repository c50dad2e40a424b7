import { breather, distance, partOf, vec3At, type Vec3, type WorkOptions } from '../math'
import { forEachEdge, partAtCorner, pointGrid, weldByPosition, weldedIndices, type Mesh, type Weld } from '../mesh'

/** An open rim: the edges around a hole, in the order in which they are walked. */
export interface Rim {
  /** Vertices of the mesh around it, one a corner, each of the part it belongs to. */
  readonly corners: Uint32Array
  /** The part most of it belongs to. */
  readonly part: number
  readonly centre: Vec3
  /** Length around, in the mesh's unit. */
  readonly length: number
  /** Whether it is one closed run within one part, and no longer than can be filled. */
  readonly fillable: boolean
}

/** Longer rims are cuts and open ends, not holes; filling them would be modelling. */
export const LONGEST_RIM = 160

/** The open rims of a body; vertices at one place count as one. */
export async function findRims(
  mesh: Mesh,
  work: WorkOptions = {},
  weld: Weld = weldByPosition(mesh.positions),
): Promise<Rim[]> {
  const pulse = breather(work)
  const { indices } = mesh
  const n = weld.first.length
  // most bodies have none, and that is told much sooner
  let some = false
  await forEachEdge(n, weldedIndices(indices, weld), (_a, _b, forward, back) => (some ||= forward + back === 1), partOf(work, 0, 0.2)) // prettier-ignore
  if (!some) return []
  const edges = new Map<number, number>()
  const key = (a: number, b: number): number => weld.of[a] * n + weld.of[b]
  for (let i = 0; i < indices.length; i++) {
    if ((i & 65535) === 0) await pulse((0.4 * i) / indices.length)
    edges.set(key(indices[i], indices[i % 3 === 2 ? i - 2 : i + 1]), i)
  }
  // an edge that is not walked the other way by anybody is open
  const starts = new Map<number, number[]>()
  let open = 0
  for (const [k, i] of edges) {
    const a = Math.floor(k / n)
    const b = k % n
    if (a === b || edges.has(b * n + a)) continue
    const list = starts.get(a)
    if (list) list.push(i)
    else starts.set(a, [i])
    open++
  }
  await pulse(0.7)
  const rims: Rim[] = []
  const end = (i: number): number => indices[i % 3 === 2 ? i - 2 : i + 1]
  while (open > 0) {
    const [first, list] = starts.entries().next().value!
    const walk: number[] = []
    let at = first
    let closed = false
    let next: number[] | undefined = list
    while (next && next.length > 0) {
      const i = next.pop()!
      open--
      if (next.length === 0) starts.delete(at)
      walk.push(i)
      at = weld.of[end(i)]
      if (at === first) {
        closed = true
        break
      }
      next = starts.get(at)
    }
    if (starts.get(first)?.length === 0) starts.delete(first)
    rims.push(rimOf(mesh, walk, closed, weld))
  }
  await pulse(1)
  return rims.sort((a, b) => a.corners.length - b.corners.length)
}

function rimOf({ indices, positions, parts: all }: Mesh, walk: readonly number[], closed: boolean, weld: Weld): Rim {
  const parts = walk.map(i => partAtCorner(all, i))
  const part = parts[0]
  const corners = Uint32Array.from(walk, i => indices[i])
  const places = Array.from(corners, v => vec3At(positions, v))
  const centre = [0, 1, 2].map(k => places.reduce((s, p) => s + p[k], 0) / places.length) as Vec3
  const length = places.reduce((s, p, i) => s + distance(p, places[(i + 1) % places.length]), 0)
  const simple = new Set(Array.from(corners, v => weld.of[v])).size === corners.length
  const one = parts.every(p => p === part)
  return {
    corners,
    part,
    centre,
    length,
    fillable: closed && simple && one && corners.length >= 3 && corners.length <= LONGEST_RIM,
  }
}

/**
 * Triangles that close a rim with the least surface, turned as the faces around it.
 * Method: minimum area triangulation of a polygon in space, Barequet and Sharir 1995.
 * @returns corners of the mesh, 3 a triangle
 */
export function triangulateRim(positions: Float32Array, corners: Uint32Array): Uint32Array {
  // the faces around walk it one way, what closes it the other
  const loop = corners.slice().reverse()
  const n = loop.length
  const p = Array.from(loop, v => vec3At(positions, v))
  const area = (a: Vec3, b: Vec3, c: Vec3): number => {
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const w = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    return Math.hypot(u[1] * w[2] - u[2] * w[1], u[2] * w[0] - u[0] * w[2], u[0] * w[1] - u[1] * w[0]) / 2
  }
  const cost = new Float64Array(n * n)
  const split = new Int32Array(n * n).fill(-1)
  for (let gap = 2; gap < n; gap++)
    for (let i = 0; i + gap < n; i++) {
      const k = i + gap
      let best = Infinity
      for (let m = i + 1; m < k; m++) {
        const c = cost[i * n + m] + cost[m * n + k] + area(p[i], p[m], p[k])
        if (c >= best) continue
        best = c
        split[i * n + k] = m
      }
      cost[i * n + k] = best
    }
  const out: number[] = []
  const open: [number, number][] = [[0, n - 1]]
  while (open.length > 0) {
    const [i, k] = open.pop()!
    if (k - i < 2) continue
    const m = split[i * n + k]
    out.push(loop[i], loop[m], loop[k])
    open.push([i, m], [m, k])
  }
  return Uint32Array.from(out)
}

/** The body with some rims closed; vertices stay as they are. */
export function fillRims(mesh: Mesh, rims: readonly Rim[]): Mesh {
  const added = mesh.parts.map((): number[] => [])
  for (const rim of rims) if (rim.fillable) added[rim.part].push(...triangulateRim(mesh.positions, rim.corners))
  const total = mesh.indices.length + added.reduce((s, a) => s + a.length, 0)
  if (total === mesh.indices.length) return mesh
  const indices = new Uint32Array(total)
  let at = 0
  const parts = mesh.parts.map((p, i) => {
    const start = at
    indices.set(mesh.indices.subarray(p.start, p.start + p.count), at)
    at += p.count
    indices.set(added[i], at)
    at += added[i].length
    return { ...p, start, count: at - start }
  })
  return { ...mesh, indices, parts }
}

/** The body with vertices on open rims that are nearer to each other than a distance brought to one place. */
export function weldRims(mesh: Mesh, rims: readonly Rim[], within: number): Mesh {
  const weld = weldByPosition(mesh.positions)
  const welded = [...new Set(rims.flatMap(r => Array.from(r.corners, v => weld.of[v])))]
  const points = new Float32Array(3 * welded.length)
  welded.forEach((w, i) => points.set(vec3At(mesh.positions, weld.first[w]), 3 * i))
  const grid = pointGrid(points, Math.max(within, 1e-12))
  const to = new Int32Array(welded.length).fill(-1)
  for (let i = 0; i < welded.length; i++) {
    if (to[i] >= 0) continue
    const [x, y, z] = vec3At(points, i)
    grid.within(x, y, z, within, other => {
      if (to[other] < 0) to[other] = i
    })
  }
  const target = new Map(welded.map((w, i) => [w, to[i]]))
  const positions = mesh.positions.slice()
  let moved = 0
  for (let v = 0; v < positions.length / 3; v++) {
    const t = target.get(weld.of[v])
    if (t === undefined || welded[t] === weld.of[v]) continue
    positions.set(points.subarray(3 * t, 3 * t + 3), 3 * v)
    moved++
  }
  return moved === 0 ? mesh : { ...mesh, positions }
}
