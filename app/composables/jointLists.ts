import { roleLabel } from '@chiraxis/core/body'
import { partnerJoint, type Skeleton } from '@chiraxis/core/skeleton'

/** What a joint is called on screen: the part of the body it stands for, else its name. */
export function jointLabel(skeleton: Skeleton | undefined, j: number): string {
  const role = skeleton?.roles[j]
  return role ? roleLabel(role) : (skeleton?.names[j] ?? '')
}

/** Joints of a list; of two that are each other's mirror image only the first, where what is done to one is done to both. */
export function withoutMirrored(skeleton: Skeleton, joints: readonly number[], mirror: boolean): number[] {
  if (!mirror) return [...joints]
  const out: number[] = []
  for (const j of joints) {
    const partner = partnerJoint(skeleton, j)
    if (partner === j || !out.includes(partner)) out.push(j)
  }
  return out
}

/** Joints of a list and, where what is done to one is done to both, those across the midline. */
export const withMirrored = (skeleton: Skeleton, joints: readonly number[], mirror: boolean): number[] =>
  mirror
    ? [...new Set(joints.flatMap(j => [j, partnerJoint(skeleton, j)]))].filter(j => j >= 0).sort((a, b) => a - b)
    : [...joints]
