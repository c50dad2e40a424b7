import { conjugate, distance, rotate, type Quat, type Vec3, minOf } from '../math'
import { quantile, type Take } from '../motion'
import { forwardKinematics, waysTo, worldPoseBuffer, type RoleReading, type Skeleton } from '../skeleton'
import { ballRole, hipLegsOf, kindOf, legsOf } from '../body'
import { framedPositions } from './body-frame'

/** How the hips' travel is carried over. */
export interface Travel {
  /** Figure's leg over the performer's, thigh and shin: also converts the unit. */
  readonly scale: number
  /** Heights of the hips over the ground with straight legs, in each one's own frame and unit. */
  readonly performerStand: number
  readonly figureStand: number
  /** How far the ground lies over where feet are at rest, in each one's own frame and unit: 0 but for rest poses that hang in the air. */
  readonly performerLift: number
  readonly figureLift: number
}

/** What of a prepared pair of skeletons the travel depends on. */
export interface TravelPair {
  readonly performer: RoleReading
  readonly performerSkeleton: Skeleton
  readonly performerFrame: Quat
  readonly performerStance: Stance
  readonly figureStance: Stance
}

const feetOf = (joints: Readonly<Record<string, number>>): string[] =>
  legsOf(joints)
    .flatMap(leg => [`${leg}Foot`, `${leg}Toes`])
    .filter(r => joints[r] !== undefined)

/** How a skeleton stands: lowest foot joint, length of a leg, and height of the hips over straight legs, in its own frame and unit. */
export interface Stance {
  readonly low: number
  readonly leg: number
  readonly stand: number
}

/**
 * The ratio of leg lengths, and how high the hips of each stand over straight legs. Crouching and
 * bobbing are told from there, so that feet of any height meet the ground.
 * A rest pose that hangs in the air takes its ground from the take.
 */
export function travelScale(pair: TravelPair, take: Take): Travel {
  const { performerStance: theirs, figureStance: own } = pair
  const scale = theirs.leg > 0 ? own.leg / theirs.leg : 1
  const seen = lowestFoot(pair.performerSkeleton, pair.performer.joints, pair.performerFrame, take)
  const lifted = Math.abs(seen - theirs.low) < 0.1 * theirs.leg ? 0 : seen - theirs.low
  // a figure whose own rest pose hangs below the ground stands where the performer stands
  const hangs = own.low < -0.3 * own.leg
  const raised = hangs ? (theirs.low + lifted) * scale - own.low : 0
  return {
    scale,
    performerStand: theirs.stand + lifted,
    figureStand: own.stand + raised,
    performerLift: lifted,
    figureLift: raised,
  }
}

/** Measures how a skeleton stands at rest. */
export function stanceOf(skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat): Stance {
  const p = framedPositions(skeleton, frame)
  const low = minOf(feetOf(roles).map(r => p[roles[r]][1]))
  const all = legsOf(roles)
  let leg = 0
  for (const l of all) leg += legLength(p, roles, l).length / all.length
  let stand = Infinity
  for (const l of hipLegsOf(roles)) {
    const { length, end } = legLength(p, roles, l)
    // a foot that is lifted at rest does not tell the ground
    stand = Math.min(stand, end[1] + length + p[roles.hips][1] - p[roles[`${l}UpperLeg`]][1])
  }
  return { low, leg, stand }
}

/** Thigh and shin down to the ankle; on four legs, which never stand straight, the way from the top of the leg to its paw. */
function legLength(
  p: readonly Vec3[],
  roles: Readonly<Record<string, number>>,
  leg: string,
): { length: number; end: Vec3 } {
  const top = p[roles[`${leg}UpperLeg`]]
  if (kindOf(roles) === 'fourleg') {
    const end = p[roles[ballRole(roles, leg)]]
    return { length: distance(top, end), end }
  }
  const knee = p[roles[`${leg}LowerLeg`]],
    end = p[roles[`${leg}Foot`]]
  return { length: distance(top, knee) + distance(knee, end), end }
}

/** Height of the lowest foot joint in a take, bar a few stray frames. */
function lowestFoot(skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat, take: Take): number {
  const feet = feetOf(roles).map(r => roles[r])
  const n = skeleton.names.length
  const pose = worldPoseBuffer(n)
  const ways = waysTo(skeleton, feet)
  const step = Math.max(1, Math.floor(take.frames / 32))
  const [x, y, z] = rotate(conjugate(frame), [0, 1, 0])
  const p = pose.positions
  const lows: number[] = []
  for (let f = 0; f < take.frames; f += step) {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * n, pose)
    let low = Infinity
    for (const j of feet) low = Math.min(low, x * p[3 * j] + y * p[3 * j + 1] + z * p[3 * j + 2])
    lows.push(low)
  }
  return quantile(lows, 0.05)
}
