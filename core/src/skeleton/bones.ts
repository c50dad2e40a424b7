import { add, scale, sub, type Vec3 } from '../math'
import { childrenOf, jointsInWorld, type Skeleton } from './skeleton'

/** A stretch of bone moved by a joint, in world space at rest. */
export interface BoneSegment { readonly joint: number; readonly from: Vec3; readonly to: Vec3; readonly leaf: boolean }

/**
 * The bones a skeleton moves: from each joint to its children, or to its tip where it ends a chain.
 * A leaf whose tip is not known goes on in the direction it came from, half as far.
 */
export function boneSegments(skeleton: Skeleton): BoneSegment[] {
  const joints = jointsInWorld(skeleton)
  const children = childrenOf(skeleton)
  return joints.flatMap((joint, j): BoneSegment[] => {
    if (children[j].length > 0) return children[j].map(c => ({ joint: j, from: joint.position, to: joints[c].position, leaf: false }))
    const parent = joint.parent >= 0 ? joints[joint.parent].position : joint.position
    return [{ joint: j, from: joint.position, to: joint.tip ?? add(joint.position, scale(sub(joint.position, parent), 0.5)), leaf: true }]
  })
}
