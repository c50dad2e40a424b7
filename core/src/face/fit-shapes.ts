import { ChiraxisError } from '../math'

/** Some points of a face over time, in the order of the figure's own. */
export interface MovingPoints {
  readonly fps: number
  readonly frames: number
  /** 3·P·N, metres, frame after frame; a point that was not seen is not a number. */
  readonly positions: Float32Array
}

/** Rounds at most for one frame. */
const ROUNDS = 200

/**
 * How strongly shapes show for points to be where they are: non-negative least squares, none beyond 1, frame by frame (Lawson and
 * Hanson 1974, as coordinate descent: Franc, Hlaváč and Navara 2005). What a head as a whole does must have been taken off before.
 * @param rest 3·P, where the points are on the face at rest
 * @param shapes for each shape how far it moves the points, 3·P
 * @param steady how much weights are held back where points tell little; larger is steadier
 * @returns for each shape its weights, N
 */
export function fitShapes(
  rest: Float32Array,
  shapes: readonly Float32Array[],
  { frames, positions }: MovingPoints,
  steady = 1e-4,
): Float32Array[] {
  const P = rest.length / 3
  if (positions.length !== 3 * P * frames || shapes.some(s => s.length !== rest.length))
    throw new ChiraxisError('bad-input', 'The points of a face and its shapes do not go together.')
  const n = shapes.length
  const out = shapes.map(() => new Float32Array(frames))
  const G = new Float64Array(n * n)
  const b = new Float64Array(n)
  const w = new Float64Array(n)
  for (let f = 0; f < frames; f++) {
    G.fill(0)
    b.fill(0)
    for (let p = 0; p < P; p++)
      for (let k = 0; k < 3; k++) {
        const i = 3 * p + k
        const off = positions[3 * P * f + i] - rest[i]
        if (!Number.isFinite(off)) continue
        for (let s = 0; s < n; s++) {
          const a = shapes[s][i]
          if (a === 0) continue
          b[s] += a * off
          for (let t = 0; t < n; t++) G[s * n + t] += a * shapes[t][i]
        }
      }
    let scale = 0
    for (let s = 0; s < n; s++) scale = Math.max(scale, G[s * n + s])
    // from the frame before, which is near
    for (let round = 0; round < ROUNDS; round++) {
      let most = 0
      for (let s = 0; s < n; s++) {
        const own = G[s * n + s] + steady * scale
        if (own === 0) continue
        let left = b[s]
        for (let t = 0; t < n; t++) if (t !== s) left -= G[s * n + t] * w[t]
        const next = Math.min(1, Math.max(0, left / own))
        most = Math.max(most, Math.abs(next - w[s]))
        w[s] = next
      }
      if (most < 1e-5) break
    }
    for (let s = 0; s < n; s++) out[s][f] = w[s]
  }
  return out
}
