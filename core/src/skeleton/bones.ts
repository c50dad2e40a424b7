import { add, scale, sub, type Vec3 } from '../math'
import { skinJoints } from './body-joints'
import { carriesOn, childrenOf, jointsInWorld, type Skeleton } from './skeleton'

/** A stretch of bone moved by a joint, in world space at rest. */
export interface BoneSegment {
  readonly joint: number
  readonly from: Vec3
  readonly to: Vec3
  readonly leaf: boolean
}

/**
 * The bones a skeleton moves: from each joint to its children, or to its tip where it ends a chain.
 * A leaf whose tip is not known goes on in the direction it came from, half as far. Joints that only move others have none.
 */
export function boneSegments(skeleton: Skeleton): BoneSegment[] {
  const joints = jointsInWorld(skeleton)
  const children = childrenOf(skeleton)
  const may = skinJoints(skeleton)
  return joints.flatMap((joint, j): BoneSegment[] => {
    if (!may[j]) return []
    const own = children[j].filter(c => may[c])
    if (own.length > 0) {
      const ways = own.map(c => ({ joint: j, from: joint.position, to: joints[c].position, leaf: false }))
      // what hangs on a bone beside its own way, as a jaw on a head, takes that way from nobody
      const open = joint.tip !== undefined && !own.some(c => carriesOn(skeleton, children, j, c))
      return open ? [{ joint: j, from: joint.position, to: joint.tip!, leaf: true }, ...ways] : ways
    }
    const parent = joint.parent >= 0 ? joints[joint.parent].position : joint.position
    return [
      {
        joint: j,
        from: joint.position,
        to: joint.tip ?? add(joint.position, scale(sub(joint.position, parent), 0.5)),
        leaf: true,
      },
    ]
  })
}

/** The point of some bones nearest to a place, the joint that carries it, and how far off it is. */
export function nearestOnBones(
  bones: readonly BoneSegment[],
  p: Vec3,
): { joint: number; place: Vec3; distance: number } {
  let joint = -1,
    least = Infinity
  const place: Vec3 = [p[0], p[1], p[2]]
  // written out, because it is asked for every vertex and every bone
  for (const bone of bones) {
    const { from, to } = bone
    const dx = to[0] - from[0],
      dy = to[1] - from[1],
      dz = to[2] - from[2]
    const l2 = dx * dx + dy * dy + dz * dz
    const t =
      l2 > 0
        ? Math.min(1, Math.max(0, ((p[0] - from[0]) * dx + (p[1] - from[1]) * dy + (p[2] - from[2]) * dz) / l2))
        : 0
    const x = from[0] + t * dx,
      y = from[1] + t * dy,
      z = from[2] + t * dz
    const d = (p[0] - x) ** 2 + (p[1] - y) ** 2 + (p[2] - z) ** 2
    if (d >= least) continue
    least = d
    joint = bone.joint
    place[0] = x
    place[1] = y
    place[2] = z
  }
  return { joint, place, distance: Math.sqrt(least) }
}
