import {
  add,
  cross,
  dot,
  fromAxes,
  length,
  multiply,
  normalize,
  rotate,
  scale,
  slerp,
  sub,
  conjugate,
  type Quat,
  type Vec3,
} from '@chiraxis/core/math'
import { FOUR_LEGS } from '@chiraxis/core/body'
import { BRINDLE, BRINDLE_COLORS, houndPlan } from '../figures/hound'
import { about, type Moment } from './motion-model'

/** The recorded hound, in metres, standing, by role: another animal than Brindle, leaner and longer in the leg. */
export const HOUND: Readonly<Record<string, Vec3>> = houndPlan(
  { ...BRINDLE, back: 0.56, length: 1.06, legs: 1.04, neck: 1.08, muzzle: 1.12, limb: 0.9, tailLift: 12 },
  BRINDLE_COLORS,
).joints

export type Leg = (typeof FOUR_LEGS)[number]

/** Where a paw is: the ball's place, how its metapodial is tilted about the ball, degrees (forward is positive), and its heading. */
export interface Paw {
  readonly ball: Vec3
  readonly tilt: number
  readonly yaw: number
  readonly toes: number
  readonly contact: boolean
}

/** What a motion asks of a hound at a moment; legs are solved from where the paws are. */
export interface HoundPosture {
  readonly hips: Vec3
  readonly pelvis: Quat
  readonly chest: Quat
  /** World turns at the base of the neck and of the head; the neck bends evenly between them. */
  readonly neck: Quat
  readonly head: Quat
  /** World turn of the tail at a share of its length. */
  readonly tail: (share: number) => Quat
  readonly ears: readonly [Quat, Quat]
  /** How far each shoulder blade swings ahead, degrees. */
  readonly blades: readonly [number, number]
  readonly paws: Readonly<Record<Leg, Paw>>
}

/** Share of the way from hips to neck over which the trunk turns from pelvis to chest. */
const TRUNK_TURN = 0.8
const at = (role: string): Vec3 => HOUND[role]

/**
 * Works out every part's turn from a posture.
 * @param spine where the spine's joints lie between hips and neck: on them depends where the shoulders are
 */
export function houndMoment(p: HoundPosture, spine: readonly number[]): Moment {
  const trunk = (share: number): Quat => slerp(p.pelvis, p.chest, Math.min(1, share / TRUNK_TURN))
  const turns: Record<string, Quat> = {
    hips: p.pelvis,
    neck: p.neck,
    head: p.head,
    leftEar: p.ears[0],
    rightEar: p.ears[1],
  }
  // where the last joint of the spine is, which the shoulder blades hang on
  const along = (share: number): Vec3 => scale(sub(at('neck'), at('hips')), share)
  let chest = p.hips
  spine.forEach((share, i) => {
    chest = add(chest, rotate(i === 0 ? p.pelvis : trunk(spine[i - 1]), sub(along(share), along(spine[i - 1] ?? 0))))
  })
  const chestRest = add(at('hips'), along(spine[spine.length - 1]))
  for (const leg of FOUR_LEGS) {
    const front = leg.endsWith('Front')
    const base = front ? trunk(spine[spine.length - 1]) : p.pelvis
    let top: Vec3
    if (front) {
      const blade = multiply(base, about('x', -p.blades[leg.startsWith('left') ? 0 : 1]))
      turns[`${leg}Shoulder`] = blade
      top = add(
        add(chest, rotate(base, sub(at(`${leg}Shoulder`), chestRest))),
        rotate(blade, sub(at(`${leg}UpperLeg`), at(`${leg}Shoulder`))),
      )
    } else top = add(p.hips, rotate(p.pelvis, sub(at(`${leg}UpperLeg`), at('hips'))))
    const { ball, tilt, yaw, toes } = p.paws[leg]
    const foot = multiply(about('y', yaw), about('x', tilt))
    const target = sub(ball, rotate(foot, sub(at(`${leg}Toes`), at(`${leg}Foot`))))
    const { upper, lower } = solveLeg(leg, top, target, rotate(about('y', yaw), [0, 0, front ? -1 : 1]))
    turns[`${leg}UpperLeg`] = upper
    turns[`${leg}LowerLeg`] = lower
    turns[`${leg}Foot`] = foot
    turns[`${leg}Toes`] = multiply(about('y', yaw), about('x', toes))
  }
  return {
    hips: p.hips,
    turns,
    along: { spine: trunk, neck: share => slerp(p.neck, p.head, share), tail: p.tail },
    contact: FOUR_LEGS.map(leg => p.paws[leg].contact),
  }
}

/** Two bones to a point (law of cosines), the middle joint standing out to `way`. */
function solveLeg(leg: Leg, top: Vec3, target: Vec3, way: Vec3): { upper: Quat; lower: Quat } {
  const upperRest = sub(at(`${leg}LowerLeg`), at(`${leg}UpperLeg`)),
    lowerRest = sub(at(`${leg}Foot`), at(`${leg}LowerLeg`))
  const a = length(upperRest),
    b = length(lowerRest)
  const line = sub(target, top)
  const d = Math.min(Math.max(length(line), Math.abs(a - b) * 1.01), (a + b) * 0.995)
  const down = normalize(line)
  const out = normalize(sub(way, scale(down, dot(way, down))))
  const cos = (a * a + d * d - b * b) / (2 * a * d)
  const upper = add(scale(down, cos), scale(out, Math.sqrt(Math.max(0, 1 - cos * cos))))
  const lower = normalize(sub(scale(down, d), scale(upper, a)))
  // across the plane of the bend, to the left
  const side = cross(down, out)
  const left = leg.endsWith('Front') ? side : scale(side, -1)
  return { upper: turnOf(upperRest, upper, left), lower: turnOf(lowerRest, lower, left) }
}

function turnOf(rest: Vec3, now: Vec3, left: Vec3): Quat {
  const frame = (d: Vec3, side: Vec3): Quat => {
    const x = normalize(sub(side, scale(d, dot(side, d))))
    return fromAxes(x, scale(d, -1), cross(x, scale(d, -1)))
  }
  return multiply(frame(normalize(now), left), conjugate(frame(normalize(rest), [1, 0, 0])))
}
