import type { Eyeball } from './landmark'
import { placeAt, type FaceSkin } from './surface'

/** Where between its lids an eye shuts: this share of the way up from the lower one. */
const MEET = 0.15
/** How far lids reach up and down from their edges, radians, and out from the ball, in radii. */
const REACH = { up: 1.1, down: 0.8, out: 1 }
/** How far ahead of the ball lids stay on their way, in radii. */
const CLEAR = 1.02

/**
 * How far each place of the skin goes when an eye shuts by some share: lids turn about the axis across the ball's middle, each by
 * what is open where it is, so that they stay as far from the ball as they were. A morph shape takes the straight way, which cuts
 * the corner of that turn; lids are lifted by as much as keeps them off the ball half-way.
 * @param share 1 shuts it, less than 0 opens it wider
 * @returns 3·count, metres
 */
export function shutEye(skin: FaceSkin, { centre, radius: R, rim }: Eyeball, share: number): Float32Array {
  const out = new Float32Array(3 * skin.count)
  if (rim.length < 3) return out
  const [low, high] = [rim[0].x, rim[rim.length - 1].x]
  /** Angles at which the lids begin, at a place across. */
  const edges = (x: number): { upper: number; lower: number } => {
    let i = 0
    while (i < rim.length - 2 && rim[i + 1].x < x) i++
    const [a, b] = [rim[i], rim[i + 1]]
    const t = Math.min(1, Math.max(0, (x - a.x) / (b.x - a.x || 1)))
    const section = Math.sqrt(Math.max((0.15 * R) ** 2, R * R - (x - centre[0]) ** 2))
    const angle = (y: number): number => Math.asin(Math.min(0.98, Math.max(-0.98, (y - centre[1]) / section)))
    return { upper: angle(a.top + t * (b.top - a.top)), lower: angle(a.bottom + t * (b.bottom - a.bottom)) }
  }
  for (let i = 0; i < skin.count; i++) {
    const [x, y, z] = placeAt(skin, i)
    const [py, pz] = [y - centre[1], z - centre[2]]
    const away = Math.hypot(x - centre[0], py, pz)
    if (away > (1.3 + REACH.out) * R || pz < -0.6 * R) continue
    const angle = Math.atan2(py, pz)
    const across = Math.min(high, Math.max(low, x))
    const { upper, lower } = edges(across)
    const meet = lower + MEET * (upper - lower)
    const above = angle >= (upper + lower) / 2
    const from = above ? (angle - upper) / REACH.up : (lower - angle) / REACH.down
    // beside the corners lids end
    const beside = Math.max(0, low - x, x - high) / (0.6 * R)
    const far = Math.max(0, away - 1.3 * R) / (REACH.out * R)
    const weight = ease(1 - from) * ease(1 - beside) * ease(1 - far)
    if (weight === 0) continue
    const turn = weight * share * ((above ? upper : lower) - meet)
    const rho = Math.hypot(py, pz)
    const lift = share > 0 ? Math.max(0, (2 * CLEAR * R) / Math.cos(turn / 2) - 2 * away) : 0
    const scale = 1 + (lift * weight) / Math.max(rho, 0.2 * R)
    const to = angle - turn
    out[3 * i + 1] = rho * scale * Math.sin(to) - py
    out[3 * i + 2] = rho * scale * Math.cos(to) - pz
  }
  return out
}

/** 0 under 0, 1 over 1, smooth between. */
export const ease = (t: number): number => {
  const x = Math.min(1, Math.max(0, t))
  return x * x * (3 - 2 * x)
}
