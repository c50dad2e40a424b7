import { addScaled, ChiraxisError, conjugate, dot, quatAt, rotate, scale, sub, vec3At, type Vec3 } from '../math'
import { bindPose, childrenOf, findJoint, freshName, jointIds, nextJoint, type Skeleton } from '../skeleton'
import { rebuildRig, sameJoints, type RebuiltJoint } from './rebuild'
import type { Rig } from './rig'

const refuse = (message: string): ChiraxisError => new ChiraxisError('bad-settings', message)

/** Where a bone goes from a joint, in the joint's own space, and the joint it leads to. */
function boneOf(skeleton: Skeleton, j: number): { end: Vec3; next?: number } {
  const pose = bindPose(skeleton)
  const next = nextJoint(skeleton, childrenOf(skeleton), j)
  if (next !== undefined) {
    return {
      next,
      end: rotate(conjugate(quatAt(pose.rotations, j)), sub(vec3At(pose.positions, next), vec3At(pose.positions, j))),
    }
  }
  const tip = skeleton.tips ? vec3At(skeleton.tips, j) : ([0, 0, 0] as Vec3)
  if (Math.hypot(...tip) < 1e-9) throw refuse(`${skeleton.names[j]} has no bone that could be divided.`)
  return { end: tip }
}

/**
 * Puts joints on the bone of `j` at shares of its length. They ride on it, so nothing moves; the skin of
 * the bone goes to the piece each vertex lies beside.
 */
export function divideBone(rig: Rig, j: number, at: readonly { share: number; name: string }[]): Rig {
  const { skeleton } = rig
  const { end, next } = boneOf(skeleton, j)
  const joints: RebuiltJoint[] = sameJoints(skeleton)
  const taken = [...skeleton.names]
  const cuts = [...at].sort((a, b) => a.share - b.share)
  let parent = j
  const pieces = [j]
  for (const cut of cuts) {
    const name = freshName(taken, cut.name)
    taken.push(name)
    const translation = scale(end, cut.share)
    joints.push({ name, parent, carrier: j, translation, tip: next === undefined ? sub(end, translation) : undefined })
    parent = joints.length - 1
    pieces.push(parent)
  }
  if (next !== undefined) joints[next] = { ...joints[next], parent }
  const pose = bindPose(skeleton)
  const origin = vec3At(pose.positions, j)
  const along = rotate(quatAt(pose.rotations, j), end)
  const l2 = dot(along, along) || 1
  const positions = rig.mesh?.positions
  const first = firstOf(joints)
  return rebuildRig(rig, joints, (old, v) => {
    if (old !== j || !positions) return first(old)
    const t = dot(sub(vec3At(positions, v), origin), along) / l2
    let piece = 0
    while (piece < cuts.length && t >= cuts[piece].share) piece++
    return pieces[piece]
  })
}

const firstOf =
  (joints: readonly RebuiltJoint[]) =>
  (old: number): number =>
    joints.findIndex(x => x.carrier === old)

/** Divides a bone into even parts, named after it with running numbers. */
export function splitBone(rig: Rig, j: number, parts: number): Rig {
  const base = rig.skeleton.names[j]
  return divideBone(
    rig,
    j,
    Array.from({ length: parts - 1 }, (_, i) => ({ share: (i + 1) / parts, name: `${base} ${i + 2}` })),
  )
}

/** Takes a joint out: its children hang on its parent, which takes over its skin. */
export function removeJoint(rig: Rig, j: number): Rig {
  const { skeleton } = rig
  const heirs = childrenOf(skeleton)[j]
  const parent = skeleton.parents[j]
  // a root that moves no skin leaves its branches standing on their own
  if (parent < 0 && heirs.length !== 1 && (heirs.length === 0 || movesSkin(rig, j)))
    throw refuse(
      heirs.length === 0
        ? `${skeleton.names[j]} is the only joint there and cannot be removed.`
        : `${skeleton.names[j]} moves skin and is the root of ${heirs.length} branches, so nobody could take over its skin.`,
    )
  const heir = parent >= 0 ? parent : (heirs.find(h => skeleton.roles[h] === 'hips') ?? heirs[0])
  const kept = sameJoints(skeleton).filter((_, i) => i !== j)
  const to = (i: number): number => (i < 0 ? -1 : i > j ? i - 1 : i)
  const joints = kept.map(joint => ({ ...joint, parent: to(joint.parent === j ? parent : joint.parent) }))
  return rebuildRig(rig, joints, old => to(old === j ? heir : old))
}

function movesSkin({ skin }: Rig, j: number): boolean {
  return skin !== undefined && skin.joints.some((joint, i) => joint === j && skin.weights[i] > 0)
}

/** Hangs a joint on another, where it stands. */
export function reparentJoint(rig: Rig, j: number, parent: number): Rig {
  for (let p = parent; p >= 0; p = rig.skeleton.parents[p]) {
    if (p === j)
      throw refuse(
        `${rig.skeleton.names[parent]} cannot be the parent of ${rig.skeleton.names[j]}: it is one of its children.`,
      )
  }
  return rebuildRig(
    rig,
    sameJoints(rig.skeleton).map((joint, i) => (i === j ? { ...joint, parent } : joint)),
  )
}

/**
 * Adds a mount, or a chain such as an ear or a tail, that rides on a joint.
 * @param at place in the parent's own space, metres  @param along step from joint to joint, metres
 */
export function addChain(rig: Rig, parentRef: string, name: string, at: Vec3, along: Vec3, count: number): Rig {
  const { skeleton } = rig
  const parent = findJoint(skeleton, parentRef)
  if (parent < 0) throw refuse(`There is no joint ${parentRef} to hang ${name} on.`)
  const joints: RebuiltJoint[] = sameJoints(skeleton)
  const taken = [...skeleton.names]
  let on = parent
  for (let i = 0; i < count; i++) {
    const own = freshName(taken, count > 1 ? `${name} ${i + 1}` : name)
    taken.push(own)
    joints.push({
      name: own,
      parent: on,
      carrier: parent,
      translation: addScaled(at, along, i),
      tip: i === count - 1 && Math.hypot(...along) > 1e-9 ? along : null,
    })
    on = joints.length - 1
  }
  return rebuildRig(rig, joints, firstOf(joints))
}

/** Names and roles changed; nothing moves. */
export function renameJoints(
  rig: Rig,
  names: Readonly<Record<string, string>>,
  roles: Readonly<Record<string, string>> = {},
): Rig {
  const { skeleton } = rig
  const told = new Map(Object.entries(names).map(([ref, name]) => [findJoint(skeleton, ref), name]))
  const next = skeleton.names.map((n, j) => told.get(j) ?? n)
  const bearers = new Map<string, number>()
  for (const n of next) bearers.set(n, (bearers.get(n) ?? 0) + 1)
  // names that were double before stay as they are until they are numbered
  const double = next.find((n, j) => n !== skeleton.names[j] && bearers.get(n)! > 1)
  if (double) throw refuse(`Two joints would be called ${double}.`)
  return {
    ...rig,
    skeleton: {
      ...skeleton,
      ids: jointIds(skeleton),
      names: next,
      roles: skeleton.roles.map((r, j) => {
        const own = roles[skeleton.names[j]]
        return own === undefined ? r : own || undefined
      }),
    },
  }
}

/** Running numbers for all but the first joint of each name. */
export function numberNames(rig: Rig): Rig {
  const names: string[] = []
  for (const n of rig.skeleton.names)
    names.push(freshName([...names, ...(names.includes(n) ? rig.skeleton.names : [])], n))
  return { ...rig, skeleton: { ...rig.skeleton, ids: jointIds(rig.skeleton), names } }
}
