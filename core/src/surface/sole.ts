import { add, conjugate, normalize, quatAt, rotate, scale, sub, vec3At, type Quat, type Vec3 } from '../math'
import { kindOf, legsOf } from '../body'
import { worldPose, type Skeleton } from '../skeleton'
import type { Outermost } from './outermost'
import { usualHeight } from './usual-radii'

/** A place that rides on a joint, in the joint's own space. */
export interface Ridden {
  readonly joint: number
  readonly at: Vec3
}

/** Where a foot meets the ground: under the heel, under the ball and under the tip of the toes, and how high that is at rest. */
export interface Sole {
  readonly heel: Ridden
  readonly ball: Ridden
  readonly tip: Ridden
  /** What stays in place while the foot rolls over its ball: the joint of the toes, or the ball where there is none. */
  readonly pivot: Ridden
  /** Height of each at rest, in the body's own frame: heels may stand higher. */
  readonly rest: readonly [heel: number, ball: number, tip: number]
}

/** What lies within this of the lowest place of a foot is its sole, share of the usual height. */
const FLAT = 0.01
/** Where there is no surface: heights of ankle and toe joint over the ground, lengths of a foot behind and ahead of the ankle (Winter, figure 4.1: 0.039 and 0.152). */
const ANKLE = 0.039,
  TOES = 0.014,
  BEHIND = 0.035,
  BALL = 0.075,
  AHEAD = 0.115

/**
 * Finds the soles of a body, of its surface where there is one, else from its joints as bodies usually are.
 * @param frame from the skeleton's space to Y up, facing +Z
 * @returns by leg, as {@link legsOf} names them
 */
export function solesOf(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  outermost?: Outermost,
): Readonly<Record<string, Sole>> {
  // asked for every take that is carried over the same pair
  const known = found.get(skeleton)
  if (known && known.joints === joints && known.outermost === outermost) return known.soles
  const soles = findSoles(skeleton, joints, frame, outermost)
  found.set(skeleton, { joints, outermost, soles })
  return soles
}
const found = new WeakMap<
  Skeleton,
  { joints: Readonly<Record<string, number>>; outermost?: Outermost; soles: Readonly<Record<string, Sole>> }
>()

function findSoles(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  outermost: Outermost | undefined,
): Readonly<Record<string, Sole>> {
  const rest = worldPose(skeleton)
  const back = conjugate(frame)
  const at = (j: number): Vec3 => rotate(frame, vec3At(rest.positions, j))
  const ride = (joint: number, place: Vec3): Ridden => ({
    joint,
    at: rotate(conjugate(quatAt(rest.rotations, joint)), rotate(back, sub(place, at(joint)))),
  })
  const height = joints.leftUpperLeg !== undefined ? usualHeight(skeleton, joints) : 0
  return Object.fromEntries(
    legsOf(joints).flatMap((leg): [string, Sole][] => {
      const foot = joints[`${leg}Foot`]
      if (foot === undefined) return []
      const toes: number | undefined = joints[`${leg}Toes`]
      if (kindOf(joints) === 'fourleg') {
        // a paw is one place
        const ball = ride(toes ?? foot, at(toes ?? foot))
        const y = at(toes ?? foot)[1]
        return [[leg, { heel: ball, ball, tip: ball, pivot: ball, rest: [y, y, y] }]]
      }
      const ankle = at(foot)
      const seen =
        outermost &&
        seenSole(outermost, leg, height * FLAT, (j, p) =>
          add(at(j), rotate(frame, rotate(quatAt(rest.rotations, j), p))),
        )
      const joint = toes === undefined ? undefined : at(toes)
      let places: readonly [Vec3, Vec3, Vec3]
      if (seen) {
        const { heel, tip, ground } = seen
        const t = joint ? clamp((joint[2] - heel[2]) / (tip[2] - heel[2] || 1), 0.5, 0.85) : 0.7
        const ball: Vec3 = [heel[0] + t * (tip[0] - heel[0]), ground, heel[2] + t * (tip[2] - heel[2])]
        places = [heel, ball, tip]
      } else {
        const way: Vec3 = joint
          ? normalize([joint[0] - ankle[0], 0, joint[2] - ankle[2]], [0, 0, 1])
          : ([0, 0, 1] as Vec3)
        const ground = Math.min(
          ankle[1] - ANKLE * height * (joint ? 0.5 : 1),
          joint ? joint[1] - TOES * height : Infinity,
        )
        const on = (k: number): Vec3 => {
          const p = add(ankle, scale(way, k * height))
          return [p[0], ground, p[2]]
        }
        const ball: Vec3 = joint ? [joint[0], ground, joint[2]] : on(BALL)
        const tip = joint ? add(ball, scale(way, (AHEAD - BALL) * height)) : on(AHEAD)
        places = [on(-BEHIND), ball, tip]
      }
      const [heel, ball, tip] = places
      return [
        [
          leg,
          {
            heel: ride(foot, heel),
            // the ball turns with the toes and stays where the foot is
            ball: ride(foot, ball),
            tip: ride(toes ?? foot, tip),
            pivot: toes === undefined ? ride(foot, ball) : { joint: toes, at: [0, 0, 0] },
            rest: [heel[1], ball[1], tip[1]],
          },
        ],
      ]
    }),
  )
}

const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v))

/** Heel and tip of a foot's own surface at rest, and how low it is. */
function seenSole(
  { roles, joints, places }: Outermost,
  leg: string,
  flat: number,
  inFrame: (joint: number, place: Vec3) => Vec3,
): { heel: Vec3; tip: Vec3; ground: number } | undefined {
  const foot: Vec3[] = []
  roles.forEach((role, i) => {
    if (role === `${leg}Foot` || role === `${leg}Toes`) foot.push(inFrame(joints[i], vec3At(places, i)))
  })
  if (foot.length < 8) return undefined
  let ground = Infinity
  for (const p of foot) ground = Math.min(ground, p[1])
  const low = foot.filter(p => p[1] < ground + flat)
  let rear = low[0],
    front = low[0]
  for (const p of low) {
    if (p[2] < rear[2]) rear = p
    if (p[2] > front[2]) front = p
  }
  const across = low.reduce((s, p) => s + p[0], 0) / low.length
  return { heel: [across, rear[1], rear[2]], tip: [across, front[1], front[2]], ground }
}
