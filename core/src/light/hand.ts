import { usualGirth, type MeasuredLimb } from './measured'

/** How many cells a hand has. */
export interface HandPlan {
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
export function handOf(
  limbs: readonly MeasuredLimb[],
  side: 'left' | 'right',
  handEdge: number,
  armEdge: number,
): HandPlan | undefined {
  const arm = limbs.find(l => l.id === `${side}Arm`)
  if (!arm) return undefined
  const fingers = limbs.filter(l => l.host === arm.id && l.kind === 'finger')
  const thumb = limbs.find(l => l.host === arm.id && l.kind === 'thumb')
  const wanted = Math.max(4, Math.round(usualGirth(arm) / armEdge / 2))
  if (fingers.length === 0) {
    const across = Math.max(2, Math.round(0.6 * wanted))
    const deep = Math.max(1, wanted - across)
    return {
      arm,
      fingers,
      ...(thumb && { thumb }),
      across,
      deep,
      half: across + deep,
      fingerWide: 1,
      gap: 0,
      thumbTall: Math.max(1, Math.round(wanted / 5)),
    }
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
  return {
    arm,
    fingers,
    ...(thumb && { thumb }),
    across,
    deep,
    half: across + deep,
    fingerWide,
    gap,
    thumbTall: fingerWide,
  }
}

/** How far along an arm its fingers part. */
export function webOf(arm: MeasuredLimb, fingers: readonly MeasuredLimb[]): number {
  const list = fingers.map(f => arm.axis.at(0) && alongOf(arm, f))
  const mean = list.reduce((a, b) => a + b, 0) / list.length
  return Math.max(mean, arm.joints[arm.joints.length - 1])
}
function alongOf(arm: MeasuredLimb, finger: MeasuredLimb): number {
  const at = finger.axis.at(finger.root.s).place
  const tip = arm.axis.at(arm.axis.length)
  return (
    arm.axis.length +
    (at[0] - tip.place[0]) * tip.along[0] +
    (at[1] - tip.place[1]) * tip.along[1] +
    (at[2] - tip.place[2]) * tip.along[2]
  )
}
