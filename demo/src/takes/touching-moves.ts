import { add, lerp, multiply, rotate, type Quat, type Vec3 } from '@chiraxis/core/math'
import { flat, gait, WALK, type Move } from './gaits'
import { beat, clamp, curve, ease, path, unrest } from './keyed'
import { about, momentOf, type ArmPosture, type FootPosture, type Moment, type Posture } from './motion-model'
import { idle, outward, staged, stands } from './stagings'

/** Where the middle of a wrist is while its palm lies flat on the ground, metres. */
const PALM = 0.06

const SIDES = [0, 1] as const
const sign = (side: 0 | 1): number => (side === 0 ? 1 : -1)
const both = <T>(make: (side: 0 | 1) => T): [T, T] => [make(0), make(1)]

/** Feet of one who sits or lies: knees point up and ahead, whatever way the feet lie. */
const kneesUp = (left: FootPosture, right: FootPosture): [FootPosture, FootPosture] => [
  { ...left, kneeTo: [0.08, 0.9, 0.4] },
  { ...right, kneeTo: [-0.08, 0.9, 0.4] },
]

/** A moment of a body that touches more than the ground under its feet. */
const touching = (p: Posture, touches: readonly string[]): Moment => ({ ...momentOf(p), touches })

/** Falls over backwards: sits down hard, lies on the back with knees up, and stays. */
function fallBack(): Move {
  const hips = path(
    [0, 0, 0.93, 0],
    [0.5, 0, 0.9, -0.03],
    [0.9, 0, 0.62, -0.24],
    [1.22, 0, 0.16, -0.46],
    [1.6, 0, 0.105, -0.5],
    [4.5, 0, 0.105, -0.5],
  )
  const lean = curve([0, 0], [0.5, -4], [0.9, -8], [1.22, -38], [1.62, -86], [4.5, -86])
  const chest = curve([0, 2], [0.5, 6], [0.9, 16], [1.22, -26], [1.62, -88], [4.5, -88])
  const head = curve([0, 0], [0.9, 20], [1.22, 10], [1.62, -68], [1.9, -82], [4.5, -80])
  const breathes = unrest(161)
  return {
    name: 'fall back',
    seconds: 4.5,
    at: t => {
      const down = ease(clamp((t - 0.85) / 0.4))
      const lies = t > 1.64
      const p = hips(t)
      const arm = (side: 0 | 1): ArmPosture => {
        const s = sign(side)
        const flung = lerp([s * 0.34, 1.2, 0.2], [s * 0.4, PALM, -0.72 - 0.06 * side], down)
        const start: Vec3 = [s * 0.27, 0.8, 0.06]
        const goal = lerp(start, flung, ease(clamp((t - 0.35) / 0.4)))
        return { reach: goal, elbowTo: [s, -0.2, -0.4], curl: 0.3 }
      }
      return touching(
        {
          hips: p,
          pelvis: about('x', lean(t)),
          chest: about('x', chest(t) + (lies ? 0.6 * breathes(t) : 0)),
          head: about('x', head(t)),
          arms: both(arm),
          feet: kneesUp(flat(0.12, 0.02, 8), flat(-0.12, -0.01, -8)),
        },
        [...(t > 1.3 ? ['hips', 'leftHand', 'rightHand'] : []), ...(lies ? ['chest', 'head'] : [])],
      )
    },
  }
}

/** On hands and knees, a hand and the opposite knee together, toes tucked under. */
function crawl(): Move {
  const cycle = 1.3,
    speed = 0.42,
    stride = speed * cycle
  /** How far ahead of the body a limb is, and whether it rests. */
  const pace = (t: number, phase: number): { ahead: number; lift: number; rests: boolean } => {
    const u = (((t / cycle + phase) % 1) + 1) % 1
    if (u < 0.6) return { ahead: stride * (0.3 - u), lift: 0, rests: true }
    const v = (u - 0.6) / 0.4
    return { ahead: stride * (-0.3 + 0.6 * ease(v)), lift: Math.sin(Math.PI * v) ** 2, rests: false }
  }
  const hand = (t: number, side: 0 | 1) => pace(t, side === 0 ? 0 : 0.5)
  const knee = (t: number, side: 0 | 1) => pace(t, side === 0 ? 0.5 : 0)
  return {
    name: 'crawl',
    seconds: 4 * cycle,
    at: t => {
      const z = speed * t
      const hips: Vec3 = [0.015 * beat(t, cycle), 0.47, z + 0.01 * beat(t, cycle / 2)]
      const arm = (side: 0 | 1): ArmPosture => {
        const { ahead, lift } = hand(t, side)
        return {
          reach: [sign(side) * 0.17, PALM + 0.07 * lift, z + 0.47 + ahead],
          elbowTo: [sign(side) * 0.6, 0, -1],
          wrist: about('z', -sign(side) * 62),
          curl: 0.08,
        }
      }
      const foot = (side: 0 | 1): FootPosture => {
        const { ahead, lift, rests } = knee(t, side)
        const tucked = about('x', 80 + 20 * lift)
        return {
          ankle: [sign(side) * 0.1, 0.162 + 0.03 * lift, z - 0.42 + ahead],
          foot: tucked,
          toes: about('x', 10),
          contact: rests,
        }
      }
      return touching(
        {
          hips,
          pelvis: multiply(about('y', 4 * beat(t, cycle)), about('x', 80)),
          chest: multiply(about('y', -4 * beat(t, cycle)), about('x', 84)),
          head: about('x', 42 + 4 * beat(t, cycle / 2)),
          arms: both(arm),
          feet: both(foot),
        },
        SIDES.flatMap(side => [
          ...(hand(t, side).rests ? [side === 0 ? 'leftHand' : 'rightHand'] : []),
          ...(knee(t, side).rests ? [side === 0 ? 'leftLowerLeg' : 'rightLowerLeg'] : []),
        ]),
      )
    },
  }
}

/** Goes down to the floor over the hands and stays there, knees drawn up, arms about them. */
function sitOnFloor(): Move {
  const hips = path(
    [0, 0, 0.93, 0],
    [0.6, 0, 0.9, 0],
    [1.5, 0, 0.42, -0.26],
    [2.1, 0, 0.13, -0.36],
    [2.5, 0, 0.115, -0.36],
    [6, 0, 0.115, -0.36],
  )
  const bow = curve([0, 2], [0.6, 6], [1.4, 30], [2.1, 4], [3, 14], [6, 16])
  const pelvis = curve([0, 0], [1.4, 14], [2.1, -16], [3, -12], [6, -12])
  const breath = unrest(171)
  return {
    name: 'sit on floor',
    seconds: 6,
    at: t => {
      const p = hips(t)
      const behind = ease(clamp((t - 1.1) / 0.8)),
        about_ = ease(clamp((t - 2.7) / 0.9))
      const arm = (side: 0 | 1): ArmPosture => {
        const s = sign(side)
        const start: Vec3 = [p[0] + s * 0.28, Math.max(PALM, p[1] - 0.13), p[2] + 0.05]
        const prop: Vec3 = [s * 0.27, PALM, -0.56]
        const shins: Vec3 = [s * 0.06, 0.36, 0.06 + 0.02 * side]
        return {
          reach: lerp(lerp(start, prop, behind), shins, about_),
          elbowTo: [s, -0.3, -0.5 + 0.4 * about_],
          curl: 0.15 + 0.4 * about_,
        }
      }
      return touching(
        {
          hips: p,
          pelvis: about('x', pelvis(t)),
          chest: about('x', bow(t) + 0.8 * breath(t)),
          head: multiply(about('y', 9 * breath(0.6 * t)), about('x', 4)),
          arms: both(arm),
          feet: kneesUp(flat(0.1, 0.09, 6), flat(-0.1, 0.06, -6)),
        },
        [...(t > 2.45 ? ['hips'] : []), ...(t > 1.95 && t < 2.7 ? ['leftHand', 'rightHand'] : [])],
      )
    },
  }
}

/** Wrists this far apart bring the palms together, metres. */
const PALMS = 0.05

/** Claps before the chest. */
function clap(): Move {
  const period = 0.62
  const apart = (t: number): number => {
    const u = (((t / period) % 1) + 1) % 1
    // together for a third of the beat
    return u < 0.34 ? 0 : Math.sin((Math.PI * (u - 0.34)) / 0.66) ** 1.5
  }
  const arm =
    (t: number) =>
    (p: Posture): Posture['arms'] =>
      both(side => {
        const s = sign(side),
          a = apart(t)
        return {
          reach: add(p.hips, rotate(p.chest, [s * (PALMS / 2 + 0.16 * a), 0.3 - 0.02 * a, 0.33])),
          elbowTo: [s, -0.8, -0.1],
          wrist: about('z', s * 12),
          curl: 0.06,
        }
      })
  const base = idle('clap', 6 * period, 181, (time, p) => ({ ...p, arms: arm(time)(p) }))
  return {
    ...base,
    at: (t, spine) => ({ ...base.at(t, spine), touches: apart(t) === 0 ? ['leftHand', 'rightHand'] : [] }),
  }
}

/** Walks with a box before the belly, a hand on either side of it. */
function carryBox(): Move {
  const sway = unrest(191)
  return gait('carry box', { ...WALK, speed: 1.05, lean: -2 }, 4 * WALK.cycle, 193, {
    arms: (hips, t) =>
      both(side => ({
        reach: add(hips, [sign(side) * 0.2 + 0.006 * sway(t), 0.14 + 0.012 * beat(t, WALK.cycle / 2, 0.4), 0.34]),
        elbowTo: outward(side, 0.5),
        curl: 0.3,
      })),
  })
}

/** Stands with arms folded across the chest. */
function armsCrossed(): Move {
  const base = idle('arms crossed', 5, 201, (_t, p) => ({
    ...p,
    arms: both(side => ({
      reach: add(p.hips, rotate(p.chest, side === 0 ? [-0.1, 0.3, 0.19] : [0.1, 0.245, 0.2])),
      elbowTo: outward(side, 0.9),
      curl: 0.3,
    })),
  }))
  return { ...base, at: (t, spine) => ({ ...base.at(t, spine), touches: ['leftHand', 'rightHand'] }) }
}

/** Stands with both hands on the hips. */
function handsOnHips(): Move {
  const base = idle('hands on hips', 5, 211, (_t, p) => ({
    ...p,
    arms: both(side => {
      const s = sign(side)
      return {
        reach: add(p.hips, rotate(p.pelvis, [s * 0.2, 0.06, 0.03])),
        elbowTo: [s, 0.05, -0.35] as Vec3,
        curl: 0.35,
        wrist: multiply(about('y', s * 26), about('z', -s * 18)) as Quat,
      }
    }),
  }))
  return { ...base, at: (t, spine) => ({ ...base.at(t, spine), touches: ['leftHand', 'rightHand'] }) }
}

/** Raises both arms overhead and holds them there, hands well apart. */
function armsOverhead(): Move {
  const up = curve([0, 0], [0.5, 0], [1.3, 1], [3.4, 1], [4.2, 0], [4.6, 0])
  return staged('arms overhead', 4.6, {
    seed: 221,
    feet: [stands(0.1, 0.01, 9), stands(-0.1, -0.01, -9)],
    hips: () => [0, -0.01, 0],
    arms: (t, p) =>
      both(side => {
        const s = sign(side)
        return {
          reach: lerp(p.near(s * 0.3, 0.8, 0.05), p.near(s * 0.2, 1.78 + 0.02 * beat(t, 1.7), 0.16), up(t)),
          elbowTo: outward(side, 1),
          curl: 0.2,
        }
      }),
  })
}

/** Takes in which more than the feet touches the ground, hands touch each other, the body or a thing, or the ground moves. */
export const TOUCHING_MOVES: readonly Move[] = [
  fallBack(),
  crawl(),
  sitOnFloor(),
  clap(),
  carryBox(),
  armsCrossed(),
  handsOnHips(),
  armsOverhead(),
  gait('treadmill walk', { ...WALK, speed: 1.4 }, 4 * WALK.cycle, 231, { onTheSpot: true }),
]

/** Words they are found by. */
export const TOUCHING_TAGS: Readonly<Record<string, readonly string[]>> = {
  'fall back': ['fall', 'floor'],
  crawl: ['gait', 'floor', 'loop'],
  'sit on floor': ['sit', 'floor'],
  clap: ['gesture', 'two hands', 'loop'],
  'carry box': ['gait', 'two hands', 'prop', 'loop'],
  'arms crossed': ['idle', 'loop'],
  'hands on hips': ['idle', 'loop'],
  'arms overhead': ['gesture'],
  'treadmill walk': ['gait', 'on the spot', 'loop'],
}
