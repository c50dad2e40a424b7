import { slerpAt } from '../math'
import type { Clip } from './clip'

/** A clip with its share of what is played. */
export interface Share {
  readonly gait: Clip
  readonly share: number
}

/** Metres a second that a turn of a radian a second counts as, where clips are placed by both. */
const TURN_COUNTS = 0.8

/** Where clips lie among each other: by their speed, metres a second, and their turn, radians a second, where that tells them apart. */
export const placeOf = (speed: number, turn?: number): readonly [number, number] => [speed, TURN_COUNTS * (turn ?? 0)]

/**
 * How much each of some places has to say at a point: gradient band interpolation (Johansen 2009, "Automated Semi-Procedural
 * Animation for Character Locomotion", 6.3). At a place it is that place alone; on a line it is the two neighbours, by where the point lies between them.
 * @param places x and y each
 * @returns shares that sum to 1
 */
export function sharesAt(places: readonly (readonly [number, number])[], [x, y]: readonly [number, number]): number[] {
  const raw = places.map(([px, py], i) => {
    let least = 1
    for (let j = 0; j < places.length; j++) {
      if (j === i) continue
      const [dx, dy] = [places[j][0] - px, places[j][1] - py]
      const long = dx * dx + dy * dy
      // two at one place share it
      const h = long < 1e-9 ? 0.5 : 1 - ((x - px) * dx + (y - py) * dy) / long
      least = Math.min(least, Math.max(0, h))
    }
    return least
  })
  const sum = raw.reduce((s, v) => s + v, 0)
  return raw.map(v => v / (sum || 1))
}

/** Steps quicken and slow down with the speed, within what still looks like them. */
const SLOWEST = 0.6,
  FASTEST = 1.35

/**
 * Seconds a cycle of a mixture takes, so that its strides carry as far as the body goes.
 * @param shares of cycles; they need not sum to 1
 * @param speed metres a second
 */
export function cycleSeconds(shares: readonly Share[], speed: number): number {
  let stride = 0,
    cadence = 0,
    sum = 0
  for (const { gait, share } of shares) {
    stride += share * gait.speed * gait.seconds
    cadence += share / gait.seconds
    sum += share
  }
  if (sum === 0) return 1
  const own = sum / cadence
  if (stride < 1e-6 || speed < 1e-6) return own / SLOWEST
  return Math.min(own / SLOWEST, Math.max(own / FASTEST, stride / sum / speed))
}

/**
 * Which gaits a speed is made of, and a turn where they differ in it: those it lies between, by where it lies; below the
 * slowest that one alone, above the fastest likewise.
 * @param gaits by speed, slowest first
 * @param turn radians a second to the left; left out, gaits are told apart by speed alone
 * @returns shares that sum to 1, and seconds of the cycle they have together
 */
export function gaitsAt(
  gaits: readonly Clip[],
  speed: number,
  turn?: number,
): { readonly shares: readonly Share[]; readonly seconds: number } {
  const places = gaits.map(g => placeOf(g.speed, turn === undefined ? undefined : g.turn))
  const of = sharesAt(places, placeOf(speed, turn))
  const shares = gaits.map((gait, i) => ({ gait, share: of[i] })).filter(s => s.share > 1e-6)
  return { shares, seconds: cycleSeconds(shares, speed) }
}

/** A pose being put together: 4·J and 3·J, and how much is in it already. */
export interface MixedPose {
  readonly rotations: Float32Array
  readonly translations: Float32Array
  weight: number
}

/** Where a share of a clip lies among its samples: what runs on goes over into its first, what is done once stays at its last. */
export function placeIn(clip: Clip, phase: number): { readonly k: number; readonly next: number; readonly t: number } {
  const { samples } = clip
  if (clip.kind === 'once') {
    const at = Math.min(1, Math.max(0, phase)) * (samples - 1)
    const k = Math.min(samples - 1, Math.floor(at))
    return { k, next: Math.min(samples - 1, k + 1), t: at - k }
  }
  const at = (phase - Math.floor(phase)) * samples
  const k = Math.floor(at) % samples
  return { k, next: (k + 1) % samples, t: at - Math.floor(at) }
}

/**
 * Adds a clip at a share of it to a pose, by a weight; turns on the shorter way (Shoemake 1985), places straight.
 * @param only joints it is added to; the weight of the whole then stays as it was
 */
export function mixIn(out: MixedPose, clip: Clip, phase: number, weight: number, only?: ArrayLike<number>): void {
  if (weight <= 0) return
  const { rotations: R, translations: T } = clip
  const J = out.rotations.length / 4
  const { k, next, t } = placeIn(clip, phase)
  const into = only ? weight : weight / (out.weight + weight)
  for (let i = 0; i < (only?.length ?? J); i++) {
    const j = only ? only[i] : i
    slerpAt(now, 0, R, 4 * (k * J + j), R, 4 * (next * J + j), t)
    if (out.weight === 0) for (let c = 0; c < 4; c++) out.rotations[4 * j + c] = now[c]
    else slerpAt(out.rotations, 4 * j, out.rotations, 4 * j, now, 0, into)
    for (let c = 0; c < 3; c++) {
      const p = T[3 * (k * J + j) + c]
      const own = p + (T[3 * (next * J + j) + c] - p) * t
      const was = out.weight === 0 ? own : out.translations[3 * j + c]
      out.translations[3 * j + c] = was + (own - was) * into
    }
  }
  if (!only) out.weight += weight
}
const now = new Float64Array(4)

/** Whether a foot rests at a share of a clip. */
export const restsAt = (clip: Clip, leg: string, phase: number): boolean =>
  clip.rests[leg]?.[placeIn(clip, phase).k] === 1

/** When a foot rests in a cycle: from where on, and for how long, as shares of it; the longest rest, across its end too. */
function stanceOf(gait: Clip, leg: string): { readonly from: number; readonly long: number } | undefined {
  const flags = gait.rests[leg]
  if (!flags || !flags.includes(1)) return undefined
  const n = flags.length
  if (!flags.includes(0)) return { from: 0, long: 1 }
  let best = { from: 0, long: 0 }
  for (let k = 0; k < n; k++) {
    if (flags[k] !== 1 || flags[(k + n - 1) % n] === 1) continue
    let long = 0
    while (long < n && flags[(k + long) % n] === 1) long++
    if (long > best.long) best = { from: k, long }
  }
  return { from: best.from / n, long: best.long / n }
}
const stances = new WeakMap<Clip, Map<string, ReturnType<typeof stanceOf>>>()

/**
 * Whether a foot rests in a mixture: each gait lands it and lifts it at moments of its own, and a mixture at moments between them.
 * Mixing whether it rests would hold a foot as long as the slowest does, while the body is carried away by the fastest.
 */
export function restsInMix(shares: readonly Share[], leg: string, phase: number): boolean {
  if (shares.length === 1) return restsAt(shares[0].gait, leg, phase)
  let from = 0,
    long = 0,
    first: number | undefined
  for (const { gait, share } of shares) {
    const known = stances.get(gait) ?? new Map<string, ReturnType<typeof stanceOf>>()
    stances.set(gait, known)
    if (!known.has(leg)) known.set(leg, stanceOf(gait, leg))
    const own = known.get(leg)
    if (!own) return false
    first ??= own.from
    const apart = own.from - first
    from += share * (apart - Math.round(apart))
    long += share * own.long
  }
  const since = phase - (first! + from)
  return since - Math.floor(since) < long
}
