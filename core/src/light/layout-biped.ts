import { dot, maxOf, minOf } from '../math'
import { handOf, webOf } from './hand'
import type { Tubes, Wanted } from './layout'
import { radiusAt, underSkirt, usualGirth, type MeasuredLimb } from './measured'
import { none, ringsOf, thinnest } from './rings'
import { stationsAlong } from './stations'
import { alike, clamp, even, mod } from './whole'

/** Whether both legs are hidden under one surface. */
export const underRobe = (limbs: readonly MeasuredLimb[]): boolean => {
  const legs = limbs.filter(l => l.kind === 'leg')
  return legs.length === 2 && legs.every(l => !l.parting && !l.fourleg)
}

/** The tubes of a body on two legs: trunk, legs, head, arms and fingers. */
export function bipedTubes(
  limbs: readonly MeasuredLimb[],
  wanted: Wanted,
  height: number,
  { plans, cuts, facing }: Tubes,
): void {
  const of = (id: string): MeasuredLimb | undefined => limbs.find(l => l.id === id)
  const trunk = limbs[0]
  const fine = wanted.around
  const edge = fine('trunk')

  const hands = (['left', 'right'] as const).map(side => handOf(limbs, side, fine('hands'), fine('arms')))
  const halves = hands.flatMap(h => (h ? [h.half] : []))
  const girth = usualGirth(trunk)
  const about = Math.max(4, Math.round(girth / (1.15 * fine('trunk')) / 2))
  const least = halves.length > 0 ? minOf(halves) : 0
  const deep = least > 0 ? clamp(Math.round(0.56 * least), 1, least - 1) : Math.max(2, Math.round(0.42 * about))
  // under a robe to the ground legs are not seen to part: the trunk goes down to its hem
  const robed = underRobe(limbs)
  const legs = robed ? [] : limbs.filter(l => l.kind === 'leg')
  const wide = Math.max(4, even(about - deep))
  const fork = 2 * Math.max(1, Math.round((0.006 * height) / edge))
  const crotch = wide - fork >= 2 ? fork : wide - 2
  const legWide = (wide - crotch) / 2
  const rows = hands.map(h => (h ? h.half - deep : 0))
  const tall = maxOf(rows, 0)

  // the trunk, from the legs up to the shoulders; above the fork of the legs rows are spanned from its sides to the fork
  const low = robed
    ? 0.02 * height - trunk.points[0][1]
    : maxOf(
        legs.map(l =>
          underSkirt(l)
            ? l.axis.at(l.root.s).place[1] - trunk.points[0][1] + 0.03 * height
            : trunk.axis.nearest(l.axis.at(0).place) + 0.03 * height,
        ),
        legs.some(underSkirt) ? -Infinity : 0.1 * trunk.axis.length,
      )
  const shoulders = limbs.filter(l => l.kind === 'arm')
  const high = shoulders.length
    ? minOf(
        shoulders.map(l =>
          l.parting
            ? trunk.axis.nearest([
                trunk.axis.at(trunk.axis.length / 2).place[0],
                l.parting[1],
                trunk.axis.at(trunk.axis.length / 2).place[2],
              ])
            : trunk.axis.nearest(l.axis.at(0).place) - 0.07 * height,
        ),
      ) -
      0.4 * edge
    : trunk.axis.length - 0.02 * height
  const trunkStations = stationsAlong(
    low,
    Math.max(low + 0.02 * height, high),
    trunk.joints,
    1.15 * wanted.along('trunk'),
    () => 0.45 * fine('trunk') + 0.012 * height,
  )
  const spanned = robed ? 0 : Math.max(1, Math.round((0.055 * height) / wanted.along('trunk')))
  const trunkRings = spanned + trunkStations.length + Math.max(1, tall)
  plans.push({ id: 'trunk', across: wide, deep, end: { across: wide, deep, from: 0 }, rings: trunkRings })
  cuts.set('trunk', [...none(spanned), ...trunkStations.map(s => ({ s })), ...none(Math.max(1, tall))])
  facing.set('trunk', wide / 2)

  for (const limb of legs) {
    const n = legWide + deep
    const endWide = clamp(alike(0.62 * n, legWide), 1, n - 1)
    const endAcross = endWide >= 1 && n - endWide >= 1 ? endWide : legWide
    const left = limb.side === 'left'
    const stations = ringsOf(limb, wanted.along('legs'))
    plans.push({
      id: limb.id,
      across: legWide,
      deep,
      end: { across: endAcross, deep: n - endAcross, from: mod((legWide - endAcross) / 2, 2 * n) },
      rings: stations.length,
      window: { host: 'trunk', on: 'bottom', u: left ? wide - legWide : 0, v: 0 },
    })
    cuts.set(limb.id, stations)
    facing.set(limb.id, legWide / 2)
  }

  const head = of('head')
  if (head) {
    const half = Math.round(usualGirth(head) / (0.95 * fine('head')) / 2)
    const across = clamp(even(half - deep), 2, Math.max(2, wide - 2))
    const n = across + deep
    const endAcross = clamp(alike(n / 2, across), 1, n - 1)
    const thin = thinnest(head)
    const below = Math.max(2, Math.round((thin + 0.02 * height) / wanted.along('head')))
    const stations = stationsAlong(
      thin,
      head.end - 0.3 * radiusAt(head, head.end - 0.1 * (head.end - thin)),
      head.joints,
      wanted.along('head'),
      s => 0.25 * radiusAt(head, s),
    )
    plans.push({
      id: 'head',
      across,
      deep,
      end: { across: endAcross, deep: n - endAcross, from: mod((across - endAcross) / 2, 2 * n) },
      rings: below + stations.length,
      window: { host: 'trunk', on: 'top', u: (wide - across) / 2, v: 0 },
    })
    cuts.set('head', [...none(below), ...stations.map(s => ({ s }))])
    facing.set('head', across / 2)
  }

  hands.forEach((hand, i) => {
    if (!hand) return
    const { arm, across: p, deep: q, fingers, thumb, gap, fingerWide, thumbTall } = hand
    const left = i === 0
    const up = rows[i]
    const n = deep + up
    const stations = ringsOf(
      arm,
      wanted.along('arms'),
      fingers.length > 0 ? webOf(arm, fingers) : undefined,
      thumb ? thumbTall + 2 : 0,
    )
    const frame = arm.axis.at(arm.axis.length)
    const back = fingers[0]?.deep
    const turn = back ? Math.atan2(dot(back, frame.deep), dot(back, frame.across)) - Math.PI / 2 : 0
    const from = mod(Math.round(deep / 2 + (turn / (2 * Math.PI)) * 2 * n - p / 2), 2 * n)
    plans.push({
      id: arm.id,
      across: deep,
      deep: up,
      end: { across: p, deep: q, from },
      rings: stations.length,
      window: {
        host: 'trunk',
        on: 'wall',
        at: left ? wide : 2 * wide + deep,
        ring: trunkRings - 1 - up,
      },
    })
    cuts.set(arm.id, stations)
    facing.set(arm.id, deep / 2)
    fingers.forEach((finger, k) => {
      const u = k * (fingerWide + gap)
      const rings = ringsOf(finger, 0.62 * wanted.along('hands'))
      plans.push({
        id: finger.id,
        across: fingerWide,
        deep: q,
        end: { across: fingerWide, deep: q, from: 0 },
        rings: rings.length,
        window: { host: arm.id, on: 'top', u: left ? u : p - fingerWide - u, v: 0 },
      })
      cuts.set(finger.id, rings)
      facing.set(finger.id, fingerWide / 2)
    })
    if (thumb) {
      const at = arm.axis.nearest(thumb.axis.at(thumb.root.s).place)
      let ring = 1
      stations.forEach((c, r) => {
        if (
          c &&
          r + thumbTall < stations.length - 1 &&
          Math.abs(c.s - (at - (thumbTall * fine('arms')) / 2)) <
            Math.abs((stations[ring]?.s ?? 0) - (at - (thumbTall * fine('arms')) / 2))
        )
          ring = r
      })
      const rings = ringsOf(thumb, 0.62 * wanted.along('hands'))
      plans.push({
        id: thumb.id,
        across: q,
        deep: thumbTall,
        end: { across: q, deep: thumbTall, from: 0 },
        rings: rings.length,
        window: { host: arm.id, on: 'wall', at: mod(from + (left ? 2 * p + q : p), 2 * n), ring },
      })
      cuts.set(thumb.id, rings)
      facing.set(thumb.id, q / 2)
    }
  })
}
