/** A run of triangles that share a name and a plain material. */
export interface MeshPart {
  /** Its own among all parts of a body. */
  readonly name: string
  /** What its file calls it, where that is something else. */
  readonly aka?: readonly string[]
  /** First element in `Mesh.indices`, and how many; both multiples of three. */
  readonly start: number
  readonly count: number
  /** Linear base colour, 0..1. */
  readonly color: readonly [number, number, number]
  /** Place in the list of materials the body came with. */
  readonly material?: number
  /** Its triangles come in pairs, each of which is a quad: see `quadOfPair`. */
  readonly paired?: boolean
}

/** A shape the body can take: how far each vertex goes for it, 3·V metres. */
export interface Morph {
  readonly name: string
  readonly offsets: Float32Array
}

/** Triangles in shared, packed arrays. Metres, right-handed, Y up once straightened. */
export interface Mesh {
  /** 3·V */
  readonly positions: Float32Array
  /** 3·F, counter-clockwise seen from outside */
  readonly indices: Uint32Array
  /** 3·V, unit length */
  readonly normals?: Float32Array
  /** 3·V, linear red, green, blue 0..1 */
  readonly colors?: Float32Array
  /** 2·V, the first set of texture coordinates, as glTF counts them. */
  readonly uvs?: Float32Array
  readonly morphs?: readonly Morph[]
  readonly parts: readonly MeshPart[]
}

/** The part a corner of the index list belongs to. */
export function partAtCorner(parts: readonly MeshPart[], corner: number): number {
  let low = 0
  let high = parts.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (parts[middle].start <= corner) low = middle
    else high = middle - 1
  }
  return low
}

/** V: the part each vertex belongs to first, -1 where no triangle uses it. */
export function partsOfVertices({
  positions,
  indices,
  parts,
}: Pick<Mesh, 'positions' | 'indices' | 'parts'>): Int32Array {
  const out = new Int32Array(positions.length / 3).fill(-1)
  for (let i = 0; i < indices.length; i++) if (out[indices[i]] < 0) out[indices[i]] = partAtCorner(parts, i)
  return out
}

export const vertexCount = (mesh: Mesh): number => mesh.positions.length / 3
export const triangleCount = (mesh: Mesh): number => mesh.indices.length / 3

/** A mesh of one part from bare arrays. */
export function meshOf(positions: Float32Array, indices: Uint32Array, name = 'body'): Mesh {
  return { positions, indices, parts: [{ name, start: 0, count: indices.length, color: [0.78, 0.74, 0.68] }] }
}
