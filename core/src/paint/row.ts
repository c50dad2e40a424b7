import { ChiraxisError } from '../math'
import { findJoint, type Skeleton } from '../skeleton'
import { sortRow } from '../skin'
import type { Canvas } from './canvas'

/** Share of a joint at a welded vertex. */
export function weightAt({ skin }: Canvas, vertex: number, joint: number): number {
  const k = skin.influences
  let sum = 0
  for (let i = vertex * k; i < vertex * k + k; i++) if (skin.joints[i] === joint) sum += skin.weights[i]
  return sum
}

/**
 * Brings a joint's share at a vertex to a value; unlocked joints make room in proportion, locked ones keep theirs.
 * Where no other joint could take what is given up, the joint's parent takes it, or the joint keeps it.
 * @returns the share it got
 */
export function setWeight(canvas: Canvas, vertex: number, joint: number, value: number, locked: Uint8Array): number {
  const { skin, skeleton } = canvas
  const { influences: k, joints, weights } = skin
  const at = vertex * k
  if (locked[joint]) return weightAt(canvas, vertex, joint)
  let held = 0,
    others = 0,
    place = -1,
    spare = -1
  for (let i = at; i < at + k; i++) {
    if (!(weights[i] > 0)) {
      spare = spare < 0 ? i : spare
      continue
    }
    if (joints[i] === joint) place = i
    else if (locked[joints[i]]) held += weights[i]
    else others += weights[i]
  }
  const room = Math.max(0, 1 - held)
  let share = Math.min(room, Math.max(0, value))
  if (others <= 1e-6 && share < room) {
    const parent = skeleton.parents[joint]
    if (parent >= 0 && !locked[parent]) {
      const to = spare >= 0 ? spare : weakest(canvas, at, k, locked, joint)
      if (to >= 0) {
        joints[to] = parent
        weights[to] = room - share
        if (to === spare) spare = -1
      } else share = room
    } else share = room
  } else if (others > 0) {
    const scale = (room - share) / others
    for (let i = at; i < at + k; i++)
      if (weights[i] > 0 && joints[i] !== joint && !locked[joints[i]]) weights[i] *= scale
  }
  if (place < 0 && share > 0) {
    place = -1
    for (let i = at; i < at + k && place < 0; i++) if (!(weights[i] > 0)) place = i
    if (place < 0) place = weakest(canvas, at, k, locked, joint)
    if (place < 0) return 0
    joints[place] = joint
  }
  if (place >= 0) weights[place] = share
  settleRow(canvas, vertex)
  return share
}

function weakest(
  { skin: { joints, weights } }: Canvas,
  at: number,
  k: number,
  locked: Uint8Array,
  but: number,
): number {
  let found = -1
  for (let i = at; i < at + k; i++)
    if (joints[i] !== but && !locked[joints[i]] && (found < 0 || weights[i] < weights[found])) found = i
  return found
}

/** Clears traces, puts the strongest first and makes the row sum to one. */
export function settleRow({ skin }: Canvas, vertex: number): void {
  const { influences: k, weights } = skin
  const at = vertex * k
  let sum = 0
  for (let i = at; i < at + k; i++) {
    if (weights[i] < 1e-5) weights[i] = 0
    sum += weights[i]
  }
  if (!(sum > 0)) return
  for (let i = at; i < at + k; i++) weights[i] /= sum
  sortRow(skin, at)
}

/** Joints told by role or name, as a flag for each joint; those the skeleton lacks are left aside. */
export function lockOf(skeleton: Skeleton, refs: readonly string[]): Uint8Array {
  const out = new Uint8Array(skeleton.names.length)
  for (const ref of refs) {
    const j = findJoint(skeleton, ref)
    if (j >= 0) out[j] = 1
  }
  return out
}

/**
 * Draws the unlocked weights of a vertex towards others; locked joints keep theirs.
 * @param row shares by joint that sum to one  @param share 0: nothing changes; 1: they replace its own
 */
export function mixRow(
  canvas: Canvas,
  vertex: number,
  row: ReadonlyMap<number, number>,
  share: number,
  locked: Uint8Array,
): void {
  const { influences: k, joints, weights } = canvas.skin
  const at = vertex * k
  const mixed = new Map<number, number>()
  let held = 0
  for (let i = at; i < at + k; i++) {
    if (!(weights[i] > 0)) continue
    if (locked[joints[i]]) held += weights[i]
    else mixed.set(joints[i], (1 - share) * weights[i])
  }
  const free = [...row].reduce((s, [j, w]) => (locked[j] ? s : s + w), 0)
  if (!(free > 0) || held >= 1) return
  for (const [j, w] of row) if (!locked[j]) mixed.set(j, (mixed.get(j) ?? 0) + (share * (1 - held) * w) / free)
  const kept: [number, number][] = []
  for (let i = at; i < at + k; i++) if (weights[i] > 0 && locked[joints[i]]) kept.push([joints[i], weights[i]])
  const others = [...mixed].filter(([, w]) => w > 1e-5).sort((a, b) => b[1] - a[1] || a[0] - b[0])
  const taken = others.slice(0, k - kept.length)
  const sum = taken.reduce((s, [, w]) => s + w, 0)
  const out = [...kept, ...taken.map(([j, w]): [number, number] => [j, sum > 0 ? (w * (1 - held)) / sum : 0])]
  for (let i = 0; i < k; i++) {
    joints[at + i] = out[i]?.[0] ?? 0
    weights[at + i] = out[i]?.[1] ?? 0
  }
  settleRow(canvas, vertex)
}

export const noJoint = (ref: string): ChiraxisError =>
  new ChiraxisError('lost-edit', `the skeleton has no joint ${ref}.`)
