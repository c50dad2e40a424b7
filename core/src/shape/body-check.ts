import { breather, partOf, type Vec3, type WorkOptions } from '../math'
import { readFaces } from './face-faults'
import { boundsOf, componentsOfFaces, forEachEdge, weldByPosition, weldedIndices, type Mesh, type Weld } from '../mesh'

/** What a body is made of and what is unclean about it. */
export interface BodyCheck {
  readonly vertices: number
  readonly triangles: number
  /** Connected pieces of surface. */
  readonly pieces: number
  /** Open rims: closed runs of edges with a face on one side only, and the longest one's number of edges. */
  readonly holes: number
  readonly openEdges: number
  /** Faces that look the other way than their neighbours, or whole pieces turned inside out. */
  readonly flipped: number
  /** Faces without area. */
  readonly degenerate: number
  /** Edges with more than two faces. */
  readonly crowded: number
  /** One place of each, to show: centre of a face or an edge. */
  readonly places: {
    readonly hole?: Vec3
    readonly flipped?: Vec3
    readonly degenerate?: Vec3
    readonly crowded?: Vec3
  }
}

/** Counts pieces, holes, flipped and degenerate faces of a body; vertices at one place count as one. */
export async function checkBody(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions = {},
  weld: Weld = weldByPosition(mesh.positions),
): Promise<BodyCheck> {
  const pulse = breather(work)
  const { positions } = mesh
  const faces = mesh.indices.length / 3
  const n = weld.first.length
  const index = weldedIndices(mesh.indices, weld)
  const at = (w: number): Vec3 => [0, 1, 2].map(k => positions[3 * weld.first[w] + k]) as Vec3
  const { min, max } = boundsOf(positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  const tiny = (1e-7 * size) ** 2
  const places: { -readonly [K in keyof BodyCheck['places']]: Vec3 } = {}

  let degenerate = 0
  const solid = new Uint8Array(faces)
  for (let f = 0; f < faces; f++) {
    if ((f & 16383) === 0) await pulse((0.2 * f) / faces)
    const a = index[3 * f],
      b = index[3 * f + 1],
      c = index[3 * f + 2]
    if (a !== b && b !== c && c !== a && areaSquared(at(a), at(b), at(c)) > tiny * tiny) {
      solid[f] = 1
      continue
    }
    degenerate++
    places.degenerate ??= at(a)
  }
  await pulse(0.2)
  let openEdges = 0,
    crowded = 0,
    against = 0
  const rim: number[] = []
  await forEachEdge(
    n,
    index,
    (a, b, forward, back) => {
      const total = forward + back
      if (total === 1) {
        openEdges++
        rim.push(a, b)
      } else if (total > 2) {
        crowded++
        places.crowded ??= at(a)
      } else if (forward !== 1) {
        against++
      }
    },
    { takes: solid, ...partOf(work, 0.2, 0.6) },
  )
  await pulse(0.6)
  const { holes, place } = countRims(rim)
  if (place >= 0) places.hole = at(place)
  await pulse(0.75)
  const { labels, count } = await componentsOfFaces(n, index, partOf(work, 0.75, 0.85))
  const used_ = new Uint8Array(count)
  const volume = new Float64Array(count)
  for (let f = 0; f < faces; f++) {
    if ((f & 16383) === 0) await pulse(0.85 + (0.15 * f) / faces)
    const label = labels[index[3 * f]]
    used_[label] = 1
    if (!solid[f]) continue
    const [a, b, c] = [at(index[3 * f]), at(index[3 * f + 1]), at(index[3 * f + 2])]
    volume[label] +=
      a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])
  }
  // a closed piece with negative volume is inside out; an open one does not tell
  const inside = openEdges === 0 && volume.some((v, label) => used_[label] > 0 && v < -1e-9 * size ** 3)
  let flipped = 0
  if (against > 0 || inside) {
    const { turned } = await readFaces(mesh, work, weld)
    turned.forEach((t, f) => {
      if (t >= 0) return
      flipped++
      places.flipped ??= at(index[3 * f])
    })
  }
  work.onProgress?.(1)
  return {
    vertices: positions.length / 3,
    triangles: faces,
    pieces: used_.reduce((s, u) => s + u, 0),
    holes,
    openEdges,
    flipped,
    degenerate,
    crowded,
    places,
  }
}

function areaSquared(a: Vec3, b: Vec3, c: Vec3): number {
  const ux = b[0] - a[0],
    uy = b[1] - a[1],
    uz = b[2] - a[2]
  const vx = c[0] - a[0],
    vy = c[1] - a[1],
    vz = c[2] - a[2]
  return (uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2
}

/** Connected runs of open edges. */
function countRims(rim: readonly number[]): { holes: number; place: number } {
  const parent = new Map<number, number>()
  const find = (i: number): number => {
    let r = i
    while (parent.get(r) !== r) r = parent.get(r)!
    while (parent.get(i) !== r) {
      const next = parent.get(i)!
      parent.set(i, r)
      i = next
    }
    return r
  }
  for (const v of rim) if (!parent.has(v)) parent.set(v, v)
  for (let i = 0; i < rim.length; i += 2) parent.set(find(rim[i]), find(rim[i + 1]))
  return { holes: new Set([...parent.keys()].map(find)).size, place: rim[0] ?? -1 }
}
