import { addScaled, breather, distance, dot, normalize, sub, type Vec3, type WorkOptions } from '../math'
import { limbAxis, type LimbAxis } from './axis'
import type { Limb, LimbTree } from './limbs'
import { girthOf, partingOf, sectionOf, wholeSection, type Cut } from './sections'
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
  /** Limbs whose surface counts around it. */
  readonly near: ReadonlySet<number>
}

const GIRTHS = 25

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
  const out: MeasuredLimb[] = []
  for (const [index, limb] of limbs.entries()) {
    await pulse(index / limbs.length)
    const small = limb.kind === 'finger' || limb.kind === 'thumb'
    const axis = limbAxis(limb.points, limb.deep, small ? 0.006 * height : 0.03 * height)
    const reach = (limb.kind === 'trunk' || limb.kind === 'head' ? 0.45 : small ? 0.05 : 0.2) * height
    const host = limb.host === undefined ? -1 : (at.get(limb.host) ?? -1)
    const joints = limb.bends.map(i => axis.joints[i])
    const own = new Set([index])
    const near = new Set([index, ...(host >= 0 ? [host] : [])])
    limbs.forEach((l, i) => {
      if (l.host !== limb.id) return
      // legs carry the sides of the hips, fingers the knuckles; arms and head stand off the trunk
      if (limb.kind !== 'trunk' || l.kind === 'leg') near.add(i)
    })
    const last = axis.at(joints[joints.length - 1] ?? axis.length / 2)
    const far = outermostAlong(target, last.place, axis.at(axis.length).along, reach * 2, f => target.limbOf[f] === index)
    const lastS = joints[joints.length - 1] ?? axis.length / 2
    const end = limb.kind === 'trunk' ? axis.length : far > 0 ? Math.max(lastS + far, lastS + 0.2 * (axis.length - lastS)) : axis.length
    const rooted = rootOf(limb, limbs, axis, target, own, height)
    const girths = new Float64Array(GIRTHS).fill(NaN)
    for (let k = 0; k < GIRTHS; k++) {
      const s = rooted.cut.s + ((end - rooted.cut.s) * (k + 0.15)) / (GIRTHS - 0.7)
      const section = wholeSection(sectionOf(target, axis, { s }, near, reach))
      if (section) girths[k] = girthOf(section)
    }
    fillNaN(girths, 0.06 * height)
    const measured = { ...limb, index, axis, joints, root: rooted.cut, end, girths, reach, near }
    out.push(rooted.place ? { ...measured, parting: rooted.place } : measured)
  }
  return out
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
  if (limb.kind === 'trunk' || limb.kind === 'head') return { cut: { s: 0 } }
  const first = axis.joints[1] ?? axis.length
  if (limb.kind === 'finger' || limb.kind === 'thumb') {
    const beside = besides(limb, limbs)
    const found = beside.flatMap(other => {
      const inward = sub(other.points[1], limb.points[1])
      const parted = partingOf(target, axis, inward, own, 0.8 * Math.hypot(...inward), first * 1.2)
      return parted ? [parted] : []
    })
    const s = found.length > 0 ? found.reduce((a, p) => a + p.s, 0) / found.length : 0.45 * first
    return { cut: { s: Math.min(0.75 * first, Math.max(0.15 * first, s)) }, ...(found.length > 0 && { place: found[0].place }) }
  }
  const trunk = limbs[0]
  const root = axis.at(0)
  const low = limb.kind === 'arm' ? sub(trunk.points[1], root.place) : ([limb.side === 'left' ? -1 : 1, 0, 0] as Vec3)
  const inward = normalize(addScaled(low, root.along, -dot(low, root.along)))
  const reach = limb.kind === 'arm' ? 0.09 * height : Math.max(0.05 * height, 2 * Math.abs(root.place[0]))
  const parted = partingOf(target, axis, inward, own, reach, first * 0.7)
  const inner = parted ? parted.s : 0.22 * first
  const outer = limb.kind === 'arm' ? -0.02 * height : -0.005 * height
  // the width of the limb at its root, told from its outer half
  const away = outermostAlong(target, axis.at(inner).place, [-inward[0], -inward[1], -inward[2]], 0.3 * height, f => own.has(target.limbOf[f]))
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
