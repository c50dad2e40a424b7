import {
  add,
  ChiraxisError,
  conjugate,
  IDENTITY,
  multiply,
  normalizeQuat,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import type { Take } from '../motion'
import { freshId, jointIds, worldPose, worldPoseBuffer, type Skeleton, type WorldPose } from '../skeleton'
import type { Skin } from '../skin'
import type { Rig } from './rig'

/** A joint of the new skeleton, riding rigidly on one of the old. */
export interface RebuiltJoint {
  readonly name: string
  readonly role?: string
  /** What it is known by; a new joint is known by its name. */
  readonly id?: string
  /** Place of the parent in the same list, -1 for a root; any order. */
  readonly parent: number
  /** Old joint it rides on; -1 stays where it is in the world. */
  readonly carrier: number
  /** Where it sits in the carrier's own space, metres. */
  readonly translation?: Vec3
  /** How it is turned in the carrier's own space. */
  readonly rotation?: Quat
  /** End of its bone in its own space; left out, the carrier's goes along; null for none that is known. */
  readonly tip?: Vec3 | null
}

/** Every joint as it is: where edits begin. */
export const sameJoints = (skeleton: Skeleton): RebuiltJoint[] => {
  const ids = jointIds(skeleton)
  return skeleton.names.map((name, j) => ({
    name,
    role: skeleton.roles[j],
    id: ids[j],
    parent: skeleton.parents[j],
    carrier: j,
  }))
}

/**
 * Rebuilds a rig on other joints. Every new joint keeps its place relative to the old joint that carries
 * it, at rest, as bound and in every frame, so a vertex whose weight goes from an old joint to one it
 * carries moves exactly as before. Splitting, inserting, re-parenting, moving, re-aiming and renaming
 * are all this.
 * @param weightTo the new joint, by its place in `joints`, that takes over an old joint's weight
 * @throws ChiraxisError `cyclic-nodes` where the parents form a ring
 */
export function rebuildRig(
  rig: Rig,
  joints: readonly RebuiltJoint[],
  weightTo: (old: number, vertex: number) => number = firstCarried(joints),
): Rig {
  const { skeleton } = rig
  const order = parentsFirst(joints)
  const place = new Int32Array(joints.length)
  order.forEach((from, to) => {
    place[from] = to
  })
  const sorted = order.map(i => joints[i])
  const parents = Int16Array.from(sorted, j => (j.parent < 0 ? -1 : place[j.parent]))
  const n = sorted.length

  const carry = (from: WorldPose, out: WorldPose): WorldPose => {
    sorted.forEach((joint, i) => {
      // stored numbers are a hair off unit length, and inverses by conjugation would let that grow
      const still = joint.carrier < 0
      const q = still ? IDENTITY : normalizeQuat(quatAt(from.rotations, joint.carrier))
      const p: Vec3 = still ? [0, 0, 0] : vec3At(from.positions, joint.carrier)
      setVec3(out.positions, i, joint.translation ? add(p, rotate(q, joint.translation)) : p)
      setQuat(out.rotations, i, joint.rotation ? normalizeQuat(multiply(q, joint.rotation)) : q)
    })
    return out
  }
  const toLocal = (world: WorldPose, translations: Float32Array, rotations: Float32Array, offset: number): void => {
    for (let i = 0; i < n; i++) {
      const p = parents[i]
      const q = quatAt(world.rotations, i)
      if (p < 0) {
        setVec3(translations, offset + i, vec3At(world.positions, i))
        setQuat(rotations, offset + i, q)
      } else {
        const inverse = conjugate(quatAt(world.rotations, p))
        setVec3(translations, offset + i, rotate(inverse, sub(vec3At(world.positions, i), vec3At(world.positions, p))))
        setQuat(rotations, offset + i, normalizeQuat(multiply(inverse, q)))
      }
    }
  }

  const rest = carry(worldPose(skeleton), worldPoseBuffer(n))
  const restTranslations = new Float32Array(3 * n)
  const restRotations = new Float32Array(4 * n)
  toLocal(rest, restTranslations, restRotations, 0)
  const tips = new Float32Array(3 * n)
  sorted.forEach((joint, i) => {
    const own = joint.tip === undefined ? skeleton.tips && carriedTip(skeleton.tips, joint) : joint.tip
    if (own) setVec3(tips, i, own)
  })
  const next: Skeleton = {
    names: sorted.map(j => j.name),
    roles: sorted.map(j => j.role),
    ids: idsOf(sorted),
    parents,
    restTranslations,
    restRotations,
    tips,
    bind: skeleton.bind && carry(skeleton.bind, worldPoseBuffer(n)),
  }
  const old = worldPoseBuffer(skeleton.names.length)
  const world = worldPoseBuffer(n)
  const takes = rig.takes.map((take): Take => {
    const translations = new Float32Array(3 * n * take.frames)
    const rotations = new Float32Array(4 * n * take.frames)
    for (let f = 0; f < take.frames; f++) {
      worldPose(skeleton, take.translations, take.rotations, f * skeleton.names.length, old)
      toLocal(carry(old, world), translations, rotations, f * n)
    }
    return { ...take, translations, rotations }
  })
  return { ...rig, skeleton: next, takes, skin: rig.skin && rewire(rig.skin, (j, v) => place[weightTo(j, v)]) }
}

/** Joints that were there keep what they are known by; new ones get an id of their own. */
function idsOf(joints: readonly RebuiltJoint[]): string[] {
  const taken = new Set(joints.flatMap(j => j.id ?? []))
  return joints.map(j => j.id ?? freshId(taken, j.role ?? j.name))
}

/** The first new joint that rides on an old one; weight of an old joint without any goes to the first new joint. */
function firstCarried(joints: readonly RebuiltJoint[]): (old: number) => number {
  const to = new Map<number, number>()
  joints.forEach((j, i) => {
    if (!to.has(j.carrier)) to.set(j.carrier, i)
  })
  return old => to.get(old) ?? 0
}

function carriedTip(tips: Float32Array, joint: RebuiltJoint): Vec3 | undefined {
  if (joint.carrier < 0) return undefined
  const tip = vec3At(tips, joint.carrier)
  if (tip[0] === 0 && tip[1] === 0 && tip[2] === 0) return undefined
  return rotate(conjugate(joint.rotation ?? ([...IDENTITY] as Quat)), sub(tip, joint.translation ?? [0, 0, 0]))
}

function parentsFirst(joints: readonly RebuiltJoint[]): number[] {
  const order: number[] = []
  const state = new Uint8Array(joints.length)
  const visit = (i: number): void => {
    if (state[i] === 2) return
    if (state[i] === 1)
      throw new ChiraxisError('cyclic-nodes', `${joints[i].name} would hang under itself; a skeleton must be a tree.`)
    state[i] = 1
    if (joints[i].parent >= 0) visit(joints[i].parent)
    state[i] = 2
    order.push(i)
  }
  joints.forEach((_, i) => visit(i))
  return order
}

/** Moves weights to other joints, joining what falls together. */
function rewire(skin: Skin, to: (joint: number, vertex: number) => number): Skin {
  const k = skin.influences
  const joints = new Uint16Array(skin.joints.length)
  const weights = new Float32Array(skin.weights.length)
  for (let v = 0; v < joints.length / k; v++) {
    let used = 0
    for (let i = v * k; i < v * k + k; i++) {
      if (skin.weights[i] === 0) continue
      const j = to(skin.joints[i], v)
      let at = v * k
      while (at < v * k + used && joints[at] !== j) at++
      if (at === v * k + used) used++
      joints[at] = j
      weights[at] += skin.weights[i]
    }
  }
  return { influences: k, joints, weights }
}
