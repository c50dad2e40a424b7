import type { Vec3 } from '../math'
import { findJoint, mirroredName, partnerJoint } from '../skeleton'
import type { Canvas } from './canvas'
import type { SkinEditOf } from './edit'
import { verticesOfPieces } from './pieces-mask'
import { softly, underDab } from './reach'
import { lockOf, setWeight, settleRow, weightAt } from './row'

export type Stroke = SkinEditOf<'stroke'>
export type Dab = Stroke['dabs'][number]

/** What a stroke paints with, found once for all its dabs. */
export interface Brush {
  readonly stroke: Stroke
  readonly joint: number
  readonly locked: Uint8Array
  /** Welded vertices that may be painted, where the stroke keeps to some pieces. */
  readonly inside?: Uint8Array
  /** The brush on the other side, for mirrored strokes. */
  readonly mirrored?: { readonly joint: number; readonly locked: Uint8Array }
}

/**
 * @returns undefined where the skeleton lacks the joint
 */
export function brushFor(canvas: Canvas, stroke: Stroke): Brush | undefined {
  const { skeleton } = canvas
  const joint = findJoint(skeleton, stroke.joint)
  if (joint < 0) return undefined
  const other = partnerJoint(skeleton, joint)
  return {
    stroke,
    joint,
    locked: lockOf(skeleton, stroke.locked),
    inside: stroke.pieces && verticesOfPieces(canvas, stroke.pieces),
    mirrored: stroke.mirror
      ? { joint: other >= 0 ? other : joint, locked: lockOf(skeleton, stroke.locked.map(mirroredName)) }
      : undefined,
  }
}

/**
 * Lays one dab on the skin, and its mirror image about the midplane when the stroke is mirrored; the body need not
 * mirror point by point.
 * @param changed collects the welded vertices that were touched
 */
export function layDab(canvas: Canvas, brush: Brush, dab: Dab, changed: Set<number>): void {
  const { stroke, mirrored } = brush
  const place: Vec3 = [dab[0] * canvas.size, dab[1] * canvas.size, dab[2] * canvas.size]
  const normal: Vec3 = [dab[3], dab[4], dab[5]]
  const own = reachOf(canvas, brush, place, normal)
  if (!mirrored) return paint(canvas, stroke, brush.joint, brush.locked, own, dab[6], changed)
  const other = reachOf(canvas, brush, [-place[0], place[1], place[2]], [-normal[0], normal[1], normal[2]])
  if (mirrored.joint === brush.joint) {
    // on a joint of the midline both halves are one brush, else the middle would be painted twice
    for (const [v, f] of other) own.set(v, Math.max(f, own.get(v) ?? 0))
    return paint(canvas, stroke, brush.joint, brush.locked, own, dab[6], changed)
  }
  paint(canvas, stroke, brush.joint, brush.locked, own, dab[6], changed)
  paint(canvas, stroke, mirrored.joint, mirrored.locked, other, dab[6], changed)
}

/** Welded vertices under a dab, with how much of it each gets, 0..1. */
function reachOf(canvas: Canvas, { stroke, inside }: Brush, place: Vec3, normal: Vec3): Map<number, number> {
  const { falloff, through } = stroke
  const out = new Map<number, number>()
  const reach = { radius: stroke.radius * canvas.size, falloff, through, inside }
  underDab(canvas, reach, place, normal, (v, share) => out.set(v, softly(share)))
  return out
}

function paint(
  canvas: Canvas,
  stroke: Stroke,
  joint: number,
  locked: Uint8Array,
  reach: ReadonlyMap<number, number>,
  pressure: number,
  changed: Set<number>,
): void {
  const strength = stroke.strength * pressure
  if (stroke.tool === 'smooth' || stroke.tool === 'sharpen')
    return blend(canvas, stroke.tool === 'smooth' ? strength : -strength, locked, reach, changed)
  for (const [v, f] of reach) {
    const now = weightAt(canvas, v, joint)
    const to =
      stroke.tool === 'add'
        ? now + strength * f
        : stroke.tool === 'take'
          ? now - strength * f
          : now + (stroke.value - now) * strength * f
    if (Math.abs(to - now) < 1e-6) continue
    setWeight(canvas, v, joint, to, locked)
    changed.add(v)
  }
}

/** Draws the unlocked weights of vertices towards the mean of their neighbours, or away from it. */
function blend(
  canvas: Canvas,
  strength: number,
  locked: Uint8Array,
  reach: ReadonlyMap<number, number>,
  changed: Set<number>,
): void {
  const {
    adjacency: { starts, neighbours },
    skin: { influences: k, joints, weights },
  } = canvas
  const rows = new Map<number, Map<number, number>>()
  for (const [v, f] of reach) {
    const first = starts[v],
      end = starts[v + 1]
    if (end === first) continue
    const own = new Map<number, number>(),
      mean = new Map<number, number>()
    for (let i = v * k; i < v * k + k; i++) if (weights[i] > 0) own.set(joints[i], weights[i])
    let kept = 0
    for (const [j, w] of own) if (locked[j]) kept += w
    let told = 0
    for (let e = first; e < end; e++)
      for (let i = neighbours[e] * k; i < neighbours[e] * k + k; i++) {
        if (!(weights[i] > 0) || locked[joints[i]]) continue
        mean.set(joints[i], (mean.get(joints[i]) ?? 0) + weights[i])
        told += weights[i]
      }
    if (told <= 0 || kept >= 1) continue
    const row = new Map<number, number>()
    for (const j of new Set([...own.keys(), ...mean.keys()])) {
      const w = own.get(j) ?? 0
      if (locked[j]) {
        if (w > 0) row.set(j, w)
        continue
      }
      const to = w + strength * f * (((mean.get(j) ?? 0) * (1 - kept)) / told - w)
      if (to > 1e-5) row.set(j, to)
    }
    rows.set(v, row)
  }
  for (const [v, row] of rows) {
    const list = [...row].sort((a, b) => b[1] - a[1] || a[0] - b[0]).slice(0, k)
    let held = 0,
      free = 0
    for (const [j, w] of list)
      if (locked[j]) held += w
      else free += w
    for (let i = 0; i < k; i++) {
      const e = list[i]
      joints[v * k + i] = e ? e[0] : 0
      weights[v * k + i] = e ? (locked[e[0]] ? e[1] : free > 0 ? (e[1] * (1 - held)) / free : 0) : 0
    }
    settleRow(canvas, v)
    changed.add(v)
  }
}
