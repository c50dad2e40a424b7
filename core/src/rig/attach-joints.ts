import {
  ChiraxisError,
  conjugate,
  decompose,
  multiply,
  normalizeQuat,
  quatAt,
  rotate,
  scale,
  sub,
  transformPoint,
  vec3At,
  type Mat4,
  type Quat,
  type Vec3,
} from '../math'
import { bindPose, findJoint, freshName, jointRef, type Skeleton } from '../skeleton'
import type { EditOf } from './edit'
import { rebuildRig, sameJoints, type RebuiltJoint } from './rebuild'
import type { Rig } from './rig'

type Attachment = EditOf<'attach'>

/**
 * The record of hanging a skeleton of its own on a joint. Its joints keep where they are, beside the piece they move; names get a
 * prefix, and those that are taken a running number. Parts of the body it may have been read as are not taken over.
 * @param own the appendage's skeleton as it was bound  @param place from its own file to the figure, metres
 * @param size height of the figure, metres
 */
export function attachRecord(
  skeleton: Skeleton,
  parent: number,
  own: Skeleton,
  place: Mat4,
  size: number,
  { prefix, file }: { prefix: string; file: string },
): Attachment {
  const taken = [...skeleton.names]
  const pose = bindPose(own)
  const { rotation, scale: grown } = decompose(place)
  const names = own.names.map(name => {
    const next = freshName(taken, prefix + (name.trim() || 'joint'))
    taken.push(next)
    return next
  })
  return {
    kind: 'attach',
    parent: jointRef(skeleton, parent),
    file,
    joints: own.names.map((from, j) => {
      const tip = own.tips ? vec3At(own.tips, j) : ([0, 0, 0] as Vec3)
      return {
        name: names[j],
        from,
        parent: own.parents[j],
        at: scale(transformPoint(place, vec3At(pose.positions, j)), 1 / size),
        turn: normalizeQuat(multiply(rotation, quatAt(pose.rotations, j))),
        ...(tip.some(v => v !== 0) && { tip: tip.map((v, k) => (v * grown[k]) / size) as Vec3 }),
      }
    }),
  }
}

/** Hangs a skeleton of its own on a joint; it rides on it, so nothing else moves. @param size height of the figure, metres */
export function attachJoints(rig: Rig, edit: Attachment, size: number): Rig {
  const { skeleton } = rig
  const parent = findJoint(skeleton, edit.parent)
  if (parent < 0) throw new ChiraxisError('bad-settings', `there is no joint ${edit.parent} any more to attach it to.`)
  const pose = bindPose(skeleton)
  const from = vec3At(pose.positions, parent)
  const back = conjugate(quatAt(pose.rotations, parent))
  const joints: RebuiltJoint[] = sameJoints(skeleton)
  const taken = [...skeleton.names]
  const first = joints.length
  for (const [i, own] of edit.joints.entries()) {
    // parents come first, so that no ring can be told
    if (own.parent >= i) throw new ChiraxisError('bad-skeleton', `${own.name} would hang under itself.`)
    const name = freshName(taken, own.name)
    taken.push(name)
    joints.push({
      name,
      parent: own.parent < 0 ? parent : first + own.parent,
      carrier: parent,
      translation: rotate(back, sub(scale(own.at as Vec3, size), from)),
      rotation: normalizeQuat(multiply(back, own.turn as Quat)),
      tip: own.tip && scale(own.tip as Vec3, size),
    })
  }
  return rebuildRig(rig, joints, old => old)
}
