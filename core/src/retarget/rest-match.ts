import {
  add,
  conjugate,
  distance,
  dot,
  fromTo,
  IDENTITY,
  multiply,
  normalize,
  quatAt,
  rotate,
  scale,
  slerp,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { worldPose, type Skeleton } from '../skeleton'
import { FINGERS, fingerJoints, ballRole, FOUR_LEGS, kindOf } from '../body'
import { framedPositions } from './body-frame'

const fingerChain = (finger: string, side: string): string[] => fingerJoints(finger).map(part => side + finger + part)

/** How a rest pose stands: each limb's turn from the reference, and by role the limb it goes along with where its own direction is not told. */
export interface RestStance {
  readonly stance: Readonly<Record<string, Quat>>
  readonly follows: Readonly<Record<string, string>>
}

/**
 * How the limbs of a rest pose stand, each as the turn from a common reference: arms straight out to
 * the sides, legs straight down, feet ahead. A limb's turn is the shortest one from its reference, and
 * a forearm's or shin's is hung on its limb's, so that two rest poses of one body agree in twist too,
 * whether they stand with arms out or arms down. Legs of a body on four are told whole, see {@link stanceOnFour}.
 */
export function restStance(skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat): RestStance {
  if (kindOf(roles) === 'fourleg') return { stance: stanceOnFour(skeleton, roles, frame), follows: {} }
  const p = framedPositions(skeleton, frame)
  const world = worldPose(skeleton)
  const stance: Record<string, Quat> = {}
  const follows: Record<string, string> = {}
  const at = (role: string): Vec3 | undefined => (roles[role] === undefined ? undefined : p[roles[role]])
  const hang = (role: string, from: string, to: Vec3 | undefined, upper: string, reference: Vec3): void => {
    const start = at(from)
    const carried = stance[upper]
    if (!start || !carried) return
    if (!to || distance(start, to) < 1e-9) {
      stance[role] = carried
      follows[role] = upper
      return
    }
    // the joint goes on from where the limb above it points
    stance[role] = multiply(fromTo(rotate(carried, reference), normalize(sub(to, start))), carried)
  }
  const knuckles = (side: string): Vec3 | undefined => {
    const found = ['Index', 'Middle', 'Ring', 'Little'].map(f => at(`${side}${f}Proximal`)).filter(p => p !== undefined)
    return found.length === 0
      ? undefined
      : scale(
          found.reduce((sum, p) => add(sum, p), [0, 0, 0] as Vec3),
          1 / found.length,
        )
  }
  /** Where the row of knuckles is known the hand's roll is too: from index to little it points back where palms face down. */
  const turnPalm = (side: string, out: Vec3): void => {
    const first = at(`${side}IndexProximal`)
    const last = at(`${side}LittleProximal`) ?? at(`${side}RingProximal`) ?? at(`${side}MiddleProximal`)
    const hand = stance[`${side}Hand`]
    if (!first || !last || !hand) return
    const along = rotate(hand, out)
    const flat = (v: Vec3): Vec3 => normalize(sub(v, scale(along, dot(v, along))))
    const roll = fromTo(flat(rotate(hand, [0, 0, -1])), flat(sub(last, first)))
    stance[`${side}Hand`] = multiply(roll, hand)
    // the far end of the forearm turns with the palm, its near end does not
    stance[`${side}LowerArm`] = multiply(slerp(IDENTITY, roll, 0.5), stance[`${side}LowerArm`])
  }
  for (const [side, s] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const out: Vec3 = [s, 0, 0]
    const shoulder = at(`${side}UpperArm`)
    const elbow = at(`${side}LowerArm`)
    const wrist = at(`${side}Hand`)
    if (shoulder && elbow) stance[`${side}UpperArm`] = fromTo(out, normalize(sub(elbow, shoulder)))
    hang(`${side}LowerArm`, `${side}LowerArm`, wrist, `${side}UpperArm`, out)
    hang(
      `${side}Hand`,
      `${side}Hand`,
      knuckles(side) ?? tipOf(skeleton, roles[`${side}Hand`], frame, world, p),
      `${side}LowerArm`,
      out,
    )
    turnPalm(side, out)
    for (const finger of FINGERS) {
      const chain = fingerChain(finger, side).filter(r => roles[r] !== undefined)
      let above = `${side}Hand`
      chain.forEach((role, i) => {
        const next = chain[i + 1] !== undefined ? at(chain[i + 1]) : tipOf(skeleton, roles[role], frame, world, p)
        hang(role, role, next, above, out)
        above = role
      })
    }
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
  return { stance, follows }
}

/**
 * How four legs stand: each as one turn of the way from its top to its paw from straight down. Knees, hocks and elbows are bent
 * by anatomy and not by pose, so their own bend at rest is kept; paws stand flat.
 */
function stanceOnFour(skeleton: Skeleton, roles: Readonly<Record<string, number>>, frame: Quat): Record<string, Quat> {
  const p = framedPositions(skeleton, frame)
  const stance: Record<string, Quat> = {}
  for (const leg of FOUR_LEGS) {
    const way = sub(p[roles[ballRole(roles, leg)]], p[roles[`${leg}UpperLeg`]])
    if (Math.hypot(...way) < 1e-9) continue
    for (const part of ['UpperLeg', 'LowerLeg', 'Foot']) stance[leg + part] = fromTo([0, -1, 0], normalize(way))
    stance[`${leg}Toes`] = [...IDENTITY]
  }
  return stance
}

function tipOf(
  skeleton: Skeleton,
  hand: number | undefined,
  frame: Quat,
  world: ReturnType<typeof worldPose>,
  p: readonly Vec3[],
): Vec3 | undefined {
  if (hand === undefined || !skeleton.tips) return undefined
  const tip = vec3At(skeleton.tips, hand)
  if (Math.hypot(...tip) < 1e-9) return undefined
  const turned = rotate(frame, rotate(quatAt(world.rotations, hand), tip))
  return [p[hand][0] + turned[0], p[hand][1] + turned[1], p[hand][2] + turned[2]]
}

/**
 * The turn that takes each limb of the performer's rest pose to the figure's, with corrections by hand on top.
 * A part whose direction one of the two does not tell goes along with the part it hangs on.
 * @param byHand turns in the body's own frame, by role
 */
export function matchRests(
  figure: RestStance,
  performer: RestStance,
  byHand: Readonly<Record<string, Quat>> = {},
): Record<string, Quat> {
  const match: Record<string, Quat> = {}
  for (const role of Object.keys(figure.stance)) {
    if (!performer.stance[role]) continue
    const above = figure.follows[role] ?? performer.follows[role]
    match[role] =
      above && match[above] ? match[above] : multiply(figure.stance[role], conjugate(performer.stance[role]))
  }
  for (const [role, turn] of Object.entries(byHand)) match[role] = multiply(turn, match[role] ?? IDENTITY)
  return match
}
