import { isBelow, rootAbove, type Skeleton } from '../skeleton'

/**
 * The joint that carries travel: the named one where it is above the hips, else the topmost one above them.
 * @returns undefined where the hips hang on nothing
 */
export function rootJoint(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  name?: string,
): number | undefined {
  const { hips } = joints
  const told = name === undefined ? -1 : skeleton.names.indexOf(name)
  if (told >= 0 && isBelow(skeleton, hips, told)) return told
  const top = rootAbove(skeleton, hips)
  return top === hips ? undefined : top
}

/** The joint on which the whole body hangs: the root, else the hips. */
export const topOfBody = (skeleton: Skeleton, joints: Readonly<Record<string, number>>, name?: string): number =>
  rootJoint(skeleton, joints, name) ?? joints.hips
