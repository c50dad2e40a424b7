import { seededRandom } from '../math'

/** Points spread evenly over a surface, the same for the same body: 3·count. */
export function sampleSurface(positions: Float32Array, indices: Uint32Array, count: number): Float32Array {
  const faces = indices.length / 3
  const sums = new Float64Array(faces)
  let total = 0
  for (let f = 0; f < faces; f++) {
    const a = 3 * indices[3 * f],
      b = 3 * indices[3 * f + 1],
      c = 3 * indices[3 * f + 2]
    const ux = positions[b] - positions[a],
      uy = positions[b + 1] - positions[a + 1],
      uz = positions[b + 2] - positions[a + 2]
    const vx = positions[c] - positions[a],
      vy = positions[c + 1] - positions[a + 1],
      vz = positions[c + 2] - positions[a + 2]
    total += Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
    sums[f] = total
  }
  const random = seededRandom(20261)
  const out = new Float32Array(3 * count)
  let f = 0
  for (let i = 0; i < count; i++) {
    // stratified: rising targets, so one walk over the faces serves all
    const target = ((i + random()) / count) * total
    while (f < faces - 1 && sums[f] < target) f++
    let r1 = random(),
      r2 = random()
    if (r1 + r2 > 1) {
      r1 = 1 - r1
      r2 = 1 - r2
    }
    for (let k = 0; k < 3; k++) {
      const a = positions[3 * indices[3 * f] + k],
        b = positions[3 * indices[3 * f + 1] + k],
        c = positions[3 * indices[3 * f + 2] + k]
      out[3 * i + k] = a + (b - a) * r1 + (c - a) * r2
    }
  }
  return out
}
