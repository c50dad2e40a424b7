import { dot, sub } from '../math'
import { sidesOf } from './complex'
import type { Tubes, Wanted } from './layout'
import { usualGirth, type MeasuredLimb } from './measured'
import { ringsOf } from './rings'
import { clamp, mod } from './whole'

/**
 * Tubes of what else hangs on a body: tails, ears, drawn chains. Each leaves by a window in the wall of its host where its root is nearest; one that
 * finds no room is left to its host.
 */
export function extraLimbs(limbs: readonly MeasuredLimb[], wanted: Wanted, { plans, cuts, facing }: Tubes): void {
  for (const limb of limbs) {
    if ((limb.kind !== 'extra' && limb.kind !== 'tail' && limb.kind !== 'ear') || plans.some(p => p.id === limb.id))
      continue
    if (limb.loose) continue
    const host = plans.find(p => p.id === limb.host)
    const at = limbs.find(l => l.id === limb.host)
    const hostCuts = cuts.get(limb.host ?? '')
    if (!host || !at || !hostCuts) continue
    const n = sidesOf(host)
    const root = limb.axis.at(limb.root.s).place
    const s = at.axis.nearest(root)
    const frame = at.axis.at(s)
    const off = sub(root, frame.place)
    const angle = Math.atan2(dot(off, frame.deep), dot(off, frame.across))
    const around = (facing.get(host.id) ?? 0) + ((angle + Math.PI / 2) / (2 * Math.PI)) * n
    const sides = clamp(Math.round(usualGirth(limb) / (0.8 * wanted.around('trunk')) / 2), 2, 8)
    const across = Math.max(1, Math.floor(sides / 2))
    const deep = Math.max(1, sides - across)
    const rings = ringsOf(limb, wanted.along('trunk'))
    const place = roomFor(
      plans,
      host.id,
      { around, s },
      { across, deep },
      hostCuts.map(c => c?.s),
    )
    if (!place) continue
    plans.push({
      id: limb.id,
      across,
      deep,
      end: { across, deep, from: 0 },
      rings: rings.length,
      window: { host: host.id, on: 'wall', ...place },
    })
    cuts.set(limb.id, rings)
    facing.set(limb.id, across / 2)
  }
}

/** The free window of a wall nearest to a place on it. */
function roomFor(
  plans: Tubes['plans'],
  host: string,
  { around, s }: { around: number; s: number },
  { across, deep }: { across: number; deep: number },
  stations: readonly (number | undefined)[],
): { at: number; ring: number } | undefined {
  const plan = plans.find(p => p.id === host)!
  const n = sidesOf(plan)
  const taken = plans.flatMap(p =>
    p.window?.host === host && p.window.on === 'wall' ? [{ ...p.window, across: p.across, deep: p.deep }] : [],
  )
  let best: { at: number; ring: number } | undefined
  let least = Infinity
  for (let ring = 1; ring + deep < plan.rings - 1; ring++)
    for (let at = 0; at < n; at++) {
      const middle = stations[ring + (deep >> 1)]
      const off = Math.abs(((at + across / 2 - around + 1.5 * n) % n) - n / 2) * 0.5
      const far =
        (middle === undefined
          ? 8
          : (Math.abs(middle - s) /
              (Math.abs((stations[stations.length - 1] ?? 1) - (stations.find(x => x !== undefined) ?? 0)) || 1)) *
            plan.rings) + off
      if (far >= least) continue
      const clash = taken.some(
        t => ring <= t.ring + t.deep && t.ring <= ring + deep && near(at, across, t.at, t.across, n),
      )
      if (clash) continue
      least = far
      best = { at: mod(at, n), ring }
    }
  return least < 6 ? best : undefined
}

/** Whether two stretches around a ring overlap or touch. */
const near = (a: number, aLong: number, b: number, bLong: number, n: number): boolean =>
  mod(b - a, n) <= aLong || mod(a - b, n) <= bLong
