import { lerp } from '../math'
import type { WorldJoint } from './skeleton'

const FLEXED =
  /^(left|right)(UpperArm|LowerArm|UpperLeg|LowerLeg|FrontUpperLeg|FrontLowerLeg|HindUpperLeg|HindLowerLeg)$/

/** Puts evenly spaced joints on the long bones of the limbs, so that twist and bend can be shared along them. */
export function addFlex(joints: readonly WorldJoint[], count: number): WorldJoint[] {
  if (count === 0) return [...joints]
  const out: WorldJoint[] = []
  const place = new Map<number, number>()
  // the joint a child of an old joint hangs on now
  const last = new Map<number, number>()
  joints.forEach((joint, j) => {
    const parent =
      joint.parent < 0
        ? -1
        : isLimbChild(joints, j)
          ? (last.get(joint.parent) ?? place.get(joint.parent)!)
          : place.get(joint.parent)!
    place.set(j, out.length)
    out.push({ ...joint, parent })
    const role = joint.role ?? ''
    const next = joints.findIndex((_, c) => joints[c].parent === j && isLimbChild(joints, c))
    if (!FLEXED.test(role) || next < 0) return
    for (let i = 1; i <= count; i++) {
      out.push({
        name: `${role}Flex${i}`,
        parent: out.length - 1,
        position: lerp(joint.position, joints[next].position, i / (count + 1)),
        rotation: joint.rotation,
      })
    }
    last.set(j, out.length - 1)
  })
  return out
}

const isLimbChild = (joints: readonly WorldJoint[], j: number): boolean =>
  joints[j].parent >= 0 && FLEXED.test(joints[joints[j].parent].role ?? '') && joints[j].role !== undefined
