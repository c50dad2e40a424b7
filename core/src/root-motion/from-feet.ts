import { ChiraxisError, distance, vec3At } from '../math'
import { followPlaces, quantile, type Played } from '../motion'
import { legsOf } from '../body'
import { worldPose } from '../skeleton'
import type { Sole } from '../surface'

/** Share of a leg's length within which a place of a sole is on the ground, and how far from the usual speed a foot on it may be: shares of that, and leg lengths a second. */
const NEAR = 0.018,
  WAYWARD = 0.2,
  SLACK = 0.06
/** Seconds around a moment over which the usual speed is told, and over which speed is evened out. */
const AROUND = 0.45,
  EVEN = 0.05
/** How surely a foot must be on the ground for its speed to count. */
const SURE = 0.25

/**
 * Tells how a body travels from its feet, for takes recorded in place: what rests on the ground runs away under the body just
 * as fast as the body would go. Heel, ball and tip of every foot count as far as they are the lowest of all; a foot that is low
 * while it swings goes another way than the usual one of that moment and does not count. Where no foot rests, as in a
 * run, the body goes on evenly.
 * @returns how far to shift the body in each frame, 2·N, across and ahead in its own frame
 * @throws ChiraxisError `no-roles` for a body without feet
 */
export function travelFromFeet(played: Played, soles: Readonly<Record<string, Sole>>): Float64Array {
  const { take, skeleton, joints } = played
  const n = take.frames
  const legs = legsOf(joints).filter(leg => soles[leg])
  if (legs.length === 0) throw new ChiraxisError('no-roles', 'The skeleton has no feet that travel could be told from.')
  const out = new Float64Array(2 * n)
  if (n < 3) return out
  const rest = worldPose(skeleton)
  const at = (role: string) => vec3At(rest.positions, joints[role])
  const long = distance(at(`${legs[0]}UpperLeg`), at(`${legs[0]}Foot`)) || 1
  const points = legs.flatMap(leg => {
    const { heel, ball, tip, rest: heights } = soles[leg]
    return [heel, ball, tip].map((place, i) => ({ place, height: heights[i] }))
  })
  const tracks = followPlaces(
    played,
    points.map(p => p.place),
  )
  const low = Float64Array.from({ length: n }, (_, f) => {
    let least = Infinity
    points.forEach(({ height }, i) => (least = Math.min(least, tracks[i][3 * f + 1] - height)))
    return least
  })
  // mostly something stands on the ground; toes that dip while they swing do not tell it
  const ground = quantile(low, 0.35)
  const seen = points.map(({ height }, i) => {
    const t = tracks[i]
    const speeds = new Float64Array(2 * n)
    const near = Float64Array.from({ length: n }, (_, f) => {
      const high = (t[3 * f + 1] - height - ground) / (NEAR * long)
      return Math.exp(-high * high)
    })
    const weights = new Float64Array(n)
    for (let f = 0; f < n; f++) {
      const a = Math.max(0, f - 1),
        b = Math.min(n - 1, f + 1)
      const span = (b - a) / take.fps
      for (const k of [0, 1]) speeds[2 * f + k] = (t[3 * b + 2 * k] - t[3 * a + 2 * k]) / span
      // what lands or lifts within the step is not at rest in it
      weights[f] = Math.min(near[a], near[f], near[b])
    }
    return { speeds, weights }
  })
  const speed = new Float64Array(2 * n)
  const known = new Uint8Array(n)
  const reach = Math.max(2, Math.round(AROUND * take.fps))
  for (let f = 0; f < n; f++) {
    const usual = usualSpeed(seen, Math.max(0, f - reach), Math.min(n - 1, f + reach), long)
    if (!usual) continue
    const wide = WAYWARD * Math.hypot(usual[0], usual[1]) + SLACK * long
    let sum = 0
    for (const { speeds, weights } of seen) {
      const off = Math.hypot(speeds[2 * f] - usual[0], speeds[2 * f + 1] - usual[1]) / wide
      const w = weights[f] * Math.exp(-off * off)
      sum += w
      for (const k of [0, 1]) speed[2 * f + k] += w * speeds[2 * f + k]
    }
    for (const k of [0, 1]) speed[2 * f + k] = sum > 0 ? speed[2 * f + k] / sum : 0
    known[f] = sum > SURE ? 1 : 0
  }
  goOnEvenly(speed, known)
  const even = evenly(speed, Math.round(EVEN * take.fps))
  for (let f = 1; f < n; f++)
    for (const k of [0, 1]) out[2 * f + k] = out[2 * f - 2 + k] - (even[2 * f + k] + even[2 * f - 2 + k]) / 2 / take.fps
  return out
}

/**
 * The speed most of what is on the ground goes at over a stretch of frames: from the middle one up to where speeds lie
 * densest (mean shift: Comaniciu and Meer 2002), because feet that just land or lift are all slower. Undefined where nothing is.
 */
function usualSpeed(
  seen: readonly { readonly speeds: Float64Array; readonly weights: Float64Array }[],
  from: number,
  to: number,
  long: number,
): readonly [number, number] | undefined {
  const all: [number[], number[]] = [[], []]
  for (const { speeds, weights } of seen)
    for (let f = from; f <= to; f++) if (weights[f] > 0.5) for (const k of [0, 1]) all[k].push(speeds[2 * f + k])
  const [xs, zs] = all
  if (xs.length === 0) return undefined
  let [x, z] = [quantile(xs, 0.5), quantile(zs, 0.5)]
  for (let round = 0; round < ROUNDS; round++) {
    const wide = WAYWARD * Math.hypot(x, z) + SLACK * long
    let sum = 0,
      sx = 0,
      sz = 0
    for (let i = 0; i < xs.length; i++) {
      const off = ((xs[i] - x) ** 2 + (zs[i] - z) ** 2) / (wide * wide)
      const w = Math.exp(-2 * off)
      sum += w
      sx += w * xs[i]
      sz += w * zs[i]
    }
    if (sum < 1e-6) break
    x = sx / sum
    z = sz / sum
  }
  return [x, z]
}
const ROUNDS = 5

/** Fills frames in which no speed is known from those around them. */
function goOnEvenly(speed: Float64Array, known: Uint8Array): void {
  const n = known.length
  let last = -1
  const fill = (a: number, b: number): void => {
    for (let i = a + 1; i < b; i++)
      for (const k of [0, 1]) {
        const from = a < 0 ? speed[2 * b + k] : speed[2 * a + k]
        const to = b >= n ? from : speed[2 * b + k]
        speed[2 * i + k] = a < 0 ? to : from + ((to - from) * (i - a)) / (b - a)
      }
  }
  for (let f = 0; f < n; f++)
    if (known[f]) {
      if (f > last + 1) fill(last, f)
      last = f
    }
  if (last < 0) speed.fill(0)
  else if (last < n - 1) fill(last, n)
}

/** A running mean over so many frames to each side. */
function evenly(speed: Float64Array, reach: number): Float64Array {
  const n = speed.length / 2
  return Float64Array.from(speed, (_, i) => {
    const f = i >> 1
    const r = Math.min(reach, f, n - 1 - f)
    let sum = 0
    for (let g = f - r; g <= f + r; g++) sum += speed[2 * g + (i & 1)]
    return sum / (2 * r + 1)
  })
}
