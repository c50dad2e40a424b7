import { slerpAt } from '../math'

/** How far keys may stray when some of them are left out. */
export interface Thinning {
  /** Degrees a joint may be turned off, on its parent. */
  readonly degrees: number
  /** Metres a joint may be off its place, on its parent. */
  readonly metres: number
  /** Whether curved keys are written where they take fewer bytes than straight ones. */
  readonly curved?: boolean
}

/**
 * Frames that must stay so that straight keys between them keep within an error of every frame (Ramer 1972; Douglas and Peucker
 * 1973, over time): the whole is cut at the frame that strays most, again and again.
 * @param strays how far frame `f` is from where keys at `a` and `b` would have it, in shares of what is allowed
 */
function kept(frames: number, strays: (f: number, a: number, b: number) => number): Int32Array {
  const stays = new Uint8Array(frames)
  stays[0] = 1
  stays[frames - 1] = 1
  const open: [number, number][] = [[0, frames - 1]]
  while (open.length > 0) {
    const [a, b] = open.pop()!
    let most = 1,
      at = -1
    for (let f = a + 1; f < b; f++) {
      const off = strays(f, a, b)
      if (off > most) {
        most = off
        at = f
      }
    }
    if (at < 0) continue
    stays[at] = 1
    open.push([a, at], [at, b])
  }
  const out: number[] = []
  stays.forEach((s, f) => {
    if (s) out.push(f)
  })
  return Int32Array.from(out)
}

/** Frames of turns (4·N, neighbours on one half of the sphere) that stay; between them turns go the shorter way at an even rate. */
export function keptTurns(turns: Float32Array, degrees: number): Int32Array {
  const frames = turns.length / 4
  if (frames < 3) return Int32Array.from({ length: frames }, (_, f) => f)
  const q = new Float64Array(4)
  const allowed = (degrees * Math.PI) / 180
  return kept(frames, (f, a, b) => {
    slerpAt(q, 0, turns, 4 * a, turns, 4 * b, (f - a) / (b - a))
    return between(q, turns, 4 * f) / allowed
  })
}

/** Frames of places (3·N) that stay, straight between them. */
export function keptPlaces(places: Float32Array, metres: number): Int32Array {
  const frames = places.length / 3
  if (frames < 3) return Int32Array.from({ length: frames }, (_, f) => f)
  return kept(frames, (f, a, b) => {
    const t = (f - a) / (b - a)
    let off = 0
    for (let k = 0; k < 3; k++) {
      const from = places[3 * a + k]
      off += (from + (places[3 * b + k] - from) * t - places[3 * f + k]) ** 2
    }
    return Math.sqrt(off) / metres
  })
}

/** How far a turn is from the one at a frame, radians; by the chord, as the arc cosine tells small angles badly. */
function between(q: Float64Array, turns: Float32Array, o: number): number {
  let plus = 0,
    minus = 0
  for (let k = 0; k < 4; k++) {
    plus += (q[k] + turns[o + k]) ** 2
    minus += (q[k] - turns[o + k]) ** 2
  }
  return 4 * Math.asin(Math.min(1, Math.sqrt(Math.min(plus, minus)) / 2))
}

/** Slopes of values a frame: by those before and after, at the ends by the one beside (Catmull and Rom 1974). */
export function slopesOf(values: Float32Array, size: number): Float32Array {
  const frames = values.length / size
  const out = new Float32Array(values.length)
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - 1)
    const b = Math.min(frames - 1, f + 1)
    for (let k = 0; k < size; k++)
      out[f * size + k] = b > a ? (values[b * size + k] - values[a * size + k]) / (b - a) : 0
  }
  return out
}

/** Values at `f` on the curve between keys at frames `a` and `b` (cubic Hermite; glTF 2.0, appendix C.5), not of unit length. */
function onCurve(
  out: Float64Array,
  values: Float32Array,
  slopes: Float32Array,
  size: number,
  f: number,
  a: number,
  b: number,
): void {
  const d = b - a
  const t = (f - a) / d
  const [t2, t3] = [t * t, t * t * t]
  const [p, m, q, n] = [2 * t3 - 3 * t2 + 1, (t3 - 2 * t2 + t) * d, -2 * t3 + 3 * t2, (t3 - t2) * d]
  for (let k = 0; k < size; k++)
    out[k] = p * values[a * size + k] + m * slopes[a * size + k] + q * values[b * size + k] + n * slopes[b * size + k]
}

/**
 * Frames of values that stay where curves join them with the slopes they have ({@link slopesOf}).
 * @param size 4 for turns, neighbours on one half of the sphere, 3 for places
 */
export function keptOnCurves(values: Float32Array, slopes: Float32Array, size: 3 | 4, allowed: Thinning): Int32Array {
  const frames = values.length / size
  if (frames < 3) return Int32Array.from({ length: frames }, (_, f) => f)
  const at = new Float64Array(size)
  const most = size === 4 ? (allowed.degrees * Math.PI) / 180 : allowed.metres
  return kept(frames, (f, a, b) => {
    onCurve(at, values, slopes, size, f, a, b)
    if (size === 3)
      return Math.hypot(at[0] - values[3 * f], at[1] - values[3 * f + 1], at[2] - values[3 * f + 2]) / most
    const l = Math.hypot(at[0], at[1], at[2], at[3])
    if (!(l > 0.5)) return Infinity
    for (let k = 0; k < 4; k++) at[k] /= l
    return between(at, values, 4 * f) / most
  })
}

/** A share of a value that single precision hardly tells. */
const HAIR = 2e-7

/** Whether values stay as they are in the first frame. @param size numbers a frame */
export function isStill(values: Float32Array, size: number): boolean {
  for (let i = size; i < values.length; i++) {
    const first = values[i % size]
    if (Math.abs(values[i] - first) > HAIR * Math.max(1, Math.abs(first))) return false
  }
  return true
}
