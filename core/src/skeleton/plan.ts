import { bipedJoints, type PlanPoint } from './plan-biped'
import { addFlex } from './plan-flex'
import { fourlegJoints } from './plan-fourleg'
import { fingerChain } from './plan-hands'
import { skeletonFromWorld, type Skeleton } from './skeleton'

export type PlanKind = 'biped' | 'fourleg'

export interface PlanOptions {
  /** Extra joints on each long bone of the limbs, 0 to 3. */
  readonly flex?: number
  /** Fingers that get joints, by hand. */
  readonly found?: { readonly left: readonly string[]; readonly right: readonly string[] }
  /** Joints a finger, 1 to 3. */
  readonly fingerJoints?: number
  readonly tailJoints?: number
}

/**
 * A skeleton by a plan on its landmarks.
 * @throws ChiraxisError `bad-input` where a landmark is missing
 */
export function buildPlan(plan: PlanKind, landmarks: readonly PlanPoint[], options: PlanOptions = {}): Skeleton {
  if (plan === 'fourleg')
    return skeletonFromWorld(addFlex(fourlegJoints(landmarks, options.tailJoints ?? 6), options.flex ?? 0))
  const joints = bipedJoints(landmarks)
  for (const side of ['left', 'right'] as const) {
    const hand = joints.findIndex(j => j.role === `${side}Hand`)
    joints.push(
      ...fingerChain(
        side,
        options.found?.[side] ?? [],
        landmarks,
        hand,
        joints[hand].position,
        joints.length,
        options.fingerJoints ?? 3,
      ),
    )
  }
  return skeletonFromWorld(addFlex(joints, options.flex ?? 0))
}
