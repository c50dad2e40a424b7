/** Vertices at the same place, seen as one. */
export interface Weld {
  /** V: the welded vertex each vertex belongs to. */
  readonly of: Uint32Array
  /** W: one original vertex for each welded one. */
  readonly first: Uint32Array
}

/** Joins vertices whose positions are bit-for-bit the same, as exporters split them at seams. */
export function weldByPosition(positions: Float32Array): Weld {
  const vertices = positions.length / 3
  const bits = new Int32Array(positions.buffer, positions.byteOffset, positions.length)
  let size = 1
  while (size < 2 * vertices) size *= 2
  const table = new Int32Array(size).fill(-1)
  const of = new Uint32Array(vertices)
  const first = new Uint32Array(vertices)
  let welded = 0
  // -0 and +0 are the same place but not the same bits
  const key = (i: number): number => (bits[i] === -2147483648 ? 0 : bits[i])
  for (let v = 0; v < vertices; v++) {
    const x = key(3 * v),
      y = key(3 * v + 1),
      z = key(3 * v + 2)
    let h = Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
    let slot = (h ^ (h >>> 13)) & (size - 1)
    for (;;) {
      const w = table[slot]
      if (w < 0) {
        table[slot] = welded
        of[v] = welded
        first[welded++] = v
        break
      }
      const u = first[w]
      if (key(3 * u) === x && key(3 * u + 1) === y && key(3 * u + 2) === z) {
        of[v] = w
        break
      }
      slot = (slot + 1) & (size - 1)
    }
  }
  return { of, first: first.slice(0, welded) }
}

/** Which vertices lie at one place: those of welded vertex w are `members[starts[w] .. starts[w+1])`. */
export function weldMembers(weld: Weld): { starts: Uint32Array; members: Uint32Array } {
  const n = weld.first.length
  const starts = new Uint32Array(n + 1)
  for (let v = 0; v < weld.of.length; v++) starts[weld.of[v] + 1]++
  for (let w = 0; w < n; w++) starts[w + 1] += starts[w]
  const members = new Uint32Array(weld.of.length)
  const fill = starts.slice(0, n)
  for (let v = 0; v < weld.of.length; v++) members[fill[weld.of[v]]++] = v
  return { starts, members }
}

/** The same triangles over welded vertices. */
export function weldedIndices(indices: Uint32Array, weld: Weld): Uint32Array {
  const out = new Uint32Array(indices.length)
  for (let i = 0; i < out.length; i++) out[i] = weld.of[indices[i]]
  return out
}

/** 3·W places of welded vertices. */
export function weldedPositions(positions: Float32Array, weld: Weld): Float32Array {
  const out = new Float32Array(3 * weld.first.length)
  for (let w = 0; w < weld.first.length; w++) {
    const v = 3 * weld.first[w]
    out[3 * w] = positions[v]
    out[3 * w + 1] = positions[v + 1]
    out[3 * w + 2] = positions[v + 2]
  }
  return out
}
