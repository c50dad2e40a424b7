import { ChiraxisError, dot } from '../math'
import { buildComplex, sidesOf, type QuadComplex, type TubePlan } from './complex'
import { girthAt, radiusAt, usualGirth, type MeasuredLimb } from './measured'
import type { Cut } from './sections'
import { stationsAlong } from './stations'

/** How a light body is put together, and where its rings are cut. */
export interface Layout {
  readonly plans: readonly TubePlan[]
  readonly complex: QuadComplex
  /** For each limb and ring the cut it lies on; undefined where the ring lies between limbs and is filled in. */
  readonly cuts: ReadonlyMap<string, readonly (Cut | undefined)[]>
  /** For each limb the place around that looks against its `deep`; it may lie between two. */
  readonly facing: ReadonlyMap<string, number>
}

/** How much finer than everything else a part is. */
export type Density = Readonly<Partial<Record<'trunk' | 'head' | 'arms' | 'hands' | 'legs', number>>>

const FEWEST = 200

/**
 * The layout whose number of quads is nearest to what is asked for: the length of edges is searched for first, then how far
 * rings stand apart.
 * @throws ChiraxisError `bad-input` for numbers no body can be made of
 */
export function layoutFor(limbs: readonly MeasuredLimb[], quads: number, height: number, density: Density = {}): Layout {
  if (!(quads >= FEWEST && quads <= 200_000))
    throw new ChiraxisError('bad-input', `A light body has from ${FEWEST} to 200000 quads.`)
  let low = Math.log(0.0008 * height),
    high = Math.log(0.12 * height)
  let best: Layout | undefined
  let edge = 0.01 * height
  const off = (l: Layout): number => Math.abs(l.complex.quads.length / 4 - quads)
  const keep = (l: Layout, e: number): void => {
    if (best && off(l) >= off(best)) return
    best = l
    edge = e
  }
  for (let i = 0; i < 16; i++) {
    const e = Math.exp((low + high) / 2)
    const layout = layoutOf(limbs, e, 1, height, density)
    if (layout) keep(layout, e)
    if (layout && layout.complex.quads.length / 4 > quads) low = Math.log(e)
    else high = Math.log(e)
  }
  let tight = 0.5,
    wide = 2
  const around = edge
  for (let i = 0; i < 10; i++) {
    const apart = (tight + wide) / 2
    const layout = layoutOf(limbs, around, apart, height, density)
    if (layout) keep(layout, around)
    if (layout && layout.complex.quads.length / 4 > quads) tight = apart
    else wide = apart
  }
  return best!
}

const even = (n: number): number => 2 * Math.round(n / 2)
const clamp = (n: number, low: number, high: number): number => Math.min(high, Math.max(low, n))
/** The whole number nearest to `n` that differs from `like` by an even one. */
const alike = (n: number, like: number): number => like + even(n - like)

/** A layout with edges of about a length. @param apart how far rings stand apart against that length */
function layoutOf(limbs: readonly MeasuredLimb[], edge: number, apart: number, height: number, density: Density): Layout | undefined {
  const plans: TubePlan[] = []
  const cuts = new Map<string, (Cut | undefined)[]>()
  const facing = new Map<string, number>()
  const of = (id: string): MeasuredLimb | undefined => limbs.find(l => l.id === id)
  const trunk = limbs[0]
  const fine = (part: keyof Density): number => edge / (density[part] ?? 1)

  const hands = (['left', 'right'] as const).map(side => handOf(limbs, side, fine('hands'), fine('arms')))
  const halves = hands.flatMap(h => (h ? [h.half] : []))
  const girth = usualGirth(trunk)
  const about = Math.max(4, Math.round(girth / (1.15 * fine('trunk')) / 2))
  const least = halves.length > 0 ? Math.min(...halves) : 0
  const deep = least > 0 ? clamp(Math.round(0.56 * least), 1, least - 1) : Math.max(2, Math.round(0.42 * about))
  const legs = limbs.filter(l => l.kind === 'leg')
  const wide = Math.max(4, even(about - deep))
  const fork = 2 * Math.max(1, Math.round((0.006 * height) / edge))
  const crotch = wide - fork >= 2 ? fork : wide - 2
  const legWide = (wide - crotch) / 2
  const rows = hands.map(h => (h ? h.half - deep : 0))
  const tall = Math.max(0, ...rows)

  // the trunk, from the legs up to the shoulders; above the fork of the legs rows are spanned from its sides to the fork
  const low = Math.max(
    0.1 * trunk.axis.length,
    ...legs.map(l => trunk.axis.nearest(l.axis.at(0).place) + 0.03 * height),
  )
  const shoulders = limbs.filter(l => l.kind === 'arm')
  const high = shoulders.length
    ? Math.min(
        ...shoulders.map(l =>
          l.parting
            ? trunk.axis.nearest([trunk.axis.at(trunk.axis.length / 2).place[0], l.parting[1], trunk.axis.at(trunk.axis.length / 2).place[2]])
            : trunk.axis.nearest(l.axis.at(0).place) - 0.07 * height,
        ),
      ) - 0.4 * edge
    : trunk.axis.length - 0.02 * height
  const trunkStations = stationsAlong(
    low, Math.max(low + 0.02 * height, high), trunk.joints, 1.15 * fine('trunk') * apart,
    () => 0.45 * fine('trunk') + 0.012 * height,
  )
  const spanned = Math.max(1, Math.round((0.055 * height) / (fine('trunk') * apart)))
  const trunkRings = spanned + trunkStations.length + Math.max(1, tall)
  plans.push({ id: 'trunk', across: wide, deep, end: { across: wide, deep, from: 0 }, rings: trunkRings })
  const none = (length: number): undefined[] => Array.from({ length }, () => undefined)
  cuts.set('trunk', [...none(spanned), ...trunkStations.map(s => ({ s })), ...none(Math.max(1, tall))])
  facing.set('trunk', wide / 2)

  for (const limb of legs) {
    const n = legWide + deep
    const endWide = clamp(alike(0.62 * n, legWide), 1, n - 1)
    const endAcross = endWide >= 1 && n - endWide >= 1 ? endWide : legWide
    const left = limb.side === 'left'
    const stations = ringsOf(limb, fine('legs') * apart)
    plans.push({
      id: limb.id, across: legWide, deep,
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
    const below = Math.max(2, Math.round((thin + 0.02 * height) / (fine('head') * apart)))
    const stations = stationsAlong(
      thin, head.end - 0.3 * radiusAt(head, head.end - 0.1 * (head.end - thin)), head.joints,
      fine('head') * apart, s => 0.25 * radiusAt(head, s),
    )
    plans.push({
      id: 'head', across, deep, end: { across: endAcross, deep: n - endAcross, from: mod((across - endAcross) / 2, 2 * n) },
      rings: below + stations.length, window: { host: 'trunk', on: 'top', u: (wide - across) / 2, v: 0 },
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
    const stations = ringsOf(arm, fine('arms') * apart, fingers.length > 0 ? webOf(arm, fingers) : undefined, thumb ? thumbTall + 2 : 0)
    const frame = arm.axis.at(arm.axis.length)
    const back = fingers[0]?.deep
    const turn = back ? Math.atan2(dot(back, frame.deep), dot(back, frame.across)) - Math.PI / 2 : 0
    const from = mod(Math.round(deep / 2 + (turn / (2 * Math.PI)) * 2 * n - p / 2), 2 * n)
    plans.push({
      id: arm.id, across: deep, deep: up, end: { across: p, deep: q, from }, rings: stations.length,
      window: {
        host: 'trunk', on: 'wall', at: left ? wide : 2 * wide + deep, ring: trunkRings - 1 - up,
      },
    })
    cuts.set(arm.id, stations)
    facing.set(arm.id, deep / 2)
    fingers.forEach((finger, k) => {
      const u = k * (fingerWide + gap)
      const rings = ringsOf(finger, 0.62 * fine('hands') * apart)
      plans.push({
        id: finger.id, across: fingerWide, deep: q, end: { across: fingerWide, deep: q, from: 0 }, rings: rings.length,
        window: { host: arm.id, on: 'top', u: left ? u : p - fingerWide - u, v: 0 },
      })
      cuts.set(finger.id, rings)
      facing.set(finger.id, fingerWide / 2)
    })
    if (thumb) {
      const at = arm.axis.nearest(thumb.axis.at(thumb.root.s).place)
      let ring = 1
      stations.forEach((c, r) => {
        if (c && r + thumbTall < stations.length - 1 && Math.abs(c.s - (at - (thumbTall * fine('arms')) / 2)) < Math.abs((stations[ring]?.s ?? 0) - (at - (thumbTall * fine('arms')) / 2))) ring = r
      })
      const rings = ringsOf(thumb, 0.62 * fine('hands') * apart)
      plans.push({
        id: thumb.id, across: q, deep: thumbTall, end: { across: q, deep: thumbTall, from: 0 }, rings: rings.length,
        window: { host: arm.id, on: 'wall', at: mod(from + (left ? 2 * p + q : p), 2 * n), ring },
      })
      cuts.set(thumb.id, rings)
      facing.set(thumb.id, q / 2)
    }
  })
  try {
    return { plans, complex: buildComplex(plans), cuts, facing }
  } catch (e) {
    return undefined
  }
}

const mod = (a: number, n: number): number => ((Math.round(a) % n) + n) % n

/** Rings from where a limb parts to near its end; those at its root lean and straighten up on the way. */
function ringsOf(limb: MeasuredLimb, spacing: number, to?: number, handRings = 0): Cut[] {
  const { root, joints, end } = limb
  const from = root.s
  const small = limb.kind === 'finger' || limb.kind === 'thumb'
  const last = to ?? end - (small ? 0.5 : 0.45) * radiusAt(limb, from + 0.93 * (end - from))
  const close = (s: number): number => Math.max(0.3 * radiusAt(limb, s), Math.min(spacing, 0.6 * radiusAt(limb, s)))
  // the joint at the root has its rings where the limb leaves
  const near = small ? [] : [from + close(from), from + 2 * close(from)]
  const others = joints.filter(j => j > (near[1] ?? from) + 0.3 * close(from))
  const start = near[1] ?? from
  let list = [...(near.length ? [from, near[0]] : []), ...stationsAlong(start, Math.max(start + 1e-3, last), others, spacing, close)]
  if (handRings > 0 && joints.length > 2) {
    const wrist = joints[2]
    const inner = list.filter(s => s > wrist + 1e-6)
    if (inner.length < handRings) {
      list = list.filter(s => s <= wrist + 1e-6)
      for (let k = 1; k <= handRings; k++) list.push(wrist + ((last - wrist) * k) / handRings)
    }
  }
  const held = (s: number): { hold?: number } =>
    s <= (near[1] ?? 0) + 1e-6 || joints.some(j => Math.abs(j - s) < 1.3 * close(j)) ? { hold: 0.85 } : {}
  if (!root.lean || !root.toward) return list.map(s => ({ s, ...held(s) }))
  const fade = 2.2 * root.lean * radiusAt(limb, from) + close(from)
  return list.map(s => {
    const lean = root.lean! * Math.max(0, 1 - (s - from) / fade)
    return lean > 0 ? { s, lean, toward: root.toward, ...held(s) } : { s, ...held(s) }
  })
}

/** How far along an arm its fingers part. */
function webOf(arm: MeasuredLimb, fingers: readonly MeasuredLimb[]): number {
  const list = fingers.map(f => arm.axis.at(0) && alongOf(arm, f))
  const mean = list.reduce((a, b) => a + b, 0) / list.length
  return Math.max(mean, arm.joints[arm.joints.length - 1])
}
function alongOf(arm: MeasuredLimb, finger: MeasuredLimb): number {
  const at = finger.axis.at(finger.root.s).place
  const tip = arm.axis.at(arm.axis.length)
  return arm.axis.length + (at[0] - tip.place[0]) * tip.along[0] + (at[1] - tip.place[1]) * tip.along[1] + (at[2] - tip.place[2]) * tip.along[2]
}

/** Where a neck is thinnest. */
function thinnest(head: MeasuredLimb): number {
  const from = head.root.s
  const upTo = (head.joints[1] ?? 0.3 * head.end) * 1.3
  let best = from + 0.5 * (upTo - from)
  let least = Infinity
  for (let k = 0; k <= 12; k++) {
    const s = from + ((upTo - from) * (k + 2)) / 14
    const g = girthAt(head, s)
    if (g < least) {
      least = g
      best = s
    }
  }
  return best
}

interface HandPlan {
  readonly arm: MeasuredLimb
  readonly fingers: readonly MeasuredLimb[]
  readonly thumb?: MeasuredLimb
  /** Cells of the hand's end. */
  readonly across: number
  readonly deep: number
  readonly half: number
  readonly fingerWide: number
  readonly gap: number
  readonly thumbTall: number
}

/** How many cells a hand and its arm have: fingers side by side fill the end of the hand. */
function handOf(limbs: readonly MeasuredLimb[], side: 'left' | 'right', handEdge: number, armEdge: number): HandPlan | undefined {
  const arm = limbs.find(l => l.id === `${side}Arm`)
  if (!arm) return undefined
  const fingers = limbs.filter(l => l.host === arm.id && l.kind === 'finger')
  const thumb = limbs.find(l => l.host === arm.id && l.kind === 'thumb')
  const wanted = Math.max(4, Math.round(usualGirth(arm) / armEdge / 2))
  if (fingers.length === 0) {
    const across = Math.max(2, Math.round(0.6 * wanted))
    const deep = Math.max(1, wanted - across)
    return { arm, fingers, ...(thumb && { thumb }), across, deep, half: across + deep, fingerWide: 1, gap: 0, thumbTall: Math.max(1, Math.round(wanted / 5)) }
  }
  const girth = fingers.reduce((a, f) => a + usualGirth(f), 0) / fingers.length
  const half = Math.max(2, Math.round(girth / (0.62 * handEdge) / 2))
  const fingerWide = Math.max(1, Math.floor(half / 2))
  let deep = Math.max(1, half - fingerWide)
  let gap = 0
  const count = fingers.length
  const all = (): number => count * fingerWide + (count - 1) * gap
  if (count > 1 && all() + deep < 0.75 * wanted) gap = 1
  if (all() + deep < 4) deep = 4 - all()
  const across = all()
  return { arm, fingers, ...(thumb && { thumb }), across, deep, half: across + deep, fingerWide, gap, thumbTall: fingerWide }
}

export { sidesOf }
