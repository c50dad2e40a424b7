import { rotate, vec3At, type Quat } from '../math'
import type { Take } from '../motion'
import { worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'
import { framedPositions } from './body-frame'

/** How the hips' travel is carried over. */
export interface Travel {
  /** Figure's leg length over the performer's: also converts the unit. */
  readonly scale: number
  /** Heights of the lowest foot joint when standing, in each one's own frame and unit. */
  readonly performerFloor: number
  readonly figureFloor: number
}

const FEET = ['leftFoot', 'rightFoot', 'leftToes', 'rightToes']

/** The ratio of leg lengths, and where each stands. A rest pose that hangs in the air takes its floor from the take. */
export function travelScale(
  performer: Skeleton, performerRoles: Readonly<Record<string, number>>, performerFrame: Quat, take: Take,
  figure: Skeleton, figureRoles: Readonly<Record<string, number>>, figureFrame: Quat,
): Travel {
  const stand = (skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat): { low: number; leg: number } => {
    const p = framedPositions(skeleton, frame)
    const low = Math.min(...FEET.filter(r => roles[r] !== undefined).map(r => p[roles[r]][1]))
    return { low, leg: p[roles.hips][1] - low }
  }
  const theirs = stand(performer, performerRoles, performerFrame)
  const own = stand(figure, figureRoles, figureFrame)
  const lows: number[] = []
  const feet = FEET.flatMap(r => (performerRoles[r] === undefined ? [] : [performerRoles[r]]))
  const n = performer.names.length
  const pose = worldPoseBuffer(n)
  const step = Math.max(1, Math.floor(take.frames / 60))
  for (let f = 0; f < take.frames; f += step) {
    worldPose(performer, take.translations, take.rotations, f * n, pose)
    lows.push(Math.min(...feet.map(j => rotate(performerFrame, vec3At(pose.positions, j))[1])))
  }
  lows.sort((x, y) => x - y)
  const seen = lows[Math.floor(lows.length * 0.05)] ?? theirs.low
  const performerFloor = Math.abs(seen - theirs.low) < 0.1 * theirs.leg ? theirs.low : seen
  const scale = theirs.leg > 0 ? own.leg / theirs.leg : 1
  // a figure whose rest pose hangs below the ground stands where the performer stands
  const hangs = own.low < -0.3 * own.leg
  return { scale, performerFloor, figureFloor: hangs ? performerFloor * scale : own.low }
}

