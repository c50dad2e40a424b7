import { breather, cross, distance, minOf, partOf as partWork, sub, vec3At, type Vec3, type WorkOptions } from '../math'
import { boundsOf, vertexNormals, weldByPosition, weldedIndices, type Mesh, type MeshPart, type Weld } from '../mesh'

/** What is wrong with faces: they look another way than those around, have no area, or are more than two at an edge. */
export type FaceFaultKind = 'turned' | 'empty' | 'crowded'

/** A patch of faces that is mended as one. */
export interface FaceFault {
  readonly kind: FaceFaultKind
  /** Faces of the mesh. */
  readonly faces: Uint32Array
  readonly centre: Vec3
  /** What would be turned or taken out; of crowded edges only faces that lie there twice. */
  readonly mends: Uint32Array
}

/** How the faces of a body lie: those without area, and those that must be turned so that all of a patch look alike. */
export interface FaceReading {
  /** 1 for a face with area. */
  readonly solid: Uint8Array
  /** -1 for a face to be turned. */
  readonly turned: Int8Array
  /** Faces at each edge, by `low * vertices + high` of the welded vertices. */
  readonly edges: ReadonlyMap<number, readonly number[]>
  readonly index: Uint32Array
  readonly vertices: number
}

/**
 * Reads how faces lie. Faces are followed over edges that two of them share; a closed patch must look outwards, an open one
 * the way most of its faces do.
 */
export async function readFaces(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions = {},
  weld: Weld = weldByPosition(mesh.positions),
): Promise<FaceReading> {
  const pulse = breather(work)
  const { positions, indices } = mesh
  const vertices = weld.first.length
  const faces = indices.length / 3
  const index = weldedIndices(indices, weld)
  const { min, max } = boundsOf(positions)
  const tiny = (1e-7 * (Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1)) ** 2
  const solid = new Uint8Array(faces)
  const edges = new Map<number, number[]>()
  for (let f = 0; f < faces; f++) {
    if ((f & 8191) === 0) await pulse((0.5 * f) / faces)
    const [a, b, c] = [index[3 * f], index[3 * f + 1], index[3 * f + 2]]
    if (a === b || b === c || c === a || !(areaOf(positions, indices, f) > tiny)) continue
    solid[f] = 1
    for (const k of [edgeKey(vertices, a, b), edgeKey(vertices, b, c), edgeKey(vertices, c, a)]) {
      const list = edges.get(k)
      if (list) list.push(f)
      else edges.set(k, [f])
    }
  }
  const turned = new Int8Array(faces)
  const forward = (f: number, a: number, b: number): boolean =>
    [0, 1, 2].some(k => index[3 * f + k] === a && index[3 * f + ((k + 1) % 3)] === b)
  let seen = 0
  for (let seed = 0; seed < faces; seed++) {
    if (!solid[seed] || turned[seed]) continue
    const patch = [seed]
    turned[seed] = 1
    let open = false
    for (let i = 0; i < patch.length; i++) {
      if ((seen++ & 8191) === 0) await pulse(0.5 + (0.5 * seen) / faces)
      const f = patch[i]
      for (let k = 0; k < 3; k++) {
        const a = index[3 * f + k],
          b = index[3 * f + ((k + 1) % 3)]
        const list = edges.get(edgeKey(vertices, a, b))!
        // an edge with more than two faces tells nothing about turning
        if (list.length !== 2) {
          open ||= list.length === 1
          continue
        }
        const g = list[0] === f ? list[1] : list[0]
        if (turned[g]) continue
        turned[g] = forward(g, a, b) ? (-turned[f] as 1 | -1) : turned[f]
        patch.push(g)
      }
    }
    let volume = 0,
      same = 0
    for (const f of patch) {
      volume += turned[f] * volumeOf(positions, indices, f)
      same += turned[f]
    }
    if (open ? same < 0 : volume < 0) for (const f of patch) turned[f] = -turned[f] as 1 | -1
  }
  return { solid, turned, edges, index, vertices }
}

const edgeKey = (vertices: number, a: number, b: number): number => (a < b ? a * vertices + b : b * vertices + a)

/** More of one kind than this are not stepped through one by one. */
export const MOST_FAULTS = 2000

/** The faults of a body's faces, the largest of each kind first; at most `MOST_FAULTS` of a kind. */
export async function findFaceFaults(
  mesh: Mesh,
  work: WorkOptions = {},
  weld: Weld = weldByPosition(mesh.positions),
): Promise<FaceFault[]> {
  const { solid, turned, edges, index, vertices } = await readFaces(mesh, partWork(work, 0, 0.8), weld)
  const pulse = breather(partWork(work, 0.8, 1))
  const faces = solid.length
  const fault = (kind: FaceFaultKind, list: readonly number[], mends: readonly number[]): FaceFault => ({
    kind,
    faces: Uint32Array.from(list),
    centre: centreOf(mesh, list),
    mends: Uint32Array.from(mends),
  })
  const across = (f: number): number[] =>
    [0, 1, 2].flatMap(k => {
      return edges.get(edgeKey(vertices, index[3 * f + k], index[3 * f + ((k + 1) % 3)])) ?? []
    })
  const flipped: FaceFault[] = []
  const empty: FaceFault[] = []
  const done = new Uint8Array(faces)
  for (let f = 0; f < faces; f++) {
    if ((f & 8191) === 0) await pulse((0.5 * f) / faces)
    if (!solid[f]) {
      if (empty.length < MOST_FAULTS) empty.push(fault('empty', [f], [f]))
    } else if (turned[f] < 0 && !done[f]) {
      const patch = [f]
      done[f] = 1
      for (const g of patch)
        for (const h of across(g))
          if (turned[h] < 0 && !done[h]) {
            done[h] = 1
            patch.push(h)
          }
      flipped.push(fault('turned', patch, patch))
    }
  }
  await pulse(0.6)
  const crowded = crowdedPatches(edges, vertices).map(list => fault('crowded', list, doubles(index, list)))
  await pulse(1)
  const largest = (a: FaceFault, b: FaceFault): number => b.faces.length - a.faces.length
  return [flipped.sort(largest), empty, crowded.sort(largest)].flatMap(list => list.slice(0, MOST_FAULTS))
}

/** Faces at edges with more than two, those of edges that touch together. */
function crowdedPatches(edges: FaceReading['edges'], vertices: number): number[][] {
  const byVertex = new Map<number, { faces: Set<number> }>()
  for (const [k, list] of edges) {
    if (list.length <= 2) continue
    const ends = [Math.floor(k / vertices), k % vertices]
    const [one, two] = ends.map(v => byVertex.get(v))
    const patch = one ?? two ?? { faces: new Set<number>() }
    for (const f of list) patch.faces.add(f)
    if (one && two && one !== two) {
      for (const f of two.faces) one.faces.add(f)
      for (const [v, p] of byVertex) if (p === two) byVertex.set(v, one)
    }
    for (const v of ends) byVertex.set(v, patch)
  }
  return [...new Set(byVertex.values())].map(p => [...p.faces].sort((a, b) => a - b))
}

/** Faces that lie where an earlier one lies and look the same way; the back of a sheet with two sides is none. */
function doubles(index: Uint32Array, faces: readonly number[]): number[] {
  const seen = new Set<string>()
  return faces.filter(f => {
    const corners = [index[3 * f], index[3 * f + 1], index[3 * f + 2]]
    const first = corners.indexOf(minOf(corners))
    const name = [0, 1, 2].map(k => corners[(first + k) % 3]).join()
    if (seen.has(name)) return true
    seen.add(name)
    return false
  })
}

function centreOf({ positions, indices }: Mesh, faces: readonly number[]): Vec3 {
  const sum = [0, 0, 0]
  for (const f of faces)
    for (let c = 0; c < 3; c++)
      for (let k = 0; k < 3; k++) sum[k] += positions[3 * indices[3 * f + c] + k] / (3 * faces.length)
  // the face nearest to the middle: the middle of a patch around a limb lies within it
  const middle = sum as unknown as Vec3
  if (faces.length < 3) return middle
  let best = middle
  let least = Infinity
  for (const f of faces) {
    const at = [0, 1, 2].map(
      k => [0, 1, 2].reduce((s, c) => s + positions[3 * indices[3 * f + c] + k], 0) / 3,
    ) as unknown as Vec3
    const d = distance(at, middle)
    if (d >= least) continue
    least = d
    best = at
  }
  return best
}

const areaOf = (positions: Float32Array, indices: Uint32Array, f: number): number => {
  const [a, b, c] = [0, 1, 2].map(k => vec3At(positions, indices[3 * f + k]))
  return Math.hypot(...cross(sub(b, a), sub(c, a)))
}

/** Six times the signed volume between a face and the origin. */
const volumeOf = (positions: Float32Array, indices: Uint32Array, f: number): number => {
  const [a, b, c] = [3 * indices[3 * f], 3 * indices[3 * f + 1], 3 * indices[3 * f + 2]]
  return (
    positions[a] * (positions[b + 1] * positions[c + 2] - positions[b + 2] * positions[c + 1]) +
    positions[a + 1] * (positions[b + 2] * positions[c] - positions[b] * positions[c + 2]) +
    positions[a + 2] * (positions[b] * positions[c + 1] - positions[b + 1] * positions[c])
  )
}

/**
 * The body with some faces turned and some taken out; vertices stay where they are. Normals of turned faces that look the
 * other way then are turned too, all others stay.
 */
export function mendFaces(mesh: Mesh, out: (face: number) => boolean, turn: (face: number) => boolean): Mesh {
  const indices: number[] = []
  const touched = new Set<number>()
  let changed = false
  const parts: MeshPart[] = mesh.parts.map(part => {
    const start = indices.length
    for (let f = part.start / 3; f < (part.start + part.count) / 3; f++) {
      if (out(f)) {
        changed = true
        continue
      }
      const [a, b, c] = [mesh.indices[3 * f], mesh.indices[3 * f + 1], mesh.indices[3 * f + 2]]
      const against = turn(f)
      if (against) {
        indices.push(a, c, b)
        for (const v of [a, b, c]) touched.add(v)
      } else indices.push(a, b, c)
    }
    return { ...part, start, count: indices.length - start }
  })
  if (!changed && touched.size === 0) return mesh
  const mended = { ...mesh, indices: Uint32Array.from(indices), parts }
  return { ...mended, normals: mesh.normals && touched.size > 0 ? turnedNormals(mended, touched) : mesh.normals }
}

function turnedNormals(mesh: Mesh, touched: ReadonlySet<number>): Float32Array {
  const normals = mesh.normals!.slice()
  const surface = vertexNormals(mesh.positions, mesh.indices)
  for (const v of touched) {
    const dot = [0, 1, 2].reduce((s, k) => s + normals[3 * v + k] * surface[3 * v + k], 0)
    if (dot < 0) for (let k = 0; k < 3; k++) normals[3 * v + k] *= -1
  }
  return normals
}
