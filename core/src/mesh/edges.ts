/**
 * Visits every edge of an indexed surface once, in rising order of its ends, with how many faces run along it and how
 * many against it. Buckets by the lower end in place of one long sort.
 * @param indices 3·F
 * @param takes left out or true for the faces that count
 */
export function forEachEdge(
  vertices: number,
  indices: ArrayLike<number>,
  visit: (low: number, high: number, forward: number, back: number) => void,
  takes?: ArrayLike<number>,
): void {
  const starts = new Uint32Array(vertices + 1)
  const faces = indices.length / 3
  const each = (run: (a: number, b: number) => void): void => {
    for (let f = 0; f < faces; f++) {
      if (takes && !takes[f]) continue
      const a = indices[3 * f],
        b = indices[3 * f + 1],
        c = indices[3 * f + 2]
      run(a, b)
      run(b, c)
      run(c, a)
    }
  }
  each((a, b) => {
    starts[(a < b ? a : b) + 1]++
  })
  for (let v = 0; v < vertices; v++) starts[v + 1] += starts[v]
  // the upper end twice, and once more where the face runs against the edge
  const list = new Float64Array(starts[vertices])
  const fill = starts.slice(0, vertices)
  each((a, b) => {
    if (a < b) list[fill[a]++] = 2 * b
    else list[fill[b]++] = 2 * a + 1
  })
  for (let low = 0; low < vertices; low++) {
    const from = starts[low],
      to = starts[low + 1]
    for (let i = from + 1; i < to; i++) {
      const n = list[i]
      let j = i - 1
      for (; j >= from && list[j] > n; j--) list[j + 1] = list[j]
      list[j + 1] = n
    }
    for (let i = from; i < to;) {
      const high = Math.floor(list[i] / 2)
      let forward = 0,
        back = 0
      for (; i < to && Math.floor(list[i] / 2) === high; i++)
        if (list[i] % 2 === 0) forward++
        else back++
      visit(low, high, forward, back)
    }
  }
}
