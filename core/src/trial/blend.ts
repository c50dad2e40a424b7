import { slerpAt } from '../math'
import type { Gait } from './gait'

/** A gait with its share of what is played. */
export interface Share {
  readonly gait: Gait
  readonly share: number
}

/**
 * Which gaits a speed is made of: the two it lies between, by where it lies; below the slowest that one alone, above the fastest
 * likewise.
 * @param gaits by speed, slowest first
 * @returns shares that sum to 1, and seconds of the cycle they have together
 */
export function gaitsAt(
  gaits: readonly Gait[],
  speed: number,
): { readonly shares: readonly Share[]; readonly seconds: number } {
  const above = gaits.findIndex(g => g.speed >= speed)
  const single = above === 0 ? gaits[0] : above < 0 ? gaits[gaits.length - 1] : undefined
  if (single) {
    // steps quicken and slow down with the speed, within what still looks like them
    const rate = single.speed > 0 ? Math.min(1.35, Math.max(0.6, speed / single.speed)) : 1
    return { shares: [{ gait: single, share: 1 }], seconds: single.seconds / rate }
  }
  const [a, b] = [gaits[above - 1], gaits[above]]
  const t = (speed - a.speed) / Math.max(1e-6, b.speed - a.speed)
  // cadences are blended: so many cycles a second of the one and of the other
  const cadence = (1 - t) / a.seconds + t / b.seconds
  return { shares: [{ gait: a, share: 1 - t }, { gait: b, share: t }], seconds: 1 / cadence } // prettier-ignore
}

/** A pose being put together: 4·J and 3·J, and how much is in it already. */
export interface MixedPose {
  readonly rotations: Float32Array
  readonly translations: Float32Array
  weight: number
}

/** Adds a gait at a share of its cycle to a pose, by a weight; turns on the shorter way (Shoemake 1985), places straight. */
export function mixIn(out: MixedPose, gait: Gait, phase: number, weight: number): void {
  if (weight <= 0) return
  const { samples, rotations: R, translations: T } = gait
  const J = out.rotations.length / 4
  const at = (phase - Math.floor(phase)) * samples
  const k = Math.floor(at) % samples
  const next = (k + 1) % samples
  const t = at - Math.floor(at)
  const into = weight / (out.weight + weight)
  for (let j = 0; j < J; j++) {
    slerpAt(now, 0, R, 4 * (k * J + j), R, 4 * (next * J + j), t)
    if (out.weight === 0) for (let i = 0; i < 4; i++) out.rotations[4 * j + i] = now[i]
    else slerpAt(out.rotations, 4 * j, out.rotations, 4 * j, now, 0, into)
    for (let i = 0; i < 3; i++) {
      const p = T[3 * (k * J + j) + i]
      const own = p + (T[3 * (next * J + j) + i] - p) * t
      const was = out.weight === 0 ? own : out.translations[3 * j + i]
      out.translations[3 * j + i] = was + (own - was) * into
    }
  }
  out.weight += weight
}
const now = new Float64Array(4)

/** Whether a foot rests at a share of the cycle. */
export const restsAt = (gait: Gait, leg: string, phase: number): boolean =>
  gait.rests[leg]?.[Math.floor((phase - Math.floor(phase)) * gait.samples)] === 1

/** When a foot rests in a cycle: from where on, and for how long, as shares of it; the longest rest, across its end too. */
function stanceOf(gait: Gait, leg: string): { readonly from: number; readonly long: number } | undefined {
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
const stances = new WeakMap<Gait, Map<string, ReturnType<typeof stanceOf>>>()

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
