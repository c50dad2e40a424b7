import { runsOf, type Take } from '../motion'
import type { FloorSettings, StairSettings } from './settings'

/** Height of the step under a place, metres: so many steps, each one tread long, flat before the first and after the last. */
export function stairHeight({ from, rise, tread, count }: StairSettings, ahead: number): number {
  const steps = Math.floor((ahead - from) / tread) + 1
  return rise * Math.min(count, Math.max(0, steps))
}

/** Where a step begins and ends, metres ahead; open where the stairs begin and end. */
function treadAt({ from, tread, count }: StairSettings, ahead: number): readonly [number, number] {
  const k = Math.min(count, Math.max(0, Math.floor((ahead - from) / tread) + 1))
  return [k === 0 ? -Infinity : from + (k - 1) * tread, k === count ? Infinity : from + k * tread]
}

/** A foot of a take made on flat ground, as it goes over stairs. */
export interface OverStairs {
  /** How much higher it is in each frame, unit of the skeleton. */
  readonly higher: Float64Array
  /** How much farther ahead. */
  readonly ahead: Float64Array
}

/** Room a resting sole keeps to the next step, metres. */
const EDGE = 0.01
/** Room a swinging foot keeps over an edge, metres. */
const CLEAR = 0.015
/** Share of a swing within which a foot that climbs is up, and one that goes down is still up. */
const EARLY = 0.55
/** Seconds over which what lifts a foot over an edge comes and goes. */
const SOFT = 0.08

/**
 * Takes a foot over stairs: where it rests it stands on the step under it, moved no more than it must so that its sole has room
 * on it; between two rests it goes from the one height to the other, up early, down late, and over every edge.
 * @param sole tracks of its heel, ball and tip, 3·N, in the body's own frame and the unit of the skeleton
 * @param low how high those are on flat ground
 * @param rests when its ball rests
 * @param unit metres a unit of the skeleton is
 */
export function overStairs(
  sole: readonly Float32Array[],
  low: readonly number[],
  rests: Uint8Array,
  { stairs }: FloorSettings & { readonly stairs: StairSettings },
  unit: number,
  { frames, fps }: Pick<Take, 'frames' | 'fps'>,
): OverStairs {
  const higher = new Float64Array(frames)
  const ahead = new Float64Array(frames)
  const [, ball] = sole
  /** The sole's first and last place ahead in some frames, metres. */
  const span = (a: number, b: number): [number, number] => {
    let low = Infinity,
      high = -Infinity
    for (const track of sole)
      for (let f = a; f <= b; f++) {
        low = Math.min(low, track[3 * f + 2])
        high = Math.max(high, track[3 * f + 2])
      }
    return [low * unit, high * unit]
  }
  const stands = runsOf(rests).map(([first, end]) => {
    const middle = Math.round((first + end) / 2)
    const own = ball[3 * middle + 2] * unit
    // the flat foot: while the ball rests the heel may have left already
    const [low, high] = span(middle, middle)
    const [begins, ends] = treadAt(stairs, own)
    // a foot too long for its step stands clear of the higher one beside it
    const up = Math.min(0, ends - EDGE - high)
    const down = Math.max(0, begins + EDGE - low)
    const fits = high - low <= ends - begins - 2 * EDGE
    const shift = fits ? up + down : stairs.rise > 0 ? up : down
    return { first, end, up: stairHeight(stairs, own), shift }
  })
  if (stands.length === 0) return { higher, ahead }
  for (const [i, s] of stands.entries()) {
    higher.fill(s.up / unit, s.first, s.end + 1)
    ahead.fill(s.shift / unit, s.first, s.end + 1)
    const next = stands[i + 1]
    if (i === 0) {
      // before the first rest it is where that one will be
      higher.fill(s.up / unit, 0, s.first)
      ahead.fill(s.shift / unit, 0, s.first)
    }
    if (!next) {
      higher.fill(s.up / unit, s.end + 1)
      ahead.fill(s.shift / unit, s.end + 1)
      continue
    }
    for (let f = s.end + 1; f < next.first; f++) {
      const t = (f - s.end) / (next.first - s.end)
      const rises = next.up > s.up ? ease(t / EARLY) : ease((t - (1 - EARLY)) / EARLY)
      higher[f] = (s.up + (next.up - s.up) * rises) / unit
      ahead[f] = (s.shift + (next.shift - s.shift) * ease(t)) / unit
    }
  }
  // over every edge that lies under a swinging foot
  const lacks = new Float64Array(frames)
  let left = stands[0].up
  for (let f = 0; f < frames; f++) {
    if (rests[f]) {
      left = higher[f] * unit
      continue
    }
    sole.forEach((track, i) => {
      const under = stairHeight(stairs, (track[3 * f + 2] + ahead[f]) * unit)
      const over = (track[3 * f + 1] - low[i] + higher[f]) * unit
      lacks[f] = Math.max(lacks[f], (under + (under > left + 1e-6 ? CLEAR : 0) - over) / unit)
    })
  }
  const soft = Math.max(1, Math.round(SOFT * fps))
  for (let f = 0; f < frames; f++) {
    if (rests[f]) continue
    let most = 0
    for (let g = Math.max(0, f - soft); g <= Math.min(frames - 1, f + soft); g++)
      most = Math.max(most, lacks[g] * ease(1 - Math.abs(g - f) / (soft + 1)))
    higher[f] += most
  }
  return { higher, ahead }
}

const ease = (t: number): number => {
  const c = Math.min(1, Math.max(0, t))
  return c * c * (3 - 2 * c)
}
