import { maxOf, minOf } from '../math'
import { between, clamp, isLong, middleOf, of, quantile, type Framed } from './framed'

/** How much longer a foot that shows is than the shank above it, at least. */
const FOOT = 1.05
const reachOf = (values: number[]): number => quantile(values, 0.94) - quantile(values, 0.06)

type FacingCue = 'feet' | 'toes' | 'hands' | 'forearms' | 'head' | 'stoop' | 'chest'
/** How much each tells: from a logistic fit on 294 figures of many proportions, stances and dresses, 115 of them in robes. */
const FACING_WEIGHTS: Readonly<Record<FacingCue, number>> = {
  feet: 0.3,
  toes: 0.4,
  hands: 0.35,
  forearms: 0.5,
  head: 0.33,
  stoop: 0.9,
  chest: 0.5,
}

/** What tells which way along z a body looks: each about -1 to 1, above 0 for ahead. */
function facingCues(f: Framed): Record<FacingCue, number> {
  const { x, y, z, tall, ground } = f
  const cues = { feet: 0, toes: 0, hands: 0, forearms: 0, head: 0, stoop: 0, chest: 0 }
  const near =
    (share: number) =>
    (i: number): boolean =>
      Math.abs(x[i]) < share * tall
  const depths = (low: number, high: number, only: (i: number) => boolean): number[] =>
    of(z, between(f, low, high, only))
  // a hem hides where feet point
  const low = between(f, 0.01, 0.08, near(0.4))
  const hem = low.filter(near(0.01)).length > 0.03 * low.length
  const chest = quantile(depths(0.5, 0.8, near(0.1)), 0.5)
  // below any head, however large; cloth that hangs to the ground hides where the seat is
  const seat = hem ? chest : quantile(depths(0.3, 0.52, near(0.1)), 0.5)
  for (const side of [1, -1]) {
    const mine = (from: number, to: number): number[] =>
      depths(from, to, i => x[i] * side > 0.005 * tall && x[i] * side < 0.4 * tall)
    const [sole, shank] = [mine(0, 0.035), mine(0.08, 0.11)]
    // above thick soles; a foot that shows is longer than the shank on it, a hem is not
    if (sole.length > 8 && shank.length > 8 && reachOf(sole) > FOOT * reachOf(shank))
      cues.feet += 0.5 * clamp((middleOf(sole) - middleOf(shank)) / (0.018 * tall), 2)
  }
  // toes look out from under what hangs above them farther than heels do
  const [soles, above] = [depths(0, 0.02, near(0.3)), depths(0.04, 0.09, near(0.3))]
  if (soles.length > 8 && above.length > 8) {
    const out = [0.01, 0.99].reduce((sum, q) => sum + quantile(soles, q) - quantile(above, q), 0)
    cues.toes = clamp(out / (0.03 * tall), 1.5)
  }
  const reach = quantile([...x].map(Math.abs), 0.97)
  const arm = (from: number, to: number): number[] =>
    of(
      z,
      [...y.keys()].filter(i => {
        const out = Math.abs(x[i]) / (reach || 1)
        return out > from && out <= to && (y[i] - ground) / tall > 0.15
      }),
    )
  const [hands, wrists, elbows] = [arm(1, Infinity), arm(0.95, 2), arm(0.5, 0.7)]
  if (hands.length > 4) cues.hands = clamp((quantile(hands, 0.5) - seat) / (0.06 * tall))
  if (wrists.length > 4 && elbows.length > 4)
    cues.forearms = clamp((quantile(wrists, 0.5) - quantile(elbows, 0.5)) / (0.05 * tall), 1.5)
  const head = quantile(depths(0.88, 0.97, near(0.12)), 0.5)
  cues.head = clamp((head - seat) / (0.07 * tall), 1.5)
  const face = depths(neckOf(f) + 0.03, 0.99, near(0.15))
  if (face.length > 8) cues.stoop = clamp((middleOf(face) - chest) / (0.04 * tall), 1.5)
  cues.chest = clamp((chest - seat) / (0.03 * tall))
  return cues
}

/** Rows a neck is looked for in, and where they begin, as shares of height. */
const ROWS = 40
const LOWEST_NECK = 0.55
const ROW = 0.011
/** How high the narrowest row below something broader is: the neck, or what comes next to one. */
function neckOf(f: Framed): number {
  const { x, tall } = f
  const wide = Array.from({ length: ROWS }, (_, k) => {
    const row = between(f, LOWEST_NECK + ROW * k, LOWEST_NECK + ROW * (k + 1), i => Math.abs(x[i]) < 0.25 * tall)
    return row.length > 4 ? quantile(of(x, row).map(Math.abs), 0.9) : Infinity
  })
  let [neck, least, above] = [0, Infinity, 0]
  for (let k = ROWS - 1; k >= 4; k--) {
    if (k < ROWS - 4 && wide[k] < least && above > 1.1 * wide[k]) [neck, least] = [k, wide[k]]
    if (wide[k] < Infinity) above = Math.max(above, wide[k])
  }
  return LOWEST_NECK + ROW * neck
}

/**
 * Which way along z a body looks, above 0 for ahead, and how clearly: about 1 and more is clear. Feet reach ahead of
 * their shanks and toes from under a hem, forearms bend ahead of their elbows, hands, chest and head lie ahead of the seat, and the
 * head ahead of the chest.
 */
export function looksAhead(f: Framed): number {
  if (isLong(f)) return beastLooksAhead(f)
  const cues = facingCues(f)
  return (Object.keys(cues) as FacingCue[]).reduce((sum, k) => sum + FACING_WEIGHTS[k] * cues[k], 0)
}

/**
 * The same of a body that goes on four legs: more of it reaches out over the forelegs than over the hind ones, its paws
 * point ahead, its head is high as a rule.
 */
function beastLooksAhead(f: Framed): number {
  const { y, z, tall, ground } = f
  const [back, front] = [minOf(z), maxOf(z)]
  const legs = of(z, between(f, 0, 0.12))
  const [hind, fore] = [quantile(legs, 0.05), quantile(legs, 0.95)]
  let over = 0,
    behind = 0
  for (let i = 0; i < z.length; i++) {
    if ((y[i] - ground) / tall < 0.15) continue
    if (z[i] > fore) over++
    if (z[i] < hind) behind++
  }
  const overhang = (over - behind) / Math.max(1, over + behind)
  const middle = (hind + fore) / 2
  let paws = 0
  for (const half of [1, -1]) {
    const mine = (low: number, high: number): number[] =>
      of(
        z,
        between(f, low, high, i => (z[i] - middle) * half > 0),
      )
    const [sole, shank] = [mine(0, 0.03), mine(0.07, 0.11)]
    if (sole.length > 6 && shank.length > 6) paws += 0.5 * clamp((middleOf(sole) - middleOf(shank)) / (0.02 * tall))
  }
  const top = of(z, between(f, 0.8, 1))
  const high = clamp((top.reduce((a, b) => a + b, 0) / Math.max(1, top.length) - (back + front) / 2) / (0.1 * tall))
  return 1.4 * overhang + 0.8 * paws + 0.4 * high
}
