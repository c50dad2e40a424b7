import type { Mesh } from './mesh'

/**
 * Fewer triangles over the same vertices, for pictures of many at once: edges are collapsed by what that changes (Garland and
 * Heckbert 1997, quadric error metrics), by the simplifier of the glTF compression library. Where seams keep it from getting there,
 * vertices are clustered instead.
 * @param triangles how many are wanted at the most
 * @returns the mesh's own index where it has no more
 */
export async function lightIndex(mesh: Pick<Mesh, 'positions' | 'indices'>, triangles: number): Promise<Uint32Array> {
  const { positions, indices } = mesh
  if (indices.length <= 3 * triangles) return indices
  const { MeshoptSimplifier } = await import('meshoptimizer/simplifier')
  await MeshoptSimplifier.ready
  const [fewer] = MeshoptSimplifier.simplify(indices, positions, 3, 3 * triangles, 0.05, ['Permissive', 'Prune'])
  if (fewer.length <= 1.3 * 3 * triangles) return fewer
  const [sloppy] = MeshoptSimplifier.simplifySloppy(indices, positions, 3, null, 3 * triangles, 0.1)
  return sloppy.length > 0 ? sloppy : fewer
}

/** An index of fewer triangles, one part after the other as in the mesh. */
export interface LightParts {
  readonly indices: Uint32Array
  /** Where each part's triangles begin and how many indices they have, two a part. */
  readonly ranges: Uint32Array
}

/** Parts as small as this are not made lighter. */
const SMALL_PART = 300

/**
 * Fewer triangles over the same vertices, each part of the mesh on its own, so that parts can still be left out.
 * @param triangles how many are wanted of the whole; small parts stay as they are
 */
export async function lightParts(
  mesh: Pick<Mesh, 'positions' | 'indices'> & {
    readonly parts: readonly Pick<Mesh['parts'][number], 'start' | 'count'>[]
  },
  triangles: number,
): Promise<LightParts> {
  const { positions } = mesh
  const localOf = new Int32Array(positions.length / 3).fill(-1)
  const share = Math.min(1, (3 * triangles) / Math.max(1, mesh.indices.length))
  const pieces: Uint32Array[] = []
  for (const { start, count } of mesh.parts) {
    const own = mesh.indices.subarray(start, start + count)
    const most = Math.max(SMALL_PART, Math.round((share * count) / 3))
    if (count <= 3 * most) {
      pieces.push(own)
      continue
    }
    // only the vertices of the part, so that many parts of a large mesh take no longer than one
    const members: number[] = []
    const local = own.map(v => {
      if (localOf[v] < 0) localOf[v] = members.push(v) - 1
      return localOf[v]
    })
    const places = new Float32Array(3 * members.length)
    members.forEach((v, i) => places.set(positions.subarray(3 * v, 3 * v + 3), 3 * i))
    const fewer = await lightIndex({ positions: places, indices: local }, most)
    pieces.push(fewer.map(i => members[i]))
    for (const v of members) localOf[v] = -1
  }
  const indices = new Uint32Array(pieces.reduce((sum, p) => sum + p.length, 0))
  const ranges = new Uint32Array(2 * pieces.length)
  let at = 0
  pieces.forEach((piece, i) => {
    indices.set(piece, at)
    ranges.set([at, piece.length], 2 * i)
    at += piece.length
  })
  return { indices, ranges }
}
