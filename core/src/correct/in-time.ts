/** From 0 to 1 without a kink at either end, held beyond. */
export function smoothly(t: number): number {
  const x = t < 0 ? 0 : t > 1 ? 1 : t
  return x * x * (3 - 2 * x)
}

/** A smooth curve that stays over the values: each reaches out over `reach` frames to both sides, then all is evened out. */
export function envelope(values: Float32Array, reach: number): Float32Array {
  const n = values.length
  const over = new Float32Array(n)
  for (let f = 0; f < n; f++) {
    if (values[f] <= 0) continue
    for (let g = Math.max(0, f - 2 * reach); g <= Math.min(n - 1, f + 2 * reach); g++) {
      const t = Math.max(0, 1 - Math.max(0, Math.abs(g - f) - reach) / (reach + 1))
      over[g] = Math.max(over[g], values[f] * t * t * (3 - 2 * t))
    }
  }
  return evened(over, Math.ceil(reach / 2))
}

/** Values evened out over so many frames to both sides, near ones counting most. */
export function evened(values: Float32Array, half: number): Float32Array {
  const n = values.length
  const out = new Float32Array(n)
  for (let f = 0; f < n; f++) {
    let sum = 0,
      weight = 0
    for (let g = Math.max(0, f - half); g <= Math.min(n - 1, f + half); g++) {
      const w = 1 + half - Math.abs(g - f)
      sum += w * values[g]
      weight += w
    }
    out[f] = sum / weight
  }
  return out
}

/** Longest time over which a shift is evened out, seconds to either side. */
const LONGEST = 0.5

/**
 * Evens a shift out in time until it goes no faster than asked, three tracks in one: only around the frames in which it
 * is too fast, over ever longer times.
 * @param shift 3·N  @param most units a second
 */
export function calmed(shift: Float32Array, fps: number, most: number): Float32Array {
  const n = shift.length / 3
  const limit = (most / fps) ** 2
  let out = shift
  for (let half = 1; half <= LONGEST * fps; half = longer(half)) {
    const hurried = new Float32Array(n)
    let any = false
    for (let f = 1; f < n; f++) {
      const x = out[3 * f] - out[3 * f - 3],
        y = out[3 * f + 1] - out[3 * f - 2],
        z = out[3 * f + 2] - out[3 * f - 1]
      if (x * x + y * y + z * z <= limit) continue
      hurried[f] = hurried[f - 1] = 1
      any = true
    }
    if (!any) break
    out = evenedAround(out, hurried, half)
  }
  return out
}

/** The next time over which to even out, where one was too short. */
export const longer = (half: number): number => Math.ceil(1.5 * half)

/** A shift, three tracks in one, evened out over so many frames around some. @param hurried N, 1 where it is to be evened */
export function evenedAround(shift: Float32Array, hurried: Float32Array, half: number): Float32Array {
  const n = hurried.length
  const firm = envelope(hurried, 2 * half)
  const out = shift.slice()
  for (const k of [0, 1, 2]) {
    const even = evened(
      Float32Array.from({ length: n }, (_, f) => shift[3 * f + k]),
      half,
    )
    for (let f = 0; f < n; f++) out[3 * f + k] += Math.min(1, firm[f]) * (even[f] - shift[3 * f + k])
  }
  return out
}

/** How fast a place goes at most, told from another that carries it, units a second. @param track, from 3·N */
export function fastestAway(track: Float32Array, from: Float32Array, fps: number): number {
  let out = 0
  for (let i = 3; i < track.length; i += 3) {
    const x = track[i] - from[i] - track[i - 3] + from[i - 3],
      y = track[i + 1] - from[i + 1] - track[i - 2] + from[i - 2],
      z = track[i + 2] - from[i + 2] - track[i - 1] + from[i - 1]
    out = Math.max(out, x * x + y * y + z * z)
  }
  return Math.sqrt(out) * fps
}
