import type { Tubes, Wanted } from './layout'
import { radiusAt, usualGirth, type MeasuredLimb } from './measured'
import { none, ringsOf } from './rings'
import { stationsAlong } from './stations'
import { alike, clamp, even, mod } from './whole'

/**
 * The tubes of a body on four legs: a trunk from rump to chest that goes on as neck and head, legs through windows in its sides, a
 * tail through its rear end.
 */
export function fourlegTubes(
  limbs: readonly MeasuredLimb[],
  wanted: Wanted,
  height: number,
  { plans, cuts, facing }: Tubes,
): void {
  const trunk = limbs[0]
  const head = limbs.find(l => l.kind === 'head')
  const legs = limbs.filter(l => l.kind === 'leg')
  const half = Math.max(6, Math.round(usualGirth(trunk) / (1.1 * wanted.around('trunk')) / 2))
  const wide = Math.max(4, even(0.5 * half))
  const deep = Math.max(2, half - wide)
  const n = 2 * (wide + deep)
  const from = trunk.root.s + 0.3 * radiusAt(trunk, trunk.root.s + 0.1 * trunk.axis.length)
  const to = Math.max(
    from + 0.05 * height,
    trunk.axis.length - (head ? 0.02 * height : 0.3 * radiusAt(trunk, trunk.axis.length)),
  )
  const stations = stationsAlong(
    from,
    to,
    trunk.joints,
    wanted.along('trunk'),
    () => 0.5 * wanted.around('trunk') + 0.01 * height,
  )
  plans.push({ id: 'trunk', across: wide, deep, end: { across: wide, deep, from: 0 }, rings: stations.length })
  cuts.set(
    'trunk',
    stations.map(s => ({ s })),
  )
  facing.set('trunk', wide / 2)
  if (head) {
    const endWide = clamp(alike(0.5 * half, wide), 1, half - 1)
    const start = 0.35 * (head.joints[1] ?? 0.2 * head.end)
    const rings = stationsAlong(
      start,
      head.end - 0.35 * radiusAt(head, head.end),
      head.joints,
      wanted.along('head'),
      s => 0.3 * radiusAt(head, s),
    )
    const below = Math.max(1, Math.round((start + 0.02 * height) / wanted.along('head')))
    plans.push({
      id: head.id,
      across: wide,
      deep,
      end: { across: endWide, deep: half - endWide, from: mod((wide - endWide) / 2, n) },
      rings: below + rings.length,
      window: { host: 'trunk', on: 'top', u: 0, v: 0 },
    })
    cuts.set(head.id, [...none(below), ...rings.map(s => ({ s }))])
    facing.set(head.id, wide / 2)
  }
  for (const leg of legs) {
    const sides = Math.max(4, Math.round(usualGirth(leg) / wanted.around('legs') / 2))
    const up = clamp(Math.round(0.55 * sides), 1, deep - 1)
    const at = trunk.axis.nearest(leg.axis.at(Math.max(0, leg.root.s)).place)
    // rings under the window reach as far ahead as behind the leg
    const reach = 1.1 * radiusAt(leg, leg.root.s)
    let first = stations.findIndex(s => s > at - reach)
    let last = stations.length - 1 - [...stations].reverse().findIndex(s => s < at + reach)
    first = clamp(first, 1, stations.length - 3)
    last = clamp(last, first + 1, stations.length - 2)
    const tall = last - first
    const m = up + tall
    const endWide = clamp(alike(0.6 * m, up), 1, m - 1)
    const rings = ringsOf(leg, wanted.along('legs'))
    const left = leg.side === 'left'
    plans.push({
      id: leg.id,
      across: up,
      deep: tall,
      end: { across: endWide, deep: m - endWide, from: mod((up - endWide) / 2, 2 * m) },
      rings: rings.length,
      window: { host: 'trunk', on: 'wall', at: left ? wide : mod(2 * wide + 2 * deep - up, n), ring: first },
    })
    cuts.set(leg.id, rings)
    facing.set(leg.id, up / 2)
  }
  const tail = limbs.find(l => l.kind === 'tail' && !l.loose)
  if (tail) {
    const cells = clamp(Math.round(usualGirth(tail) / (0.8 * wanted.around('trunk')) / 4), 1, Math.min(wide, deep - 1))
    const across = cells + ((wide - cells) % 2)
    const rings = ringsOf(tail, wanted.along('trunk'))
    plans.push({
      id: tail.id,
      across,
      deep: cells,
      end: { across, deep: cells, from: 0 },
      rings: rings.length,
      window: { host: 'trunk', on: 'bottom', u: (wide - across) / 2, v: deep - cells - (deep - cells > 1 ? 1 : 0) },
    })
    cuts.set(tail.id, rings)
    facing.set(tail.id, across / 2)
  }
}
