import { breather, type WorkOptions } from '../math'
import { weldedIndices, adjacencyOf, type Mesh, type Weld } from '../mesh'

/** Values of triangles spread over the surface, for drawing and for finding neighbourhoods. */
export interface SurfaceSpread {
  /** V: the area-weighted mean of the triangles around each vertex and its neighbours. */
  toVertices(values: Float32Array): Float32Array
  /**
   * The same by welded vertices, W; written over with the next call. Where only some triangles have a value, the others count as
   * nothing, and only the corners of those that have are told.
   */
  toWelded(values: Float32Array, triangles?: Uint32Array): Float32Array
  /** 3·F: the corners of the triangles as welded vertices. */
  readonly corners: Uint32Array
}

/** Largest value that counts, so that one spoiled sliver does not colour its surroundings. */
const MOST = 3

export async function overSurface(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  weld: Weld,
  areas: Float32Array,
  { signal }: WorkOptions = {},
): Promise<SurfaceSpread> {
  const pulse = breather({ signal })
  const welded = weldedIndices(mesh.indices, weld)
  const n = weld.first.length
  await pulse()
  const adjacency = adjacencyOf(n, welded)
  await pulse()
  const around = new Float32Array(n)
  for (let i = 0; i < welded.length; i++) around[welded[i]] += areas[Math.floor(i / 3)]
  const { starts, neighbours } = adjacency
  /** One through the area around a vertex and its neighbours. */
  const share = new Float32Array(n)
  for (let w = 0; w < n; w++) {
    let area = around[w]
    for (let e = starts[w]; e < starts[w + 1]; e++) area += around[neighbours[e]]
    share[w] = area > 0 ? 1 / area : 0
  }
  const sums = new Float32Array(n),
    wide = new Float32Array(n)
  const spread = (w: number): void => {
    let sum = sums[w]
    for (let e = starts[w], end = starts[w + 1]; e < end; e++) sum += sums[neighbours[e]]
    wide[w] = sum * share[w]
  }
  const seen = new Uint32Array(n)
  let call = 0
  function toWelded(values: Float32Array, triangles?: Uint32Array): Float32Array {
    sums.fill(0)
    const count = triangles ? triangles.length : areas.length
    for (let i = 0; i < count; i++) {
      const f = triangles ? triangles[i] : i
      const value = values[f]
      if (value === 0) continue
      const q = 3 * f
      const part = areas[f] * (value < MOST ? value : MOST)
      sums[welded[q]] += part
      sums[welded[q + 1]] += part
      sums[welded[q + 2]] += part
    }
    if (!triangles) {
      for (let w = 0; w < n; w++) spread(w)
      return wide
    }
    call++
    for (let i = 0; i < count; i++)
      for (let q = 3 * triangles[i], end = q + 3; q < end; q++) {
        const w = welded[q]
        if (seen[w] === call) continue
        seen[w] = call
        spread(w)
      }
    return wide
  }
  return {
    corners: welded,
    toWelded,
    toVertices(values) {
      const of = toWelded(values)
      const out = new Float32Array(weld.of.length)
      for (let v = 0; v < out.length; v++) out[v] = of[weld.of[v]]
      return out
    },
  }
}
