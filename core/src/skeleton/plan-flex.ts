import { lerp } from '../math'
import type { WorldJoint } from './skeleton'

/** What a bone goes on with, where more than a limb hangs on it. */
const ALONG: Readonly<Record<string, readonly string[]>> = {
  hips: ['spine'],
  spine: ['chest', 'neck'],
  chest: ['upperChest', 'neck'],
  upperChest: ['neck'],
  neck: ['head'],
}

/**
 * Puts evenly spaced joints on bones, so that twist and bend can be shared along them. What else hangs on such a bone, as
 * shoulders do, stays on the joint it hung on.
 * @param extra how many joints more the bone of a role gets
 */
export function addFlex(joints: readonly WorldJoint[], extra: (role: string) => number): WorldJoint[] {
  const out: WorldJoint[] = []
  const place = new Map<number, number>()
  /** The joint the next along a divided bone hangs on now. */
  const last = new Map<number, number>()
  const onward = joints.map(({ role = '' }, j) => {
    const own = joints.flatMap((c, i) => (c.parent === j && c.role !== undefined ? [i] : []))
    const told = ALONG[role]
    return told ? (told.map(r => own.find(c => joints[c].role === r)).find(c => c !== undefined) ?? -1) : (own[0] ?? -1)
  })
  joints.forEach((joint, j) => {
    const p = joint.parent
    const parent = p < 0 ? -1 : onward[p] === j ? (last.get(p) ?? place.get(p)!) : place.get(p)!
    place.set(j, out.length)
    out.push({ ...joint, parent })
    const role = joint.role ?? ''
    const count = extra(role)
    if (count === 0 || onward[j] < 0) return
    for (let i = 1; i <= count; i++) {
      out.push({
        name: `${role}Flex${i}`,
        parent: out.length - 1,
        position: lerp(joint.position, joints[onward[j]].position, i / (count + 1)),
        rotation: joint.rotation,
      })
    }
    last.set(j, out.length - 1)
  })
  return out
}
