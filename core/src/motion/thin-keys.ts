import { slerpAt } from '../math'

/** How far keys may stray when some of them are left out. */
export interface Thinning {
  /** Degrees a joint may be turned off, on its parent. */
  readonly degrees: number
  /** Metres a joint may be off its place, on its parent. */
  readonly metres: number
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
    const o = 4 * f
    // by the chord: the arc cosine tells small angles badly
    let plus = 0,
      minus = 0
    for (let k = 0; k < 4; k++) {
      plus += (q[k] + turns[o + k]) ** 2
      minus += (q[k] - turns[o + k]) ** 2
    }
    return (4 * Math.asin(Math.min(1, Math.sqrt(Math.min(plus, minus)) / 2))) / allowed
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
