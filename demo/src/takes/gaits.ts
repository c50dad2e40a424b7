import { add, lerp, multiply, rotate, slerp, sub, type Quat, type Vec3 } from '@chiraxis/core/math'
import { clamp, ease, unrest } from './keyed'
import { about, momentOf, PERSON, type ArmPosture, type FootPosture, type Moment, type Posture } from './motion-model'

/** A named move as a function of time, and of where the recorded spine has its joints, where paws or hands below it must be in place. */
export interface Move {
  readonly name: string
  readonly seconds: number
  readonly at: (time: number, spine: readonly number[]) => Moment
}

/** Arm hanging by the side: `out` away from the body, `swing` to the front, degrees. */
export function hanging(side: 0 | 1, out: number, swing: number, elbow: number): { turn: Quat; elbow: number } {
  const s = side === 0 ? 1 : -1
  return { turn: multiply(about('x', -swing), about('z', -s * (90 - out))), elbow: (elbow * Math.PI) / 180 }
}

export const ANKLE: Vec3 = PERSON.leftFoot
const TOE: Vec3 = sub(PERSON.leftToes, ANKLE)
const HEEL: Vec3 = [0, -0.08, -0.05]

/** A foot flat on the ground at x, z. */
export const flat = (x: number, z: number, yaw = 0): FootPosture => ({
  ankle: [x, ANKLE[1], z],
  foot: about('y', yaw),
  toes: about('y', yaw),
  contact: true,
})

export interface Gait {
  /** Metres a second, seconds a cycle (two steps), share of the cycle a foot stands. */
  readonly speed: number
  readonly cycle: number
  readonly stance: number
  readonly lift: number
  readonly bob: number
  readonly drop: number
  readonly lean: number
  readonly swing: number
  readonly elbow: number
}
export const WALK: Gait = {
  speed: 1.3,
  cycle: 1.08,
  stance: 0.62,
  lift: 0.09,
  bob: 0.018,
  drop: 0.035,
  lean: 3,
  swing: 24,
  elbow: 16,
}
export const RUN: Gait = {
  speed: 3.1,
  cycle: 0.72,
  stance: 0.36,
  lift: 0.2,
  bob: 0.035,
  drop: 0.075,
  lean: 10,
  swing: 42,
  elbow: 82,
}

/** One foot over time: planted and rolling from heel to toe, then swung to its next place. */
function stepping(g: Gait, side: 0 | 1, time: number): FootPosture {
  const s = side === 0 ? 1 : -1
  const stride = g.speed * g.cycle
  const phase = time / g.cycle + (side === 0 ? 0 : 0.5)
  const step = Math.floor(phase)
  const p = phase - step
  const x = s * 0.075
  // where the hips are when the foot comes down, and half of what they travel while it stands
  const place = (n: number): number => (n - (side === 0 ? 0 : 0.5)) * stride + 0.5 * g.stance * stride
  const strike = -18
  const push = 42
  const standing = (n: number, q: number): FootPosture => {
    const u = q / g.stance
    const z = place(n)
    const ground: Vec3 = [x, ANKLE[1], z]
    if (u < 0.16) {
      const foot = about('x', strike * (1 - ease(u / 0.16)))
      const heel = add(ground, HEEL)
      return { ankle: sub(heel, rotate(foot, HEEL)), foot, toes: foot, contact: false }
    }
    if (u < 0.62) return { ...flat(x, z) }
    const foot = about('x', push * ease((u - 0.62) / 0.38))
    const toe = add(ground, TOE)
    return { ankle: sub(toe, rotate(foot, TOE)), foot, toes: [0, 0, 0, 1], contact: true }
  }
  if (p < g.stance) return standing(step, p)
  const from = standing(step, g.stance)
  const to = standing(step + 1, 0)
  const u = (p - g.stance) / (1 - g.stance)
  const e = ease(u)
  const ankle = lerp(from.ankle, to.ankle, e)
  ankle[1] += g.lift * Math.sin(Math.PI * u) ** 2
  // the toes trail at first, then come up before the heel lands
  const dip = about('x', 22 * Math.sin(Math.PI * clamp(u * 1.4)) * (1 - u))
  const foot = multiply(slerp(from.foot, to.foot, e), dip)
  return { ankle, foot, toes: slerp(foot, multiply(foot, about('x', -push * (1 - clamp(u * 3)))), 1), contact: false }
}

/** What a gait does otherwise: arms that hold something, told from where the hips are; feet that run away under a body that stays. */
interface GaitOtherwise {
  readonly arms?: (hips: Vec3, time: number) => Posture['arms']
  readonly onTheSpot?: boolean
}

export function gait(name: string, g: Gait, seconds: number, seed: number, otherwise: GaitOtherwise = {}): Move {
  const wander = unrest(seed)
  return {
    name,
    seconds,
    at: time => {
      const w = (2 * Math.PI * time) / g.cycle
      const n = wander(time)
      const gone = otherwise.onTheSpot ? g.speed * time : 0
      const hips: Vec3 = [
        0.014 * Math.cos(w - 0.6),
        PERSON.hips[1] - g.drop - g.bob * Math.cos(2 * w - 0.5),
        g.speed * time - gone + 0.01 * Math.sin(2 * w),
      ]
      const foot = (side: 0 | 1): FootPosture => {
        const f = stepping(g, side, time)
        return { ...f, ankle: sub(f.ankle, [0, 0, gone]) }
      }
      const pelvis = multiply(
        about('y', 5 * Math.cos(w)),
        multiply(about('x', g.lean * 0.5), about('z', 2.5 * Math.sin(w))),
      )
      const chest = multiply(
        about('y', -6 * Math.cos(w)),
        multiply(about('x', g.lean + 0.6 * n), about('z', -1.5 * Math.sin(w))),
      )
      const head = multiply(about('y', 1.5 * n), about('x', 2))
      const arm = (side: 0 | 1): ArmPosture => {
        const swing = (side === 0 ? -1 : 1) * g.swing * Math.cos(w - 0.15)
        return hanging(side, 11 + n, swing + 4, g.elbow + 0.35 * swing * (g.elbow > 50 ? 0.5 : 1) + g.swing * 0.35)
      }
      return momentOf({
        hips,
        pelvis,
        chest,
        head,
        arms: otherwise.arms?.(hips, time) ?? [arm(0), arm(1)],
        feet: [foot(0), foot(1)],
      })
    },
  }
}

export const BRISK: Gait = {
  speed: 1.75,
  cycle: 0.96,
  stance: 0.59,
  lift: 0.1,
  bob: 0.024,
  drop: 0.04,
  lean: 5,
  swing: 32,
  elbow: 30,
}
export const CROUCHED: Gait = {
  speed: 0.95,
  cycle: 1.2,
  stance: 0.66,
  lift: 0.09,
  bob: 0.012,
  drop: 0.17,
  lean: 26,
  swing: 14,
  elbow: 52,
}
