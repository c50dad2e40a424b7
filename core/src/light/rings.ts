import { girthAt, radiusAt, type MeasuredLimb } from './measured'
import type { Cut } from './sections'
import { stationsAlong } from './stations'

/** Rings from where a limb parts to near its end; those at its root lean and straighten up on the way. */
export function ringsOf(limb: MeasuredLimb, spacing: number, to?: number, handRings = 0): Cut[] {
  const { root, joints, end } = limb
  const from = root.s
  const small = limb.kind === 'finger' || limb.kind === 'thumb'
  const last = to ?? end - (small ? 0.5 : 0.45) * radiusAt(limb, from + 0.93 * (end - from))
  const close = (s: number): number => Math.max(0.3 * radiusAt(limb, s), Math.min(spacing, 0.6 * radiusAt(limb, s)))
  // the joint at the root has its rings where the limb leaves
  const near = small
    ? [from + 0.35 * close(from), from + 0.8 * close(from)]
    : [0.45, 1, 1.7].map(k => from + k * Math.min(close(from), 0.45 * radiusAt(limb, from)))
  const begun = near[near.length - 1]
  const others = joints.filter(j => j > begun + 0.3 * close(from))
  let list = [from, ...near.slice(0, -1), ...stationsAlong(begun, Math.max(begun + 1e-3, last), others, spacing, close)]
  if (handRings > 0 && joints.length > 2) {
    const wrist = joints[2]
    const inner = list.filter(s => s > wrist + 1e-6)
    if (inner.length < handRings) {
      list = list.filter(s => s <= wrist + 1e-6)
      for (let k = 1; k <= handRings; k++) list.push(wrist + ((last - wrist) * k) / handRings)
    }
  }
  const held = (s: number): { hold?: number } =>
    s <= begun + 1e-6 || joints.some(j => Math.abs(j - s) < 1.3 * close(j)) ? { hold: 0.85 } : {}
  if (!root.lean || !root.toward) return list.map(s => ({ s, ...held(s) }))
  const fade = 2.2 * root.lean * radiusAt(limb, from) + close(from)
  return list.map(s => {
    const lean = root.lean! * Math.max(0, 1 - (s - from) / fade)
    return lean > 0 ? { s, lean, toward: root.toward, ...held(s) } : { s, ...held(s) }
  })
}

/** Where a neck is thinnest. */
export function thinnest(head: MeasuredLimb): number {
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

/** Rings nothing tells: what lies between limbs is spanned. */
export const none = (length: number): undefined[] => Array.from({ length }, () => undefined)
