import { add, addScaled, breather, distance, dot, normalize, scale, sub, type Vec3, type WorkOptions } from '../math'
import { limbAxis, type LimbAxis } from './axis'
import type { Limb, LimbTree } from './limbs'
import { girthOf, metOf, partingOf, sectionOf, wholeSection, type Bound, type Counts, type Cut } from './sections'
import { outermostAlong, type Target } from './target'

/** A limb as it lies in a sculpt. */
export interface MeasuredLimb extends Limb {
  /** Its place among the limbs. */
  readonly index: number
  readonly axis: LimbAxis
  /** Where along its axis each bending joint is. */
  readonly joints: readonly number[]
  /** The cut it leaves its host by. */
  readonly root: Cut
  /** Where on the surface it parts from its host, and whether it does. */
  readonly parting?: Vec3
  /** Where along its axis its surface ends. */
  readonly end: number
  /** Length around it at even places from root to end, metres. */
  readonly girths: Float64Array
  /** How far a look around it goes, metres. */
  readonly reach: number
  /** Which of the sculpt counts around it. */
  readonly counts: Counts
  /** Joints that move part of their host's surface, as those of a skirt or of hair do, and no limb that stands out. */
  readonly loose?: boolean
  /** What is supposed of it stays on its side of this. */
  readonly bound?: Bound
}

const GIRTHS = 25

/** Legs that part farther down than this share of a thigh are under a skirt. */
const SKIRT = 0.62

/** Whether a leg leaves the body under a skirt, so that its upper end is hung around by the trunk. */
export const underSkirt = (limb: MeasuredLimb): boolean =>
  limb.kind === 'leg' && !limb.fourleg && limb.root.s > SKIRT * (limb.joints[1] ?? Infinity)

/** Length around a limb at a place along it. */
export function girthAt(limb: MeasuredLimb, s: number): number {
  const t = ((s - limb.root.s) / Math.max(1e-6, limb.end - limb.root.s)) * (GIRTHS - 1)
  const i = Math.min(GIRTHS - 2, Math.max(0, Math.floor(t)))
  const w = Math.min(1, Math.max(0, t - i))
  return limb.girths[i] * (1 - w) + limb.girths[i + 1] * w
}
export const radiusAt = (limb: MeasuredLimb, s: number): number => girthAt(limb, s) / (2 * Math.PI)
/** The usual length around a limb: the middle one of all. */
export const usualGirth = (limb: MeasuredLimb): number => [...limb.girths].sort((a, b) => a - b)[GIRTHS >> 1]

/** Measures every limb of a body. @param height of the body, metres */
export async function measureLimbs(
  target: Target,
  { limbs }: LimbTree,
  height: number,
  work: WorkOptions = {},
): Promise<MeasuredLimb[]> {
  const pulse = breather(work)
  const at = new Map(limbs.map((l, i) => [l.id, i]))
  let out: MeasuredLimb[] = []
  const loose = new Set<number>()
  // how thick limbs are tells how roundly they bend: what is told first is measured again
  for (let turn = 0; turn < 2; turn++) {
    const before = out
    const rooted = limbs.map((limb, index) => {
      const small = limb.kind === 'finger' || limb.kind === 'thumb'
      const usual = before[index] ? usualGirth(before[index]) / (2 * Math.PI) : (small ? 0.006 : 0.03) * height
      const axis = limbAxis(limb.points, limb.deep, usual)
      return { axis, ...rootOf(limb, limbs, axis, target, new Set([index]), height) }
    })
    if (turn === 0) limbs.forEach((limb, i) => isLoose(limb, i, rooted[i].axis, target, height) && loose.add(i))
    out = []
    for (const [index, limb] of limbs.entries()) {
      await pulse((turn + index / limbs.length) / 2)
      const { axis, cut, place } = rooted[index]
      const small = limb.kind === 'finger' || limb.kind === 'thumb'
      const reach = (limb.kind === 'trunk' || limb.kind === 'head' ? 0.45 : small ? 0.05 : 0.2) * height
      const host = limb.host === undefined ? -1 : (at.get(limb.host) ?? -1)
      const joints = limb.bends.map(i => axis.joints[i])
      const children = new Map(
        limbs
          .flatMap((l, i) => (l.host === limb.id ? [[i, rooted[i].axis, rooted[i].cut.s] as const] : []))
          .map(c => [c[0], c]),
      )
      // beyond where it has parted from its host nothing of that is part of it
      const rootReach = (small ? 0.01 : 0.06) * height
      const counts: Counts = (f, centre) => {
        const of = target.limbOf[f]
        if (of === index || (loose.has(of) && limbs[of].host === limb.id)) return 'own'
        if (of === host) return axis.nearest(centre) < cut.s + rootReach ? 'guest' : undefined
        // of what leaves this limb only what lies before it has parted; an arm is no side of the trunk
        const child = children.get(of)
        if (!child || limbs[of].kind === 'arm') return undefined
        // what hangs around both legs is the trunk's down to where they part
        const leg = rooted[of]
        if (
          limbs[of].kind === 'leg' &&
          !limbs[of].fourleg &&
          (!leg.place || leg.cut.s > SKIRT * (leg.axis.joints[1] ?? 1))
        )
          return !leg.place || leg.axis.nearest(centre) < leg.cut.s ? 'own' : undefined
        return limbs[of].kind === 'leg' || child[1].nearest(centre) < child[2] ? 'guest' : undefined
      }
      const twin =
        limb.kind === 'leg'
          ? limbs.findIndex(
              l =>
                l.kind === 'leg' && l.side !== limb.side && l.id.replace(l.side, '') === limb.id.replace(limb.side, ''),
            )
          : -1
      const bound: Bound | undefined = twin >= 0 ? between(limb, limbs[twin], 0.002 * height) : undefined
      const lastS = joints[joints.length - 1] ?? axis.length / 2
      const far = outermostAlong(
        target,
        axis.at(lastS).place,
        axis.at(axis.length).along,
        reach * 2,
        f => target.limbOf[f] === index,
      )
      const end =
        limb.kind === 'trunk' || far <= 0 ? axis.length : Math.max(lastS + far, lastS + 0.2 * (axis.length - lastS))
      const girths = new Float64Array(GIRTHS).fill(NaN)
      for (let k = 0; k < GIRTHS; k++) {
        const s = cut.s + ((end - cut.s) * (k + 0.15)) / (GIRTHS - 0.7)
        const section = wholeSection(sectionOf(target, axis, { s }, counts, reach), bound)
        if (section) girths[k] = girthOf(section)
      }
      fillNaN(girths, 0.06 * height)
      out.push({
        ...limb,
        index,
        axis,
        joints,
        root: cut,
        end,
        girths,
        reach,
        counts,
        ...(loose.has(index) && { loose: true }),
        ...(bound && { bound }),
        ...(place && { parting: place }),
      })
    }
  }
  return alike(out)
}

/** A chain whose surface is met all around less than this is part of what it hangs on. */
const ROUND = 0.75

/** Whether a tail, an ear or a drawn chain stands out by itself nowhere along its length. */
function isLoose(limb: Limb, index: number, axis: LimbAxis, target: Target, height: number): boolean {
  if (limb.kind !== 'extra' && limb.kind !== 'tail' && limb.kind !== 'ear') return false
  const own: Counts = f => (target.limbOf[f] === index ? 'own' : undefined)
  const met = [0.4, 0.55, 0.7].map(t => metOf(sectionOf(target, axis, { s: t * axis.length }, own, 0.2 * height)))
  return met.reduce((a, b) => a + b, 0) / met.length < ROUND
}

/** How much limbs of both sides may differ and still be drawn alike. */
const ALIKE = 0.06

/** Limbs of both sides that are nearly alike get the same rings, so that the surface is a mirror image of itself where the body is. */
function alike(limbs: readonly MeasuredLimb[]): MeasuredLimb[] {
  return limbs.map(limb => {
    if (limb.side === 'middle') return limb
    const other = limbs.find(
      l => l.side !== limb.side && l.id === limb.id.replace(limb.side, limb.side === 'left' ? 'right' : 'left'),
    )
    if (!other || other.joints.length !== limb.joints.length) return limb
    const near = (a: number, b: number): boolean => Math.abs(a - b) <= ALIKE * Math.max(a, b, 0.02)
    if (
      !near(limb.end, other.end) ||
      !near(usualGirth(limb), usualGirth(other)) ||
      !near(limb.axis.length, other.axis.length)
    )
      return limb
    const mean = (a: number, b: number): number => (a + b) / 2
    return {
      ...limb,
      end: mean(limb.end, other.end),
      joints: limb.joints.map((j, i) => mean(j, other.joints[i])),
      girths: limb.girths.map((g, i) => mean(g, other.girths[i])),
      root: {
        ...limb.root,
        s: mean(limb.root.s, other.root.s),
        ...(limb.root.lean !== undefined &&
          other.root.lean !== undefined && { lean: mean(limb.root.lean, other.root.lean) }),
      },
    }
  })
}

/** The plane half way between two legs, a little to the own side. */
function between(own: Limb, other: Limb, gap: number): Bound {
  const a = own.points[0],
    b = other.points[0]
  const out = normalize([b[0] - a[0], 0, b[2] - a[2]])
  return { place: addScaled(scale(add(a, b), 0.5), out, -gap), out }
}

function fillNaN(list: Float64Array, otherwise: number): void {
  const known = [...list].filter(v => v > 0)
  if (known.length === 0) {
    list.fill(otherwise)
    return
  }
  for (let i = 0; i < list.length; i++) {
    if (list[i] > 0) continue
    let k = 1
    while (!(list[i - k] > 0) && !(list[i + k] > 0)) k++
    list[i] = list[i - k] > 0 ? list[i - k] : list[i + k]
  }
}

/** Where a limb leaves its host: beyond the fold between them on the inner side, above the joint on the outer. */
function rootOf(
  limb: Limb,
  limbs: readonly Limb[],
  axis: LimbAxis,
  target: Target,
  own: ReadonlySet<number>,
  height: number,
): { cut: Cut; place?: Vec3 } {
  if (limb.kind === 'trunk' && limbs.some(l => l.fourleg)) {
    // a trunk that lies ends behind its hips
    const at = axis.at(axis.joints[1])
    const back = outermostAlong(target, at.place, scale(at.along, -1), 0.5 * height, f => own.has(target.limbOf[f]))
    return { cut: { s: back > 0 ? axis.joints[1] - back : 0 } }
  }
  if (limb.kind === 'trunk' || limb.kind === 'head') return { cut: { s: 0 } }
  if (limb.kind === 'tail' || limb.kind === 'ear' || limb.kind === 'extra')
    return { cut: { s: 0.25 * (axis.joints[1] ?? axis.length) } }
  const first = axis.joints[1] ?? axis.length
  if (limb.kind === 'finger' || limb.kind === 'thumb') {
    const beside = besides(limb, limbs)
    const found = beside.flatMap(other => {
      const inward = sub(other.points[1], limb.points[1])
      const parted = partingOf(target, axis, inward, own, 0.8 * Math.hypot(...inward), first * 1.2)
      return parted ? [parted] : []
    })
    const s = found.length > 0 ? found.reduce((a, p) => a + p.s, 0) / found.length : 0.45 * first
    return {
      cut: { s: Math.min(0.75 * first, Math.max(0.15 * first, s)) },
      ...(found.length > 0 && { place: found[0].place }),
    }
  }
  const trunk = limbs[0]
  const root = axis.at(0)
  const low = limb.kind === 'arm' ? sub(trunk.points[1], root.place) : ([limb.side === 'left' ? -1 : 1, 0, 0] as Vec3)
  const inward = normalize(addScaled(low, root.along, -dot(low, root.along)))
  const reach = limb.kind === 'arm' ? 0.09 * height : Math.max(0.05 * height, 2 * Math.abs(root.place[0]))
  const parted = partingOf(
    target,
    axis,
    inward,
    own,
    reach,
    limb.kind === 'arm' || limb.fourleg ? first * 0.7 : (axis.joints[2] ?? first) * 0.9,
  )
  const inner = parted ? parted.s : 0.22 * first
  const skirted = limb.kind === 'leg' && !limb.fourleg && inner > SKIRT * first
  const outer = skirted ? inner - 0.01 * height : limb.kind === 'arm' ? -0.02 * height : -0.005 * height
  // the width of the limb at its root, told from its outer half
  const away = outermostAlong(target, axis.at(inner).place, [-inward[0], -inward[1], -inward[2]], 0.3 * height, f =>
    own.has(target.limbOf[f]),
  )
  const across = Math.max(0.02 * height, away > 0 ? away : 0.05 * height)
  const inside = parted ? Math.min(across * 1.3, distance(parted.place, axis.at(parted.s).place)) : across
  const lean = Math.min(1, (inner - outer) / (across + inside))
  return {
    cut: { s: outer + ((inner - outer) * across) / (across + inside), lean, toward: inward },
    ...(parted && { place: parted.place }),
  }
}

function besides(limb: Limb, limbs: readonly Limb[]): Limb[] {
  const hand = limbs.filter(l => l.host === limb.host && (l.kind === 'finger' || l.kind === 'thumb'))
  const i = hand.findIndex(l => l.id === limb.id)
  if (limb.kind === 'thumb') return hand[i + 1] ? [hand[i + 1]] : []
  return [hand[i - 1], hand[i + 1]].filter(l => l?.kind === 'finger')
}
