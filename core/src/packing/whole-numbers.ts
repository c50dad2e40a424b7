/** Values of -1..1 as whole numbers of 8 or 16 bits (KHR_mesh_quantization; glTF 2.0, 3.11). */
export function signed<T extends Int8Array | Int16Array>(values: Float32Array, out: T): T {
  const whole = out.BYTES_PER_ELEMENT === 1 ? 127 : 32767
  for (let i = 0; i < values.length; i++) out[i] = Math.round(Math.min(1, Math.max(-1, values[i])) * whole)
  return out
}

/** Values of 0..1 as whole numbers of 16 bits. */
export function unsigned(values: Float32Array): Uint16Array {
  const out = new Uint16Array(values.length)
  for (let i = 0; i < values.length; i++) out[i] = Math.round(Math.min(1, Math.max(0, values[i])) * 65535)
  return out
}

/** Whether all values lie within. */
export function within(values: Float32Array, low: number, high: number): boolean {
  for (let i = 0; i < values.length; i++) if (!(values[i] >= low && values[i] <= high)) return false
  return true
}

/**
 * Weights of vertices as bytes that sum to 255: rounded down, and what is left goes to those that lost most (largest remainder).
 * @param sets weights, four a vertex each, all sets of the same vertices
 */
export function byteWeights(sets: readonly Float32Array[]): Uint8Array[] {
  const out = sets.map(s => new Uint8Array(s.length))
  const vertices = (sets[0]?.length ?? 0) / 4
  const all = 4 * sets.length
  const lost = new Float64Array(all)
  for (let v = 0; v < vertices; v++) {
    let sum = 0
    for (const s of sets) for (let k = 0; k < 4; k++) sum += Math.max(0, s[4 * v + k])
    if (!(sum > 0)) continue
    let left = 255
    for (let i = 0; i < all; i++) {
      const exact = (Math.max(0, sets[i >> 2][4 * v + (i & 3)]) / sum) * 255
      const whole = Math.floor(exact + 1e-6)
      out[i >> 2][4 * v + (i & 3)] = whole
      lost[i] = exact - whole
      left -= whole
    }
    for (; left > 0; left--) {
      let most = 0
      for (let i = 1; i < all; i++) if (lost[i] > lost[most]) most = i
      out[most >> 2][4 * v + (most & 3)]++
      lost[most] = -1
    }
  }
  return out
}
