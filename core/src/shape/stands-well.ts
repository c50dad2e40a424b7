import { maxOf } from '../math'
import { between, clamp, isLong, of, quantile, type Framed } from './framed'

type StandingCue = 'legs' | 'feet' | 'flat' | 'inner' | 'fours' | 'out' | 'broad' | 'whole' | 'mass'
/**
 * How much each tells, in natural logarithms of odds: from a conditional logistic fit (McFadden 1974) over the readings of
 * 370 figures of many proportions, stances and dresses, a quarter of them in robes, and beasts; ten-fold cross-validated 369 right.
 */
const STANDING_WEIGHTS: Readonly<Record<StandingCue, number>> = {
  legs: 1.06,
  feet: 0.85,
  flat: 0.99,
  inner: 0.68,
  fours: 0.67,
  out: 0.78,
  broad: 1.62,
  whole: 0.67,
  mass: 0.2,
}

const deviation = (values: readonly number[]): number => {
  const mean = values.reduce((a, b) => a + b, 0) / Math.max(1, values.length)
  return Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / Math.max(1, values.length))
}

/** What tells that a frame is that of a body that stands in it, each about -1 to 1. */
function standingCues(f: Framed): Record<StandingCue, number> {
  const { x, y, tall, ground } = f
  const long = isLong(f)
  const within =
    (share: number) =>
    (i: number): boolean =>
      Math.abs(x[i]) < share * tall
  const legs = parted(f, 0, 0.28) - parted(f, 0.72, 1)
  // soles are flat; what is on top is not
  const soles = between(f, 0, 0.02).length,
    tops = between(f, 0.98, 1).length
  const rows: readonly [number, number][] = [
    [0.25, 0.5],
    [0.5, 0.75],
    [0.15, 0.5],
    [0.5, 0.85],
  ]
  // most of a body that stands on two legs is near its midline, however its arms are held; seen from the side, not
  const inner = x.reduce((count, v) => count + (Math.abs(v) < 0.22 * tall ? 1 : 0), 0) / x.length
  // about its midline a body is whole above, and may be parted below
  const middle = (low: number, high: number): number => {
    const own = between(f, low, high, within(0.3))
    return own.filter(within(0.015)).length / Math.max(1, own.length)
  }
  let outs = 0,
    high = 0,
    sum = 0
  for (let i = 0; i < x.length; i++) {
    const h = (y[i] - ground) / tall
    sum += h
    if (within(0.25)(i)) continue
    outs++
    high += h
  }
  return {
    legs,
    feet: parted(f, 0, 0.12) - parted(f, 0.88, 1),
    flat: (soles - tops) / Math.max(1, soles + tops),
    inner: long ? 0 : clamp((inner - 0.52) / 0.1),
    fours: long ? Math.max(0, legs) * onFour(f) : 0,
    // arms leave from the upper half
    out: outs > 10 ? clamp((high / outs - 0.5) / 0.15) : 0,
    broad: long ? 0 : maxOf(rows.map(([a, b]) => broadness(f, a, b))),
    whole: clamp((middle(0.75, 1) - middle(0, 0.25)) / 0.05),
    mass: clamp((sum / x.length - 0.5) / 0.1),
  }
}

/** Through how much of a stretch of its height a body lies in a left and a right part with nothing between. */
function parted(f: Framed, low: number, high: number): number {
  const { x, tall } = f
  const slices = 12
  const free = 0.01 * tall
  const near = (i: number): boolean => Math.abs(x[i]) < 0.4 * tall
  let n = 0
  for (let s = 0; s < slices; s++) {
    const own = between(f, low + ((high - low) * s) / slices, low + ((high - low) * (s + 1)) / slices, near)
    const left = own.filter(i => x[i] > free).length
    const right = own.filter(i => x[i] < -free).length
    if (left > 2 && right > 2 && own.length - left - right <= 0.02 * own.length) n++
  }
  return n / slices
}

/** How much broader than deep what lies about the midline is between two heights, -1..1. */
function broadness(f: Framed, low: number, high: number): number {
  const { x, z, tall } = f
  const near = (i: number): boolean => Math.abs(x[i]) < 0.2 * tall
  const middle = quantile(of(z, between(f, low, high, near)), 0.5)
  const own = between(f, low, high, i => near(i) && Math.abs(z[i] - middle) < 0.2 * tall)
  return clamp((deviation(of(x, own)) / Math.max(1e-9, deviation(of(z, own))) - 1) / 0.4)
}

/**
 * How much a frame looks like that of a body that stands in it, in logarithms of odds against other frames of the same
 * body: legs parted about the midline at its lower end, soles that are flat, a trunk broader than deep, arms that leave
 * its upper half, or legs before and behind.
 */
export function standsWell(f: Framed): number {
  const cues = standingCues(f)
  return (Object.keys(cues) as StandingCue[]).reduce((sum, k) => sum + STANDING_WEIGHTS[k] * cues[k], 0)
}

/** How far the lower end of a long body is parted into legs before and legs behind, 0..1. */
function onFour(f: Framed): number {
  const { z, tall } = f
  const slices = 8
  let n = 0
  for (let s = 0; s < slices; s++) {
    const own = Float64Array.from(of(z, between(f, (0.3 * s) / slices, (0.3 * (s + 1)) / slices))).sort()
    if (own.length < 8) continue
    let gap = 0,
      at = 0
    for (let i = 1; i < own.length; i++)
      if (own[i] - own[i - 1] > gap) {
        gap = own[i] - own[i - 1]
        at = i / own.length
      }
    if (gap > 0.12 * tall && at > 0.2 && at < 0.8) n++
  }
  // none is so long for its height; what lies is
  const long = (quantile(z, 0.99) - quantile(z, 0.01)) / tall
  return (Math.max(0, Math.min(1, (2.62 - long) / 0.1)) * n) / slices
}
