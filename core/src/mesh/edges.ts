import { breather, type WorkOptions } from '../math'

export interface EdgeOptions extends WorkOptions {
  /** True for the faces that count; all when left out. */
  readonly takes?: ArrayLike<number>
}

/**
 * Visits every edge of an indexed surface once, in rising order of its ends, with how many faces run along it and how
 * many against it. Buckets by the lower end in place of one long sort.
 * @param indices 3·F
 */
export async function forEachEdge(
  vertices: number,
  indices: ArrayLike<number>,
  visit: (low: number, high: number, forward: number, back: number) => void,
  options: EdgeOptions = {},
): Promise<void> {
  const pulse = breather(options)
  const { takes } = options
  const faces = indices.length / 3
  const starts = new Uint32Array(vertices + 1)
  for (let f = 0; f < faces; f++) {
    if ((f & 0xffff) === 0) await pulse((0.2 * f) / faces)
    if (takes && !takes[f]) continue
    const a = indices[3 * f],
      b = indices[3 * f + 1],
      c = indices[3 * f + 2]
    starts[(a < b ? a : b) + 1]++
    starts[(b < c ? b : c) + 1]++
    starts[(c < a ? c : a) + 1]++
  }
  for (let v = 0; v < vertices; v++) starts[v + 1] += starts[v]
  // the upper end twice, and once more where the face runs against the edge
  const list = new Uint32Array(starts[vertices])
  const fill = starts.slice(0, vertices)
  const put = (a: number, b: number): void => {
    if (a < b) list[fill[a]++] = 2 * b
    else list[fill[b]++] = 2 * a + 1
  }
  for (let f = 0; f < faces; f++) {
    if ((f & 0xffff) === 0) await pulse(0.2 + (0.3 * f) / faces)
    if (takes && !takes[f]) continue
    const a = indices[3 * f],
      b = indices[3 * f + 1],
      c = indices[3 * f + 2]
    put(a, b)
    put(b, c)
    put(c, a)
  }
  for (let low = 0; low < vertices; low++) {
    if ((low & 0x3fff) === 0) await pulse(0.5 + (0.5 * low) / vertices)
    const from = starts[low],
      to = starts[low + 1]
    for (let i = from + 1; i < to; i++) {
      const n = list[i]
      let j = i - 1
      for (; j >= from && list[j] > n; j--) list[j + 1] = list[j]
      list[j + 1] = n
    }
    for (let i = from; i < to;) {
      const high = list[i] >>> 1
      let forward = 0,
        back = 0
      for (; i < to && list[i] >>> 1 === high; i++)
        if ((list[i] & 1) === 0) forward++
        else back++
      visit(low, high, forward, back)
    }
  }
}
