import { fingerName, fingerOf, isArm, isLeg, sideOf } from '../body'
import type { Skeleton } from '../skeleton'
import { sortInfluences, type Skin } from './skin'

const PAIRED = [isLeg, isArm]

/**
 * Takes away from both limbs of a pair what they share, so that neither leg ever moves the other; what they give up
 * goes to the joint both hang on, so that cloth between them passes smoothly from one to the other.
 */
export function partSides(skin: Skin, skeleton: Skeleton): void {
  // per joint: 0 none, else 2·pair + side + 1
  const of = Uint8Array.from(skeleton.roles, r => {
    const pair = r ? PAIRED.findIndex(holds => holds(r)) : -1
    return pair < 0 ? 0 : 2 * pair + (sideOf(r!) === 'left' ? 1 : 2)
  })
  if (!of.some(x => x > 0)) return
  const { influences: k, joints, weights } = skin
  const shares = [1, 3].map(left => ({ left, trunk: commonParent(skeleton, of.indexOf(left), of.indexOf(left + 1)) }))
  const sums = new Float64Array(5)
  for (let at = 0; at < joints.length; at += k) {
    sums.fill(0)
    for (let i = at; i < at + k; i++) sums[of[joints[i]]] += weights[i]
    for (const { left, trunk } of shares) {
      const l = sums[left],
        r = sums[left + 1]
      if (l === 0 || r === 0) continue
      const shared = Math.min(l, r)
      for (let i = at; i < at + k; i++) {
        const side = of[joints[i]]
        if (side === left) weights[i] *= (l - shared) / l
        else if (side === left + 1) weights[i] *= (r - shared) / r
      }
      give(skin, at, trunk, 2 * shared)
    }
  }
  sortInfluences(skin)
}

/** Adds weight to a joint of a vertex: where it already is, in a free place, or over the weakest. */
function give({ influences: k, joints, weights }: Skin, at: number, joint: number, weight: number): void {
  let to = at
  for (let i = at; i < at + k; i++) {
    if (joints[i] === joint && weights[i] > 0) {
      to = i
      break
    }
    if (weights[i] < weights[to]) to = i
  }
  // the weakest, when all places are taken, gives way; its share goes along
  weights[to] += weight
  joints[to] = joint
}

/** The lowest joint both hang on; the root where there is none. */
function commonParent(skeleton: Skeleton, a: number, b: number): number {
  const above = new Set<number>()
  for (let j = a; j >= 0; j = skeleton.parents[j]) above.add(j)
  let j = b
  while (j >= 0 && !above.has(j)) j = skeleton.parents[j]
  return Math.max(0, j)
}

/** Bones beyond the knuckle. */
const BEYOND: ReadonlySet<string> = new Set(['Intermediate', 'Distal'])

/**
 * Keeps fingers from moving one another: beyond the knuckle a vertex follows one finger only, the one that holds it
 * most. The webs between knuckles stay shared.
 */
export function partFingers(skin: Skin, skeleton: Skeleton): void {
  const names: string[] = []
  const finger = Int16Array.from(skeleton.roles, role => {
    const name = role && fingerName(role)
    if (!name) return -1
    if (!names.includes(name)) names.push(name)
    return names.indexOf(name)
  })
  if (names.length < 2) return
  const beyond = Uint8Array.from(skeleton.roles, role => (BEYOND.has(fingerOf(role ?? '')?.part ?? '') ? 1 : 0))
  const { influences: k, joints, weights } = skin
  const held = new Float64Array(names.length)
  for (let at = 0; at < joints.length; at += k) {
    held.fill(0)
    let own = -1
    for (let i = at; i < at + k; i++) {
      const f = finger[joints[i]]
      if (f < 0 || !(weights[i] > 0)) continue
      held[f] += weights[i]
      if (own < 0 || held[f] > held[own]) own = f
    }
    if (own < 0) continue
    let main = at
    for (let i = at; i < at + k; i++) if (weights[i] > weights[main]) main = i
    const isBeyond = beyond[joints[main]] === 1
    let sum = 0
    for (let i = at; i < at + k; i++) {
      const f = finger[joints[i]]
      if (f >= 0 && f !== own && (isBeyond || beyond[joints[i]])) weights[i] = 0
      sum += weights[i]
    }
    if (sum > 0) for (let i = at; i < at + k; i++) weights[i] /= sum
  }
  sortInfluences(skin)
}
