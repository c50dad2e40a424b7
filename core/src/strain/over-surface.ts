import { breather, type WorkOptions } from '../math'
import { weldedIndices, adjacencyOf, type Mesh, type Weld } from '../mesh'

/** Values of triangles spread over the surface, for drawing and for finding neighbourhoods. */
export interface SurfaceSpread {
  /** V: the area-weighted mean of the triangles around each vertex and its neighbours. */
  toVertices(values: Float32Array): Float32Array
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
  return {
    toVertices(values) {
      const sums = new Float32Array(n)
      for (let f = 0; f < areas.length; f++) {
        const part = areas[f] * Math.min(MOST, values[f])
        sums[welded[3 * f]] += part
        sums[welded[3 * f + 1]] += part
        sums[welded[3 * f + 2]] += part
      }
      const out = new Float32Array(weld.of.length)
      const wide = new Float32Array(n)
      for (let w = 0; w < n; w++) {
        let sum = sums[w],
          area = around[w]
        for (let e = adjacency.starts[w]; e < adjacency.starts[w + 1]; e++) {
          sum += sums[adjacency.neighbours[e]]
          area += around[adjacency.neighbours[e]]
        }
        wide[w] = area > 0 ? sum / area : 0
      }
      for (let v = 0; v < out.length; v++) out[v] = wide[weld.of[v]]
      return out
    },
  }
}
