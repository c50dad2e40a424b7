/**
 * Triangles of quads, each parted along its shorter diagonal; those of quad q are 2q and 2q + 1. The first and the last corner of a pair
 * are the ends of the diagonal, so that the fan of the quad told back is the same two triangles.
 */
export function trianglesOf(places: ArrayLike<number>, quads: ArrayLike<number>): Uint32Array<ArrayBuffer> {
  const out = new Uint32Array((quads.length / 4) * 6)
  const square = (a: number, b: number): number =>
    (places[3 * a] - places[3 * b]) ** 2 +
    (places[3 * a + 1] - places[3 * b + 1]) ** 2 +
    (places[3 * a + 2] - places[3 * b + 2]) ** 2
  for (let q = 0; q < quads.length / 4; q++) {
    const [a, b, c, d] = [quads[4 * q], quads[4 * q + 1], quads[4 * q + 2], quads[4 * q + 3]]
    // of equal diagonals the first, so that mirrored quads of a symmetric body need not agree but always come out alike
    out.set(square(a, c) <= square(b, d) * 1.0001 ? [a, b, c, a, c, d] : [b, c, d, b, d, a], 6 * q)
  }
  return out
}

/** The four corners of a pair of triangles that `trianglesOf` made. */
export const quadOfPair = (indices: ArrayLike<number>, at: number): [number, number, number, number] => [
  indices[at],
  indices[at + 1],
  indices[at + 2],
  indices[at + 5],
]
