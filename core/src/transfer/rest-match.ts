import { conjugate, fromTo, multiply, normalize, rotate, sub, vec3At, type Quat, type Vec3, quatAt } from '../math'
import { worldPose, type Skeleton } from '../skeleton'
import { framedPositions } from './body-frame'

/**
 * How the limbs of a rest pose stand, each as the turn from a common reference: arms straight out to
 * the sides, legs straight down, feet ahead. A limb's turn is the shortest one from its reference, and
 * a forearm's or shin's is hung on its limb's, so that two rest poses of one body agree in twist too,
 * whether they stand with arms out or arms down.
 */
export function restStance(skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat): Record<string, Quat> {
  const p = framedPositions(skeleton, frame)
  const world = worldPose(skeleton)
  const stance: Record<string, Quat> = {}
  const at = (role: string): Vec3 | undefined => (roles[role] === undefined ? undefined : p[roles[role]])
  const hang = (role: string, from: string, to: Vec3 | undefined, upper: string, reference: Vec3): void => {
    const start = at(from)
    const carried = stance[upper]
    if (!start || !to || !carried) {
      if (carried) stance[role] = carried
      return
    }
    // the joint goes on from where the limb above it points
    stance[role] = multiply(fromTo(rotate(carried, reference), normalize(sub(to, start))), carried)
  }
  for (const [side, s] of [['left', 1], ['right', -1]] as const) {
    const out: Vec3 = [s, 0, 0]
    const shoulder = at(`${side}UpperArm`)
    const elbow = at(`${side}LowerArm`)
    const wrist = at(`${side}Hand`)
    if (shoulder && elbow) stance[`${side}UpperArm`] = fromTo(out, normalize(sub(elbow, shoulder)))
    hang(`${side}LowerArm`, `${side}LowerArm`, wrist, `${side}UpperArm`, out)
    hang(`${side}Hand`, `${side}Hand`, tipOf(skeleton, roles[`${side}Hand`], frame, world, p), `${side}LowerArm`, out)
    const down: Vec3 = [0, -1, 0]
    const hip = at(`${side}UpperLeg`)
    const knee = at(`${side}LowerLeg`)
    const ankle = at(`${side}Foot`)
    if (hip && knee) stance[`${side}UpperLeg`] = fromTo(down, normalize(sub(knee, hip)))
    hang(`${side}LowerLeg`, `${side}LowerLeg`, ankle, `${side}UpperLeg`, down)
    // soles stand flat in any rest pose, so feet differ only in how far they point outwards
    const toes = at(`${side}Toes`)
    if (ankle && toes) {
      const yaw = Math.atan2(toes[0] - ankle[0], toes[2] - ankle[2])
      stance[`${side}Foot`] = [0, Math.sin(yaw / 2), 0, Math.cos(yaw / 2)]
      stance[`${side}Toes`] = stance[`${side}Foot`]
    }
  }
  return stance
}

function tipOf(skeleton: Skeleton, hand: number | undefined, frame: Quat, world: ReturnType<typeof worldPose>, p: readonly Vec3[]): Vec3 | undefined {
  if (hand === undefined || !skeleton.tips) return undefined
  const tip = vec3At(skeleton.tips, hand)
  if (Math.hypot(...tip) < 1e-9) return undefined
  const turned = rotate(frame, rotate(quatAt(world.rotations, hand), tip))
  return [p[hand][0] + turned[0], p[hand][1] + turned[1], p[hand][2] + turned[2]]
}

/** The turn that takes each limb of the performer's rest pose to the figure's; identity where both need none. */
export function matchRests(figure: Readonly<Record<string, Quat>>, performer: Readonly<Record<string, Quat>>): Record<string, Quat> {
  const match: Record<string, Quat> = {}
  for (const role of Object.keys(figure)) {
    if (performer[role]) match[role] = multiply(figure[role], conjugate(performer[role]))
  }
  return match
}
