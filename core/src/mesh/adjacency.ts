import { breather, CORNERS_A_LOOK, type WorkOptions } from '../math'

/** Neighbours of every vertex over edges: those of v are `neighbours[starts[v] .. starts[v+1])`. */
export interface Adjacency {
  readonly starts: Uint32Array
  readonly neighbours: Uint32Array
}

/** Vertex neighbours of an indexed surface, each once, in rising order. */
export function adjacencyOf(vertices: number, indices: ArrayLike<number>): Adjacency {
  const counts = new Uint32Array(vertices + 1)
  for (let f = 0; f < indices.length; f += 3) {
    for (let k = 0; k < 3; k++) counts[indices[f + k] + 1] += 2
  }
  for (let v = 0; v < vertices; v++) counts[v + 1] += counts[v]
  const all = new Uint32Array(counts[vertices])
  const fill = counts.slice(0, vertices)
  for (let f = 0; f < indices.length; f += 3) {
    const a = indices[f],
      b = indices[f + 1],
      c = indices[f + 2]
    all[fill[a]++] = b
    all[fill[a]++] = c
    all[fill[b]++] = a
    all[fill[b]++] = c
    all[fill[c]++] = a
    all[fill[c]++] = b
  }
  const starts = new Uint32Array(vertices + 1)
  let out = 0
  for (let v = 0; v < vertices; v++) {
    const from = counts[v],
      to = counts[v + 1]
    // lists are short: an insertion sort beats a call of the library's
    for (let i = from + 1; i < to; i++) {
      const n = all[i]
      let j = i - 1
      for (; j >= from && all[j] > n; j--) all[j + 1] = all[j]
      all[j + 1] = n
    }
    starts[v] = out
    let last = -1
    // compacting in place is safe: `out` never passes the list being read
    for (let i = from; i < to; i++) {
      const n = all[i]
      if (n !== last && n !== v) all[out++] = n
      last = n
    }
  }
  starts[vertices] = out
  return { starts, neighbours: all.slice(0, out) }
}

/** Labels the connected components of an adjacency; returns the label of each vertex and their number. */
export function componentsOf(adjacency: Adjacency): { labels: Int32Array; count: number } {
  const n = adjacency.starts.length - 1
  const labels = new Int32Array(n).fill(-1)
  const stack: number[] = []
  let count = 0
  for (let seed = 0; seed < n; seed++) {
    if (labels[seed] >= 0) continue
    labels[seed] = count
    stack.push(seed)
    while (stack.length > 0) {
      const v = stack.pop()!
      for (let i = adjacency.starts[v]; i < adjacency.starts[v + 1]; i++) {
        const u = adjacency.neighbours[i]
        if (labels[u] < 0) {
          labels[u] = count
          stack.push(u)
        }
      }
    }
    count++
  }
  return { labels, count }
}

/**
 * The same from the faces alone, for where nobody needs the neighbours: vertices of one face belong together.
 * Method: disjoint sets with path halving, Tarjan and van Leeuwen 1984.
 * @param indices 3·F
 */
export async function componentsOfFaces(
  vertices: number,
  indices: ArrayLike<number>,
  work: WorkOptions = {},
): Promise<{ labels: Int32Array; count: number }> {
  const pulse = breather(work)
  const parent = new Int32Array(vertices)
  for (let v = 0; v < vertices; v++) parent[v] = v
  const find = (v: number): number => {
    while (parent[v] !== v) v = parent[v] = parent[parent[v]]
    return v
  }
  for (let i = 0; i < indices.length; i += 3) {
    if (i % CORNERS_A_LOOK === 0) await pulse(i / indices.length)
    const a = find(indices[i]),
      b = find(indices[i + 1])
    // the lower one leads, so that labels rise with the vertices
    if (a < b) parent[b] = a
    else parent[a] = b
    const c = find(indices[i + 2]),
      d = Math.min(a, b)
    if (c < d) parent[d] = c
    else parent[c] = d
  }
  await pulse(1)
  const labels = new Int32Array(vertices)
  let count = 0
  for (let v = 0; v < vertices; v++) labels[v] = parent[v] === v ? count++ : labels[find(v)]
  return { labels, count }
}
