import type { Quat, WorkOptions } from '../math'
import { shareTwist, type Take } from '../motion'
import type { RoleReading, Skeleton } from '../skeleton'
import { carry } from './carry'
import { prepareTransfer, type PrepareOptions, type TransferPlan } from './prepare'
import { travelScale, type Travel } from './travel'

export interface TransferOptions extends WorkOptions, PrepareOptions {
  /** The pair of skeletons prepared before, when many takes are carried over it. */
  readonly plan?: TransferPlan
}

export interface Transferred {
  readonly take: Take
  /** Performer joint name for every figure joint that was given one. */
  readonly roleMap: Readonly<Record<string, string>>
  readonly performer: RoleReading
  readonly figure: RoleReading
  /** By role, the angle in degrees between the two rest poses that was taken out. */
  readonly restMatch: Readonly<Record<string, number>>
  /** By role, the turn in the body's own frame that takes the performer's rest limb onto the figure's. */
  readonly match: Readonly<Record<string, Quat>>
  readonly travel: Travel
  /** Length of the performer's leg, in its own unit. */
  readonly performerLeg: number
  readonly figureSkeleton: Skeleton
  /** The turns from each skeleton's own space to Y up, facing +Z. */
  readonly performerFrame: Quat
  readonly figureFrame: Quat
}

/**
 * Carries a take from the performer's skeleton onto the figure's. What is carried is each limb's turn
 * away from rest in the body's own frame, so that joint axes, up axis and unit of either side do not
 * matter; rest poses are matched limb by limb; spines and necks with other joint counts share the turn
 * along their length; travel is scaled by leg length.
 * @throws ChiraxisError `no-roles` where performer or figure cannot be read as a biped
 */
export async function transfer(
  performer: Skeleton,
  take: Take,
  figure: Skeleton,
  options: TransferOptions = {},
): Promise<Transferred> {
  const plan = options.plan ?? prepareTransfer(performer, figure, options)
  const travel = travelScale(plan, take)
  const carried = shareTwist(figure, plan.twists, await carry(plan, take, travel, options))
  return {
    take: carried,
    roleMap: plan.roleMap,
    performer: plan.performer,
    figure: plan.figure,
    restMatch: plan.restMatch,
    match: plan.match,
    travel,
    performerLeg: plan.performerStance.leg,
    figureSkeleton: figure,
    performerFrame: plan.performerFrame,
    figureFrame: plan.figureFrame,
  }
}
