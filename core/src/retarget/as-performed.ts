import { rotate, vec3At, type Vec3 } from '../math'
import { legsOf } from '../body'
import type { Played } from '../motion'
import { worldPose } from '../skeleton'

/** Frames looked at, and how far a joint may be from the performer's, share of a leg. */
const LOOKS = 9,
  APART = 0.005
/** Share of the joints with a role that must be called alike. */
const ALIKE = 0.8

/**
 * Whether a carried take is the performance itself: the figure's skeleton is the performer's, joints are called alike, and at
 * every look each stands where the performer's does. On such a figure nothing of the take is to be corrected.
 * @param scale figure's size over the performer's
 */
export function isPerformance(theirs: Played, own: Played, scale: number): boolean {
  const roles = Object.keys(own.joints)
  const shared = roles.filter(r => theirs.joints[r] !== undefined)
  const alike = shared.filter(r => own.skeleton.names[own.joints[r]] === theirs.skeleton.names[theirs.joints[r]])
  if (alike.length < ALIKE * roles.length || theirs.take.frames !== own.take.frames) return false
  const at = ({ skeleton, joints, take, frame }: Played, f: number): Record<string, Vec3> => {
    const world = worldPose(skeleton, take.translations, take.rotations, f * skeleton.names.length)
    const hips = vec3At(world.positions, joints.hips)
    return Object.fromEntries(
      shared.map(r => {
        const p = vec3At(world.positions, joints[r])
        return [r, rotate(frame, [p[0] - hips[0], p[1] - hips[1], p[2] - hips[2]])]
      }),
    )
  }
  const rest = worldPose(own.skeleton)
  const [side] = legsOf(own.joints)
  const [hip, foot] = ['UpperLeg', 'Foot'].map(p => vec3At(rest.positions, own.joints[side + p]))
  const near = APART * Math.hypot(hip[0] - foot[0], hip[1] - foot[1], hip[2] - foot[2])
  const { frames } = own.take
  for (let i = 0; i < Math.min(LOOKS, frames); i++) {
    const f = Math.round((i * (frames - 1)) / Math.max(1, Math.min(LOOKS, frames) - 1))
    const a = at(theirs, f),
      b = at(own, f)
    for (const r of shared)
      if (Math.hypot(scale * a[r][0] - b[r][0], scale * a[r][1] - b[r][1], scale * a[r][2] - b[r][2]) > near)
        return false
  }
  return true
}
