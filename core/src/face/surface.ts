import FlatQueue from 'flatqueue'
import { distance, type Vec3 } from '../math'
import { adjacencyOf, weldByPosition, weldedIndices, weldedPositions, type Mesh } from '../mesh'

/** The skin of a face as a net of places, those at one place joined. */
export interface FaceSkin {
  /** Places. */
  readonly count: number
  /** V: place of each vertex, -1 for what is no skin of the head. */
  readonly placeOf: Int32Array
  /** 3·count, metres */
  readonly positions: Float32Array
  readonly starts: Uint32Array
  readonly neighbours: Uint32Array
}

/** The surface that hangs together with a point of a head, among some triangles. @param corners first corners of triangles */
export function faceSkin(mesh: Mesh, corners: readonly number[], near: Vec3): FaceSkin {
  const weld = weldByPosition(mesh.positions)
  const own = new Uint32Array(3 * corners.length)
  corners.forEach((f, i) => {
    for (let k = 0; k < 3; k++) own[3 * i + k] = mesh.indices[f + k]
  })
  const all = weldedPositions(mesh.positions, weld)
  const adjacency = adjacencyOf(weld.first.length, weldedIndices(own, weld))
  let start = 0
  let least = Infinity
  for (const v of own) {
    const w = weld.of[v]
    const d = Math.hypot(all[3 * w] - near[0], all[3 * w + 1] - near[1], all[3 * w + 2] - near[2])
    if (d < least) [least, start] = [d, w]
  }
  const placeOfWelded = new Int32Array(weld.first.length).fill(-1)
  const order = [start]
  placeOfWelded[start] = 0
  for (let i = 0; i < order.length; i++)
    for (let e = adjacency.starts[order[i]]; e < adjacency.starts[order[i] + 1]; e++) {
      const n = adjacency.neighbours[e]
      if (placeOfWelded[n] >= 0) continue
      placeOfWelded[n] = order.length
      order.push(n)
    }
  const positions = new Float32Array(3 * order.length)
  const starts = new Uint32Array(order.length + 1)
  const neighbours: number[] = []
  order.forEach((w, i) => {
    for (let k = 0; k < 3; k++) positions[3 * i + k] = all[3 * w + k]
    for (let e = adjacency.starts[w]; e < adjacency.starts[w + 1]; e++)
      neighbours.push(placeOfWelded[adjacency.neighbours[e]])
    starts[i + 1] = neighbours.length
  })
  return {
    count: order.length,
    placeOf: Int32Array.from(weld.of, w => placeOfWelded[w]),
    positions,
    starts,
    neighbours: Uint32Array.from(neighbours),
  }
}

export const placeAt = ({ positions }: FaceSkin, i: number): Vec3 => [
  positions[3 * i],
  positions[3 * i + 1],
  positions[3 * i + 2],
]

/** The place nearest to a point. */
export function nearestPlace(skin: FaceSkin, p: Vec3): number {
  let best = 0
  let least = Infinity
  for (let i = 0; i < skin.count; i++) {
    const d = distance(placeAt(skin, i), p)
    if (d < least) [least, best] = [d, i]
  }
  return best
}

/** The place that is seen from ahead where a point is; the nearest one where nothing is. */
export function placeAhead(skin: FaceSkin, p: Vec3, within: number): number {
  let best = -1
  let most = -Infinity
  for (let i = 0; i < skin.count; i++) {
    const [x, y, z] = placeAt(skin, i)
    const away = Math.hypot(x - p[0], y - p[1])
    // farther ahead, and near to the point
    if (away < within && z - 3 * away > most) [most, best] = [z - 3 * away, i]
  }
  return best < 0 ? nearestPlace(skin, p) : best
}

/** Way over the skin from the nearest of some places to every other, as far as it is looked for (Dijkstra 1959). */
export function waysFrom(skin: FaceSkin, seeds: Iterable<number>, farthest: number): Float32Array {
  const { positions: P, starts, neighbours } = skin
  const out = new Float32Array(skin.count).fill(Infinity)
  const queue = new FlatQueue<number>()
  for (const s of seeds) {
    out[s] = 0
    queue.push(s, 0)
  }
  while (queue.length > 0) {
    const d = queue.peekValue()!
    const i = queue.pop()!
    if (d > out[i]) continue
    if (d > farthest) break
    for (let e = starts[i]; e < starts[i + 1]; e++) {
      const n = neighbours[e]
      const way = d + Math.hypot(P[3 * i] - P[3 * n], P[3 * i + 1] - P[3 * n + 1], P[3 * i + 2] - P[3 * n + 2])
      if (way >= out[n]) continue
      out[n] = way
      queue.push(n, way)
    }
  }
  return out
}

/** Evens out values over the skin, `size` a place. @param pinned places that keep theirs */
export function smoothed(
  skin: FaceSkin,
  values: Float32Array,
  size: number,
  rounds: number,
  pinned?: Uint8Array,
): Float32Array {
  const { starts, neighbours } = skin
  let now = values
  for (let r = 0; r < rounds; r++) {
    const next = new Float32Array(now.length)
    for (let i = 0; i < skin.count; i++) {
      const n = pinned?.[i] ? 0 : starts[i + 1] - starts[i]
      for (let k = 0; k < size; k++) {
        let sum = 0
        for (let e = starts[i]; e < starts[i + 1]; e++) sum += now[size * neighbours[e] + k]
        next[size * i + k] = n > 0 ? 0.4 * now[size * i + k] + (0.6 * sum) / n : now[size * i + k]
      }
    }
    now = next
  }
  return now
}
