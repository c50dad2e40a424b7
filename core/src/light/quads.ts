/** Triangles of quads, each parted along its shorter diagonal; the triangles of quad q are 2q and 2q + 1. */
export function trianglesOf(places: ArrayLike<number>, quads: ArrayLike<number>): Uint32Array<ArrayBuffer> {
  const out = new Uint32Array((quads.length / 4) * 6)
  const square = (a: number, b: number): number =>
    (places[3 * a] - places[3 * b]) ** 2 +
    (places[3 * a + 1] - places[3 * b + 1]) ** 2 +
    (places[3 * a + 2] - places[3 * b + 2]) ** 2
  for (let q = 0; q < quads.length / 4; q++) {
    const [a, b, c, d] = [quads[4 * q], quads[4 * q + 1], quads[4 * q + 2], quads[4 * q + 3]]
    // of equal diagonals the first, so that mirrored quads of a symmetric body need not agree but always come out alike
    out.set(square(a, c) <= square(b, d) * 1.0001 ? [a, b, c, a, c, d] : [a, b, d, b, c, d], 6 * q)
  }
  return out
}
