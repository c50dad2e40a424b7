import { bipedJoints, type PlanPoint } from './plan-biped'
import { addFlex } from './plan-flex'
import { fourlegJoints } from './plan-fourleg'
import { fingerChain } from './plan-hands'
import { bareName } from '../body'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from './skeleton'

/** `drawn` begins with a root alone; everything else is drawn by hand. */
export type PlanKind = 'biped' | 'fourleg' | 'drawn'

/** Parts of the body whose bones can be divided, and the bones that are. */
export const DIVIDED_PARTS = {
  arms: ['UpperArm', 'LowerArm', 'FrontUpperLeg', 'FrontLowerLeg'],
  legs: ['UpperLeg', 'LowerLeg', 'HindUpperLeg', 'HindLowerLeg'],
  trunk: ['spine', 'chest', 'upperChest'],
  neck: ['neck'],
} as const
export type DividedPart = keyof typeof DIVIDED_PARTS

export interface PlanOptions {
  /** Extra joints on each long bone of the limbs, 0 to 3. */
  readonly flex?: number
  /** Extra joints on each bone of a part, where it is to have others than `flex` says. */
  readonly parts?: Partial<Readonly<Record<DividedPart, number>>>
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
  if (plan === 'drawn') return skeletonFromWorld([DRAWN_ROOT])
  if (plan === 'fourleg')
    return skeletonFromWorld(addFlex(fourlegJoints(landmarks, options.tailJoints ?? 6), extraOn(options)))
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
  return skeletonFromWorld(addFlex(joints, extraOn(options)))
}

/** What a drawn skeleton begins with: a root on the ground between the feet. */
const DRAWN_ROOT: WorldJoint = { name: 'root', parent: -1, position: [0, 0, 0], rotation: [0, 0, 0, 1] }

/** How many joints more each bone gets, by the role of its joint. */
function extraOn({ flex = 0, parts = {} }: PlanOptions): (role: string) => number {
  const told = new Map<string, number>(
    (Object.keys(DIVIDED_PARTS) as DividedPart[]).flatMap(part =>
      DIVIDED_PARTS[part].map((bone): [string, number] => [
        bone,
        parts[part] ?? (part === 'arms' || part === 'legs' ? flex : 0),
      ]),
    ),
  )
  return role => told.get(bareName(role)) ?? 0
}
