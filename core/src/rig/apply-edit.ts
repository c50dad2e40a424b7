import {
  ChiraxisError,
  conjugate,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
  type WorkOptions,
} from '../math'
import { isMidline } from '../body'
import {
  bindPose,
  findJoint,
  jointIds,
  jointRef,
  jointSide,
  mirroredName,
  partnerJoint,
  posed,
  type PoseTurn,
  type Skeleton,
} from '../skeleton'
import { fillWeights, findBleeding, limitInfluences, normaliseWeights, removeBleeding } from '../skin'
import { aimJoints, alignAxes, turnAxes, turnHinge } from './aim'
import { preBend } from './bend'
import { addChain, divideBone, numberNames, removeJoint, renameJoints, reparentJoint, splitBone } from './chain'
import { drawChain } from './drawn-chain'
import { attachJoints } from './attach-joints'
import { editLabel, type EditOf, type RigEdit } from './edit'
import { applyMove, moveJoints } from './move'
import { armsAt, setRestPose } from './rest-pose'
import type { Rig } from './rig'
import { addRoot } from './root'

/** An edit that could not be made, and why: told as a finding, never dropped in silence. */
export interface LostEdit {
  readonly edit: RigEdit
  readonly reason: string
}

/**
 * Makes edits one after another. One that no longer fits is left out and told.
 * @param size height of the figure, metres: what shares are shares of
 */
export async function applyRigEdits(
  rig: Rig,
  edits: readonly RigEdit[],
  size: number,
  work: WorkOptions = {},
): Promise<{ rig: Rig; lost: LostEdit[] }> {
  const lost: LostEdit[] = []
  let out = rig
  for (const edit of edits) {
    try {
      out = await applyRigEdit(out, edit, size, work)
    } catch (error) {
      if (!(error instanceof ChiraxisError) || error.code === 'stopped') throw error
      lost.push({ edit, reason: `${editLabel(edit)} could not be kept: ${error.message}` })
    }
  }
  return { rig: out, lost }
}

/** @throws ChiraxisError where the edit does not fit this rig */
export async function applyRigEdit(rig: Rig, edit: RigEdit, size: number, work: WorkOptions = {}): Promise<Rig> {
  const { skeleton } = rig
  switch (edit.kind) {
    case 'move':
      return applyMove(rig, edit, size)
    case 'split':
      return onBoth(rig, edit.joint, edit.mirror, (r, j) => splitBone(r, j, edit.parts))
    case 'insert':
      return onBoth(rig, edit.joint, edit.mirror, (r, j, far) =>
        divideBone(r, j, [{ share: edit.share, name: far ? mirroredName(edit.name) : edit.name }]),
      )
    case 'remove':
      return onBoth(rig, edit.joint, edit.mirror, removeJoint)
    case 'reparent':
      return onBoth(rig, edit.joint, edit.mirror, (r, j, far) => {
        const parent = need(r.skeleton, edit.parent)
        const other = far ? partnerJoint(r.skeleton, parent) : parent
        return reparentJoint(r, j, other < 0 ? parent : other)
      })
    case 'add':
      return addBoth(rig, edit, size)
    case 'chain':
      return drawChain(rig, edit, size)
    case 'attach':
      return attachJoints(rig, edit, size)
    case 'root':
      return addRoot(rig, edit.name, scale(edit.at as Vec3, size))
    case 'rename':
      return renameJoints(rig, edit.names)
    case 'number':
      return numberNames(rig)
    case 'roles':
      return renameJoints(rig, {}, edit.roles)
    case 'aim':
      return aimJoints(rig, edit.convention, edit.joints && new Set(edit.joints.map(j => need(skeleton, j))))
    case 'hinge':
      return onBoth(rig, edit.joint, edit.mirror, (r, j, far) =>
        turnHinge(r, j, ((far ? -edit.degrees : edit.degrees) * Math.PI) / 180),
      )
    case 'turn':
      return turnAxes(rig, need(skeleton, edit.joint), edit.by as Quat, edit.mirror)
    case 'align':
      return alignAxes(rig, new Set(edit.joints.map(j => need(skeleton, j))), edit.to)
    case 'bend':
      return preBend(rig, need(skeleton, edit.joint), (edit.degrees * Math.PI) / 180)
    case 'match':
      return matchSides(rig, edit.from)
    case 'rest':
      return setRestPose(
        rig,
        edit.pose === 'posed'
          ? posedJoints(skeleton, edit.turns ?? [])
          : edit.pose === 'given'
            ? new Map(Object.entries(edit.rotations ?? {}).map(([ref, q]) => [need(skeleton, ref), q as Quat]))
            : armsAt(skeleton, edit.pose === 'arms-out' ? 0 : edit.degrees),
      )
    case 'weights':
      return weights(rig, edit, work)
  }
}

/** Local rotations of the joints a pose tells. @throws ChiraxisError where none of them is there */
function posedJoints(skeleton: Skeleton, turns: readonly PoseTurn[]): Map<number, Quat> {
  const told = turns.flatMap(t => {
    const j = findJoint(skeleton, t.joint)
    return j < 0 ? [] : [j]
  })
  if (told.length === 0 && turns.length > 0)
    throw new ChiraxisError('bad-settings', 'none of the joints that were posed is there any more.')
  const rotations = posed(skeleton, turns)
  return new Map(told.map(j => [j, quatAt(rotations, j)]))
}

function need(skeleton: Skeleton, ref: string): number {
  const j = findJoint(skeleton, ref)
  if (j < 0) throw new ChiraxisError('bad-settings', `there is no joint ${ref} any more.`)
  return j
}

/** Does the same to a joint and, mirrored, to the one across the midline. */
function onBoth(rig: Rig, ref: string, mirror: boolean, make: (rig: Rig, joint: number, far: boolean) => Rig): Rig {
  const j = need(rig.skeleton, ref)
  const partner = mirror ? partnerJoint(rig.skeleton, j) : j
  const other = partner >= 0 && partner !== j ? jointIds(rig.skeleton)[partner] : undefined
  const once = make(rig, j, false)
  return other === undefined ? once : make(once, need(once.skeleton, other), true)
}

function addBoth(rig: Rig, edit: EditOf<'add'>, size: number): Rig {
  const make = (r: Rig, parent: string, name: string, flip: number): Rig => {
    const p = need(r.skeleton, parent)
    const pose = bindPose(r.skeleton)
    const q = conjugate(quatAt(pose.rotations, p))
    const local = (v: Vec3): Vec3 => rotate(q, scale([v[0] * flip, v[1], v[2]], size))
    return addChain(r, parent, name, local(edit.at as Vec3), local(edit.along as Vec3), edit.joints)
  }
  const once = make(rig, edit.parent, edit.name, 1)
  if (!edit.mirror) return once
  const p = need(once.skeleton, edit.parent)
  const partner = partnerJoint(once.skeleton, p)
  return make(once, partner >= 0 ? jointRef(once.skeleton, partner) : edit.parent, mirroredName(edit.name), -1)
}

/** Puts the joints of the other side, and those of the midline, where the chosen side mirrored says. */
function matchSides(rig: Rig, from: 'left' | 'right'): Rig {
  const { skeleton } = rig
  const pose = bindPose(skeleton)
  const ways = new Map<number, Vec3>()
  skeleton.names.forEach((_, j) => {
    const partner = partnerJoint(skeleton, j)
    const p = vec3At(pose.positions, j)
    if (partner === j && isMidline(skeleton.roles[j])) ways.set(j, [-p[0], 0, 0])
    else if (partner >= 0 && partner !== j && jointSide(skeleton, j) === from) {
      const q = vec3At(pose.positions, partner)
      ways.set(partner, sub([-p[0], p[1], p[2]], q))
    }
  })
  if (ways.size === 0) throw new ChiraxisError('bad-settings', 'the sides of the joints are not known.')
  return moveJoints(rig, ways, false)
}

async function weights(rig: Rig, edit: EditOf<'weights'>, work: WorkOptions): Promise<Rig> {
  const { skin, mesh } = rig
  // an automatic skin is right by construction; there is nothing to mend in it
  if (!skin || !mesh) return rig
  switch (edit.fix) {
    case 'normalise':
      return { ...rig, skin: normaliseWeights(skin) }
    case 'limit':
      return { ...rig, skin: limitInfluences(skin, edit.influences ?? 4) }
    case 'fill':
      return { ...rig, skin: fillWeights(skin, mesh) }
    case 'unbleed':
      return {
        ...rig,
        skin: fillWeights(removeBleeding(skin, await findBleeding(mesh, rig.skeleton, skin, work)), mesh),
      }
  }
}
