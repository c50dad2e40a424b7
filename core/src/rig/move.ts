import {
  add,
  angleBetween,
  ChiraxisError,
  conjugate,
  fromDirections,
  fromTo,
  multiply,
  quatAt,
  rotate,
  scale,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import {
  bindPose,
  boneDirection,
  childrenOf,
  findJoint,
  jointRef,
  nextJoint,
  readAxes,
  type Skeleton,
  partnerJoint,
} from '../skeleton'
import type { EditOf } from './edit'
import { rebuildRig, sameJoints } from './rebuild'
import type { Rig } from './rig'

/**
 * Moves joints by world ways, each with its children or alone. Joints that were aimed along their bone,
 * and the parent whose bone ends here, are aimed along it again; skin and takes ride along.
 * @param ways world shift by joint, metres as bound
 */
export function moveJoints(rig: Rig, ways: ReadonlyMap<number, Vec3>, withChildren: boolean): Rig {
  const { skeleton } = rig
  const pose = bindPose(skeleton)
  const n = skeleton.names.length
  const shift: Vec3[] = Array.from({ length: n }, () => [0, 0, 0])
  for (let j = 0; j < n; j++) {
    const own = ways.get(j)
    const p = skeleton.parents[j]
    if (own) shift[j] = own
    else if (withChildren && p >= 0) shift[j] = shift[p]
  }
  const after = Array.from({ length: n }, (_, j) => add(vec3At(pose.positions, j), shift[j]))
  const turns = aimAgain(skeleton, after)
  return rebuildRig(
    rig,
    sameJoints(skeleton).map((joint, j) => ({
      ...joint,
      translation: rotate(conjugate(quatAt(pose.rotations, j)), shift[j]),
      rotation: turns[j],
      tip: turns[j] && tipAfter(skeleton, j, turns[j]!),
    })),
  )
}

/** Own-space turns that keep joints which ran along their bone along it after their ends moved. */
function aimAgain(skeleton: Skeleton, after: readonly Vec3[]): (Quat | undefined)[] {
  const pose = bindPose(skeleton)
  const children = childrenOf(skeleton)
  const axes = readAxes(skeleton)
  return skeleton.names.map((_, j) => {
    const next = nextJoint(skeleton, children, j)
    if (next === undefined) return undefined
    const before = boneDirection(skeleton, j, children, pose)
    const way = sub(after[next], after[j])
    if (!before || Math.hypot(...way) < 1e-7 || !(axes.off[j] < 0.06)) return undefined
    const now = scale(way, 1 / Math.hypot(...way))
    if (angleBetween(before, now) < 1e-6) return undefined
    const q = quatAt(pose.rotations, j)
    return multiply(conjugate(q), multiply(fromTo(before, now), q))
  })
}

/** A bone's end stays where it is in space when its joint turns. */
function tipAfter(skeleton: Skeleton, j: number, turn: Quat): Vec3 | undefined {
  if (!skeleton.tips) return undefined
  const tip = vec3At(skeleton.tips, j)
  return Math.hypot(...tip) < 1e-9 ? undefined : rotate(conjugate(turn), tip)
}

/**
 * The frame in which moves are kept: along the joint's bone and otherwise level with the world, so that it turns
 * with the limb but not with the hinge, which flips about on a nearly straight one.
 */
export function limbFrame(skeleton: Skeleton, j: number): Quat {
  const pose = bindPose(skeleton)
  const children = childrenOf(skeleton)
  for (let k = j; k >= 0; k = skeleton.parents[k]) {
    const bone = boneDirection(skeleton, k, children, pose)
    if (bone) return fromDirections(bone, Math.abs(bone[2]) < 0.8 ? [0, 0, 1] : [0, 1, 0])
  }
  return [0, 0, 0, 1]
}

/** The record of moving a joint to a place in the figure, metres as bound. */
export function moveRecord(
  skeleton: Skeleton,
  j: number,
  to: Vec3,
  size: number,
  options: { children: boolean; mirror: boolean },
): EditOf<'move'> {
  const by = scale(
    rotate(conjugate(limbFrame(skeleton, j)), sub(to, vec3At(bindPose(skeleton).positions, j))),
    1 / size,
  )
  return { kind: 'move', joint: jointRef(skeleton, j), by, ...options }
}

/** Makes a recorded move, mirrored to the other side where that was asked; joints of the midline then stay on it. */
export function applyMove(rig: Rig, edit: EditOf<'move'>, size: number): Rig {
  const { skeleton } = rig
  const j = findJoint(skeleton, edit.joint)
  if (j < 0) throw new ChiraxisError('bad-settings', `there is no joint ${edit.joint} any more.`)
  const way = rotate(limbFrame(skeleton, j), scale(edit.by as Vec3, size))
  const ways = new Map<number, Vec3>([[j, way]])
  const partner = edit.mirror ? partnerJoint(skeleton, j) : -1
  if (partner === j) ways.set(j, [0, way[1], way[2]])
  else if (partner >= 0) ways.set(partner, [-way[0], way[1], way[2]])
  return moveJoints(rig, ways, edit.children)
}
