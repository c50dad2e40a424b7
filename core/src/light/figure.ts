import { breather, type WorkOptions } from '../math'
import { adjacencyOf, partsOfVertices, vertexNormals, type Mesh, type MeshPart } from '../mesh'
import { carriedSkin, carried, type SurfaceLineage } from './lineage'
import type { LightSurface } from './make'
import { quadNormals } from './fit'
import type { FlatSurface } from './flatten'
import { trianglesOf } from './quads'
import { pickRows, smoothWeights, withRows, type Skin } from '../skin'

/** A figure of a light body: its quads as pairs of triangles, and what is worn, held or hangs from it, thinned. */
export interface LightFigure {
  readonly mesh: Mesh
  readonly skin: Skin
  /** Of every vertex, to the body it was made from. */
  readonly lineage: SurfaceLineage
}

/** Rounds the weights of a light surface are evened out by: its rings are closer at joints than what they come from. */
const EVEN = 2

/** The skin of a light surface: that of the sculpt beneath, evened out a little. */
export async function lightSkin(
  surface: LightSurface,
  skin: Skin,
  joints: number,
  work: WorkOptions = {},
): Promise<Skin> {
  const { positions, quads, lineage } = surface
  const near = adjacencyOf(positions.length / 3, trianglesOf(positions, quads))
  return smoothWeights(carriedSkin(lineage, skin, joints), joints, near, EVEN, work)
}

/**
 * Puts a light surface and the rest of its body together. Quads take the name and colour of the piece most of them lie on; colours of vertices are carried over, and texture
 * coordinates are not: what is painted on the body does not lie on another surface.
 * @param rest triangles that are not flesh  @param thin whether a piece may be thinned
 */
export async function lightFigure(
  mesh: Mesh,
  skin: Skin,
  joints: number,
  surface: LightSurface,
  rest: Uint32Array,
  thin: (part: number) => boolean,
  baked?: { readonly flat: FlatSurface; readonly material: number },
  work: WorkOptions = {},
): Promise<LightFigure> {
  const pulse = breather(work)
  // where it is laid flat, vertices are split along the cuts
  const n = baked ? baked.flat.from.length : surface.positions.length / 3
  const of = (v: number): number => (baked ? baked.flat.from[v] : v)
  const partOfVertex = partsOfVertices(mesh)
  const { lineage } = surface
  const quads = baked ? baked.flat.quads : surface.quads
  const byPart = new Map<number, number[]>()
  for (let q = 0; q < quads.length / 4; q++) {
    const votes = [0, 1, 2, 3].map(c => {
      const v = 3 * of(quads[4 * q + c])
      const strongest = [0, 1, 2].reduce((a, b) => (lineage.shares[v + b] > lineage.shares[v + a] ? b : a))
      return partOfVertex[lineage.corners[v + strongest]]
    })
    const part = votes.reduce((a, b) => (votes.filter(x => x === b).length > votes.filter(x => x === a).length ? b : a))
    const list = byPart.get(part)
    if (list) list.push(q)
    else byPart.set(part, [q])
  }
  const sorted = [...byPart].sort((a, b) => a[0] - b[0])
  const parts: MeshPart[] = []
  const indices: number[] = []
  const places = new Float32Array(3 * n)
  for (let v = 0; v < n; v++) for (let c = 0; c < 3; c++) places[3 * v + c] = surface.positions[3 * of(v) + c]
  for (const [part, list] of sorted) {
    const own = trianglesOf(
      places,
      list.flatMap(q => [0, 1, 2, 3].map(c => quads[4 * q + c])),
    )
    const from = mesh.parts[part]
    parts.push({
      name: from?.name ?? 'body',
      color: baked ? [1, 1, 1] : (from?.color ?? [0.78, 0.74, 0.68]),
      ...(baked && { material: baked.material }),
      start: indices.length,
      count: own.length,
      paired: true,
    })
    for (const v of own) indices.push(v)
  }
  await pulse(0.4)
  // what is worn, held or hangs from it
  const share = Math.min(1, (2 * (quads.length / 4) * 3) / Math.max(1, mesh.indices.length - rest.length))
  const others = new Map<number, number[]>()
  for (let i = 0; i < rest.length; i += 3) {
    const part = partOfVertex[rest[i]]
    const list = others.get(part) ?? []
    list.push(rest[i], rest[i + 1], rest[i + 2])
    others.set(part, list)
  }
  const kept = new Map<number, number>()
  const corners: number[] = []
  const shares: number[] = []
  for (let v = 0; v < n; v++)
    for (let c = 0; c < 3; c++) {
      corners.push(lineage.corners[3 * of(v) + c])
      shares.push(lineage.shares[3 * of(v) + c])
    }
  for (const [part, list] of [...others].sort((a, b) => a[0] - b[0])) {
    await pulse(0.6)
    const fewer =
      thin(part) && share < 0.9 ? await thinned(mesh.positions, Uint32Array.from(list), share) : Uint32Array.from(list)
    const own = mesh.parts[part]
    const taken = parts.some(p => p.name === own.name)
    parts.push({ ...own, name: taken ? `${own.name} worn` : own.name, start: indices.length, count: fewer.length })
    for (const v of fewer) {
      let at = kept.get(v)
      if (at === undefined) {
        at = n + kept.size
        kept.set(v, at)
        corners.push(v, v, v)
        shares.push(1, 0, 0)
      }
      indices.push(at)
    }
  }
  const all: SurfaceLineage = { corners: Uint32Array.from(corners), shares: Float32Array.from(shares) }
  const positions = carried(all, mesh.positions, 3)
  positions.set(places)
  const index = Uint32Array.from(indices)
  const uvs =
    (kept.size > 0 && mesh.uvs) || baked
      ? mesh.uvs
        ? carried(all, mesh.uvs, 2)
        : new Float32Array((2 * positions.length) / 3)
      : undefined
  if (baked) uvs?.set(baked.flat.uvs)
  else uvs?.fill(0, 0, 2 * n)
  const normals = vertexNormals(positions, index)
  if (baked) {
    // the normals the images were baked against: smooth over the cuts
    const smooth = quadNormals(Float64Array.from(surface.positions), surface.quads)
    for (let v = 0; v < n; v++) for (let c = 0; c < 3; c++) normals[3 * v + c] = smooth[3 * of(v) + c]
  }
  return {
    mesh: {
      positions,
      indices: index,
      normals,
      ...(mesh.colors && { colors: withoutBaked(carried(all, mesh.colors, 3), baked ? n : 0) }),
      ...(uvs && { uvs }),
      ...(mesh.morphs && {
        morphs: mesh.morphs.map(m => ({ name: m.name, offsets: carried(all, m.offsets, 3) })),
      }),
      parts,
    },
    skin: withRows(
      carriedSkin(all, skin, joints),
      pickRows(
        await lightSkin(surface, skin, joints),
        Uint32Array.from({ length: n }, (_, v) => of(v)),
      ),
      Uint32Array.from({ length: n }, (_, v) => v),
    ),
    lineage: all,
  }
}

/** Fewer triangles over the same vertices, borders kept (Garland and Heckbert 1997, by the simplifier of the glTF compression library). */
async function thinned(positions: Float32Array, indices: Uint32Array, share: number): Promise<Uint32Array> {
  const { MeshoptSimplifier } = await import('meshoptimizer/simplifier')
  await MeshoptSimplifier.ready
  const wanted = Math.max(12, 3 * Math.floor((indices.length * share) / 3))
  return MeshoptSimplifier.simplify(indices, positions, 3, wanted, 0.02, ['LockBorder'])[0]
}

/** Colours of vertices are in the image where there is one. */
function withoutBaked(colors: Float32Array<ArrayBuffer>, upTo: number): Float32Array<ArrayBuffer> {
  colors.fill(1, 0, 3 * upTo)
  return colors
}
