import { add, multiply, rotate, type Quat, type Vec3 } from '@chiraxis/core/math'
import { ANKLE, flat, hanging, type Move } from './gaits'
import { footPath, unrest, type FootAt } from './keyed'
import { about, momentOf, PERSON, type ArmPosture, type FootPosture, type Posture } from './motion-model'

export function idle(name: string, seconds: number, seed: number, extra?: (time: number, p: Posture) => Posture): Move {
  const a = unrest(seed),
    b = unrest(seed + 1),
    c = unrest(seed + 2)
  return {
    name,
    seconds,
    at: time => {
      const breath = Math.sin((2 * Math.PI * time) / 3.6)
      const shift = 0.5 * a(time * 0.4)
      const hips: Vec3 = [0.025 * shift, PERSON.hips[1] - 0.018 + 0.002 * breath, 0.006 * b(time * 0.5)]
      const pelvis = multiply(about('y', 1.5 * shift), about('z', 1.5 * shift))
      const chest = multiply(
        about('y', 2.2 * b(time * 0.4)),
        multiply(about('x', 1.2 + 0.9 * breath), about('z', -1.2 * shift)),
      )
      const head = multiply(about('y', 16 * c(time * 0.35)), about('x', 3 + 2 * b(time)))
      const p: Posture = {
        hips,
        pelvis,
        chest,
        head,
        arms: [
          hanging(0, 9 + 0.6 * breath, 4 + a(time), 15 + 2 * b(time)),
          hanging(1, 9 + 0.6 * breath, 5 + c(time), 14 + 2 * a(time)),
        ],
        feet: [flat(0.1, 0.01, 9), flat(-0.1, -0.015, -8)],
      }
      return momentOf(extra ? extra(time, p) : p)
    },
  }
}

/** The body between two feet: hips, trunk and head told by curves in degrees and metres, over feet that step. */
export interface Staging {
  readonly seed: number
  readonly feet: readonly [(t: number) => FootAt, (t: number) => FootAt]
  /** Hips from the middle between both feet at standing height. */
  readonly hips: (t: number) => Vec3
  /** Bow, turn and tilt of pelvis, chest and head. */
  readonly pelvis?: (t: number) => Vec3
  readonly chest?: (t: number) => Vec3
  readonly head?: (t: number) => Vec3
  readonly arms: (t: number, at: Place) => readonly [ArmPosture, ArmPosture]
}
/** Where the body is and how it faces, for arms that reach for places told from it. */
export interface Place {
  readonly centre: Vec3
  readonly yaw: number
  readonly near: (x: number, y: number, z: number) => Vec3
}

const tilt = ([bow, turn, lean]: Vec3): Quat => multiply(about('y', turn), multiply(about('x', bow), about('z', lean)))
const still = (): Vec3 => [0, 0, 0]

export function staged(name: string, seconds: number, s: Staging): Move {
  const a = unrest(s.seed),
    b = unrest(s.seed + 1)
  return {
    name,
    seconds,
    at: time => {
      const [l, r] = s.feet.map(f => f(time))
      // the trunk follows the feet a little late, the head later still
      const [ol, or] = s.feet.map(f => f(time - 0.08))
      const yaw = (ol.yaw - 9 + or.yaw + 9) / 2
      const facing = about('y', yaw)
      const h = s.hips(time)
      const swayed = rotate(facing, [h[0] + 0.004 * a(time), h[1] + 0.0015 * b(time), h[2]])
      const hips: Vec3 = [
        (ol.x + or.x) / 2 + swayed[0],
        Math.min(ol.y, or.y) * 0.6 + Math.max(ol.y, or.y) * 0.4 + PERSON.hips[1] - 0.02 + swayed[1],
        (ol.z + or.z) / 2 + swayed[2],
      ]
      const pelvis = multiply(facing, tilt((s.pelvis ?? still)(time)))
      const chest = multiply(
        facing,
        tilt(
          add((s.chest ?? still)(time - 0.03), [0.8 * Math.sin((2 * Math.PI * time) / 3.4), 0.8 * b(time * 0.6), 0]),
        ),
      )
      const head = multiply(
        about('y', (l.yaw + r.yaw) / 2),
        tilt(add((s.head ?? still)(time - 0.07), [1.2 * a(time * 0.7), 2 * b(time * 0.5), 0])),
      )
      const place: Place = {
        centre: hips,
        yaw,
        near: (x, y, z) => add([hips[0], 0, hips[2]], rotate(facing, [x, y, z])),
      }
      const foot = (f: FootAt): FootPosture => {
        const turn = multiply(about('y', f.yaw), about('x', f.pitch))
        // a pitched foot turns over its ball
        const rise = f.pitch > 0 ? Math.sin((f.pitch * Math.PI) / 180) * 0.12 : 0
        return {
          ankle: [f.x, ANKLE[1] + f.y + rise, f.z],
          foot: turn,
          toes: f.pitch > 0 ? about('y', f.yaw) : turn,
          contact: f.rests,
        }
      }
      return momentOf({ hips, pelvis, chest, head, arms: s.arms(time, place), feet: [foot(l), foot(r)] })
    },
  }
}

export const stands = (x: number, z: number, yaw: number) => footPath({ x, z, yaw }, [])
/** An arm at ease, told in degrees. */
export const at = (
  side: 0 | 1,
  out: number,
  swing: number,
  elbow: number,
  curl: number | undefined = undefined,
): ArmPosture => ({ ...hanging(side, out, swing, elbow), curl })
export const DOWN_BACK: Vec3 = [0, -0.6, -0.8]
export const outward = (side: 0 | 1, x = 0.7): Vec3 => [side === 0 ? x : -x, -0.6, -0.4]
