import {
  add,
  addScaled,
  cross,
  dot,
  fromDirections,
  length,
  lerp,
  normalize,
  scale,
  sub,
  ChiraxisError,
  type Vec3,
} from '../math'
import { BIPED_ROLES, ROLE_PARENTS } from '../body'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from './skeleton'

/** A named point the plan is laid on, metres in the straightened body. */
export interface PlanPoint {
  readonly id: string
  readonly position: Vec3
}

/** Least bend that tells a solver which way a knee or an elbow goes, radians. */
const LEAST_BEND = (2 * Math.PI) / 180

/**
 * The biped skeleton on its landmarks: joints in the middle of the limb, +Y of every joint along its
 * bone, +X along the hinge (knees bend back about it, elbows bend forward), a spine of three.
 * @throws ChiraxisError `bad-input` where a landmark is missing
 */
export function bipedJoints(landmarks: readonly PlanPoint[]): WorldJoint[] {
  const at = (id: string): Vec3 => {
    const l = landmarks.find(m => m.id === id)
    if (!l)
      throw new ChiraxisError('bad-input', `The landmark ${id} is missing; the skeleton cannot be built without it.`)
    return l.position
  }
  const p: Record<string, Vec3> = {}
  const tips: Record<string, Vec3> = { head: at('crown') }
  p.hips = at('hips')
  p.neck = at('neckBase')
  p.head = at('skullBase')
  p.chest = at('chest')
  p.spine = lerp(p.hips, p.chest, 0.43)
  p.upperChest = lerp(p.chest, p.neck, 0.41)
  for (const side of ['left', 'right'] as const) {
    const shoulder = at(`${side}Shoulder`)
    const wrist = at(`${side}Wrist`)
    const elbow = bent(shoulder, at(`${side}Elbow`), wrist, [0, 0, -1])
    // the collarbone starts beside the midline, a little below the neck
    p[`${side}Shoulder`] = [shoulder[0] * 0.19, lerp(shoulder, p.neck, 0.3)[1], lerp(p.neck, shoulder, 0.4)[2]]
    p[`${side}UpperArm`] = shoulder
    p[`${side}LowerArm`] = elbow
    p[`${side}Hand`] = wrist
    tips[`${side}Hand`] = at(`${side}HandTip`)
    const hip = at(`${side}Hip`)
    const ankle = at(`${side}Ankle`)
    p[`${side}UpperLeg`] = hip
    p[`${side}LowerLeg`] = bent(hip, at(`${side}Knee`), ankle, [0, 0, 1])
    p[`${side}Foot`] = ankle
    p[`${side}Toes`] = at(`${side}Toes`)
    tips[`${side}Toes`] = at(`${side}ToeTip`)
  }
  const next: Record<string, string> = {
    hips: 'spine',
    spine: 'chest',
    chest: 'upperChest',
    upperChest: 'neck',
    neck: 'head',
  }
  for (const side of ['left', 'right']) {
    for (const [a, b] of [
      ['Shoulder', 'UpperArm'],
      ['UpperArm', 'LowerArm'],
      ['LowerArm', 'Hand'],
      ['UpperLeg', 'LowerLeg'],
      ['LowerLeg', 'Foot'],
      ['Foot', 'Toes'],
    ])
      next[side + a] = side + b
  }
  return BIPED_ROLES.map(role => {
    const end = next[role] ? p[next[role]] : tips[role]
    const along = normalize(sub(end, p[role]))
    return {
      name: role,
      role,
      position: p[role],
      parent: role === 'hips' ? -1 : BIPED_ROLES.indexOf(ROLE_PARENTS[role] as (typeof BIPED_ROLES)[number]),
      rotation: fromDirections(along, hingeOf(role, p)),
      tip: tips[role],
    }
  })
}

export const buildBiped = (landmarks: readonly PlanPoint[]): Skeleton => skeletonFromWorld(bipedJoints(landmarks))

/** The axis a joint of a limb turns about, right-handed for a bend the natural way; across the body elsewhere. */
function hingeOf(role: string, p: Readonly<Record<string, Vec3>>): Vec3 {
  const side = role.startsWith('left') ? 'left' : 'right'
  if (/UpperArm|LowerArm|Hand$/.test(role)) {
    const upper = sub(p[`${side}LowerArm`], p[`${side}UpperArm`])
    const fore = sub(p[`${side}Hand`], p[`${side}LowerArm`])
    return normalize(cross(upper, fore))
  }
  if (/UpperLeg|LowerLeg/.test(role)) {
    const thigh = sub(p[`${side}LowerLeg`], p[`${side}UpperLeg`])
    const shin = sub(p[`${side}Foot`], p[`${side}LowerLeg`])
    return normalize(cross(thigh, shin))
  }
  return [1, 0, 0]
}

/** Moves the middle joint of a limb so that it bends at least a little towards `way`. */
function bent(a: Vec3, middle: Vec3, b: Vec3, way: Vec3): Vec3 {
  const line = normalize(sub(b, a))
  const foot = addScaled(a, line, dot(sub(middle, a), line))
  const out = normalize(addScaled(way, line, -dot(way, line)))
  const off = sub(middle, foot)
  const least = Math.tan(LEAST_BEND / 2) * Math.min(length(sub(foot, a)), length(sub(foot, b)))
  const forward = dot(off, out)
  if (forward >= least) return middle
  return add(foot, add(sub(off, scale(out, forward)), scale(out, least)))
}
