import type { Mesh } from '@chiraxis/core/mesh'

/** The four strongest influences of a row, as the GPU takes them. */
export function putRow(
  index: Uint16Array | Float32Array,
  weight: Float32Array,
  v: number,
  joints: Uint16Array,
  weights: Float32Array,
  at: number,
  influences: number,
): void {
  let sum = 0
  const n = Math.min(4, influences)
  for (let k = 0; k < n; k++) sum += weights[at + k]!
  for (let k = 0; k < 4; k++) {
    index[4 * v + k] = k < n ? joints[at + k]! : 0
    weight[4 * v + k] = k < n && sum > 0 ? weights[at + k]! / sum : 0
  }
}

/** Colour of every vertex: its own times that of its part. */
export function colorsOf(mesh: Mesh): Float32Array {
  const out = mesh.colors ? mesh.colors.slice() : new Float32Array(mesh.positions.length).fill(1)
  const done = new Uint8Array(mesh.positions.length / 3)
  for (const part of mesh.parts) {
    const [r, g, b] = part.color
    for (let i = part.start; i < part.start + part.count; i++) {
      const v = mesh.indices[i]!
      if (done[v]) continue
      done[v] = 1
      out[3 * v]! *= r
      out[3 * v + 1]! *= g
      out[3 * v + 2]! *= b
    }
  }
  return out
}
