import { addScaled, ChiraxisError, cross, dot, length, normalize, sub, vec3At, type Vec3 } from '../math'
import { bindPose, LIMB_BENDS, type Skeleton } from '../skeleton'
import { moveJoints } from './move'
import type { Rig } from './rig'

/**
 * Bends an elbow or a knee a little the natural way by moving its joint, so that a solver never picks the
 * wrong side. Hip and ankle, shoulder and wrist stay.
 * @throws ChiraxisError `bad-settings` where the joint is no elbow or knee, or the limb has no length
 */
export function preBend(rig: Rig, j: number, radians: number): Rig {
  const { skeleton } = rig
  const limb = LIMB_BENDS.find(l => l.middle === skeleton.roles[j])
  if (!limb) throw new ChiraxisError('bad-settings', `${skeleton.names[j]} is no elbow or knee.`)
  const to = bentPlace(skeleton, limb, radians)
  return moveJoints(rig, new Map([[j, sub(to, vec3At(bindPose(skeleton).positions, j))]]), false)
}

function bentPlace(skeleton: Skeleton, limb: (typeof LIMB_BENDS)[number], radians: number): Vec3 {
  const pose = bindPose(skeleton)
  const at = (role: string): Vec3 => {
    const i = skeleton.roles.indexOf(role)
    if (i < 0) throw new ChiraxisError('bad-settings', `The limb of ${limb.word.toLowerCase()} is not whole.`)
    return vec3At(pose.positions, i)
  }
  const a = at(limb.from),
    m = at(limb.middle),
    b = at(limb.to)
  const whole = sub(b, a)
  if (length(whole) < 1e-6)
    throw new ChiraxisError('bad-settings', `The limb of ${limb.word.toLowerCase()} has no length.`)
  const line = normalize(whole)
  const along = Math.min(0.9, Math.max(0.1, dot(sub(m, a), line) / length(whole))) * length(whole)
  const rest = length(whole) - along
  const out = normalize(cross(line, cross(limb.way, line)))
  // the two slopes together make the bend: atan(h/along) + atan(h/rest) = radians
  let h = (radians * along * rest) / (along + rest)
  for (let i = 0; i < 6; i++) {
    const f = Math.atan(h / along) + Math.atan(h / rest) - radians
    h -= f / (along / (along * along + h * h) + rest / (rest * rest + h * h))
  }
  return addScaled(addScaled(a, line, along), out, h)
}
