import { add, multiply, rotate, slerp, sub, lerp, type Quat, type Vec3 } from '@chiraxis/core/math'
import { beat, clamp, curve, ease, footPath, unrest, type Curve, type FootAt } from './keyed'
import { about, momentOf, PERSON, type ArmPosture, type FootPosture, type Moment, type Posture } from './motion-model'

/** A named move as a function of time, and of where the recorded spine has its joints, where paws or hands below it must be in place. */
export interface Move {
  readonly name: string
  readonly seconds: number
  readonly at: (time: number, spine: readonly number[]) => Moment
}

/** Arm hanging by the side: `out` away from the body, `swing` to the front, degrees. */
function hanging(side: 0 | 1, out: number, swing: number, elbow: number): { turn: Quat; elbow: number } {
  const s = side === 0 ? 1 : -1
  return { turn: multiply(about('x', -swing), about('z', -s * (90 - out))), elbow: (elbow * Math.PI) / 180 }
}

const ANKLE: Vec3 = PERSON.leftFoot
const TOE: Vec3 = sub(PERSON.leftToes, ANKLE)
const HEEL: Vec3 = [0, -0.08, -0.05]

/** A foot flat on the ground at x, z. */
const flat = (x: number, z: number, yaw = 0): FootPosture => ({
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

function gait(name: string, g: Gait, seconds: number, seed: number): Move {
  const wander = unrest(seed)
  return {
    name,
    seconds,
    at: time => {
      const w = (2 * Math.PI * time) / g.cycle
      const n = wander(time)
      const hips: Vec3 = [
        0.014 * Math.cos(w - 0.6),
        PERSON.hips[1] - g.drop - g.bob * Math.cos(2 * w - 0.5),
        g.speed * time + 0.01 * Math.sin(2 * w),
      ]
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
        arms: [arm(0), arm(1)],
        feet: [stepping(g, 0, time), stepping(g, 1, time)],
      })
    },
  }
}

function idle(name: string, seconds: number, seed: number, extra?: (time: number, p: Posture) => Posture): Move {
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

/** The right hand goes up, waves three times and comes down. */
function wave(seconds: number): Move {
  return idle('wave', seconds, 91, (time, p) => {
    const up = ease(clamp((time - 0.4) / 0.7)) * (1 - ease(clamp((time - seconds + 1.2) / 0.8)))
    const sway = Math.sin(2 * Math.PI * 1.7 * (time - 1.1)) * clamp((time - 1) / 0.3) * up
    const raised: Quat = multiply(about('z', -32), multiply(about('y', 14), about('x', -62)))
    const rests = hanging(1, 9, 5, 14)
    const arm: ArmPosture = {
      turn: slerp(rests.turn, raised, up),
      elbow: rests.elbow * (1 - up) + (up * ((84 + 24 * sway) * Math.PI)) / 180,
      curl: 0.22 - 0.14 * up,
      spread: 0.3 + 0.5 * up,
    }
    return { ...p, arms: [p.arms[0], arm], head: slerp(p.head, multiply(about('y', -12), about('x', -2)), up * 0.7) }
  })
}

/** The body between two feet: hips, trunk and head told by curves in degrees and metres, over feet that step. */
interface Staging {
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
interface Place {
  readonly centre: Vec3
  readonly yaw: number
  readonly near: (x: number, y: number, z: number) => Vec3
}

const tilt = ([bow, turn, lean]: Vec3): Quat => multiply(about('y', turn), multiply(about('x', bow), about('z', lean)))
const still = (): Vec3 => [0, 0, 0]

function staged(name: string, seconds: number, s: Staging): Move {
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

const stands = (x: number, z: number, yaw: number) => footPath({ x, z, yaw }, [])
/** An arm at ease, told in degrees. */
const at = (
  side: 0 | 1,
  out: number,
  swing: number,
  elbow: number,
  curl: number | undefined = undefined,
): ArmPosture => ({ ...hanging(side, out, swing, elbow), curl })
const DOWN_BACK: Vec3 = [0, -0.6, -0.8]
const outward = (side: 0 | 1, x = 0.7): Vec3 => [side === 0 ? x : -x, -0.6, -0.4]

/** Hand over hand: one pulls while the other goes out again above it. */
function haulRope(): Move {
  const period = 1.9
  const hand =
    (side: 0 | 1) =>
    (time: number, p: Place): ArmPosture => {
      const u = (((time / period + (side === 0 ? 0 : 0.5)) % 1) + 1) % 1
      const pulls = u < 0.56
      const e = ease(pulls ? u / 0.56 : 1 - (u - 0.56) / 0.44)
      const z = 0.56 - 0.36 * e
      const y = 1.14 - 0.1 * e + (pulls ? 0 : 0.07 * Math.sin((Math.PI * (u - 0.56)) / 0.44))
      return {
        reach: p.near(side === 0 ? 0.035 : -0.035, y, z),
        elbowTo: outward(side),
        curl: pulls ? 0.92 : 0.92 - 0.5 * Math.sin((Math.PI * (u - 0.56)) / 0.44),
        wrist: about('x', -20),
      }
    }
  return staged('haul rope', 4 * period, {
    seed: 41,
    feet: [stands(0.12, 0.2, 14), stands(-0.13, -0.16, -24)],
    hips: t => [0.01 * beat(t, period), -0.075 - 0.012 * beat(t, period / 2), -0.05 - 0.045 * beat(t, period / 2, 0.6)],
    pelvis: t => [10, 6 * beat(t, period), 0],
    chest: t => [15 + 5 * beat(t, period / 2, 0.4), 13 * beat(t, period, 0.2), 2 * beat(t, period)],
    head: t => [6, 3 * beat(t, period), 0],
    arms: (t, p) => [hand(0)(t, p), hand(1)(t, p)],
  })
}

/** Both hands on a pole: set far ahead, leant on, drawn back. */
function polePush(): Move {
  const period = 3
  return staged('pole push', 3 * period, {
    seed: 51,
    feet: [stands(0.13, 0.22, 6), stands(-0.12, -0.2, -30)],
    hips: t => [0.02 * beat(t, period), -0.07 - 0.03 * beat(t, period, 0.5), 0.1 * beat(t, period, -0.2)],
    pelvis: t => [6 + 6 * beat(t, period), -14, 0],
    chest: t => [10 + 10 * beat(t, period, 0.1), -22 + 8 * beat(t, period), -4],
    head: t => [8 * beat(t, period), -8, 0],
    arms: (t, p) => {
      const push = beat(t, period, 0.3)
      const low = p.near(-0.24, 0.94 - 0.12 * push, 0.4 + 0.1 * push),
        high = p.near(-0.1, 1.28 - 0.1 * push, 0.5 + 0.08 * push)
      return [
        { reach: high, elbowTo: outward(0), curl: 0.88, wrist: about('x', 14) },
        { reach: low, elbowTo: DOWN_BACK, curl: 0.88, wrist: about('x', -14) },
      ]
    },
  })
}

/** Rung by rung, a hand and the opposite foot together. */
function ladderClimb(): Move {
  const rung = 0.28,
    period = 1.7
  const level = (t: number, phase: number): { y: number; off: number } => {
    const u = t / period + phase
    const n = Math.floor(u),
      p = u - n
    const e = ease(clamp((p - 0.5) / 0.4))
    return { y: 2 * rung * (n + e) * 0.5, off: Math.sin(Math.PI * clamp((p - 0.5) / 0.4)) ** 2 }
  }
  const climbed = (t: number): number => (rung * t) / period
  const foot =
    (side: 0 | 1): ((t: number) => FootAt) =>
    t => {
      const { y, off } = level(t, side === 0 ? 0 : 0.5)
      return {
        x: side === 0 ? 0.1 : -0.1,
        y: y + 0.03 * off + (side === 0 ? 0 : -rung / 2) + 0.3,
        z: 0.22 - 0.1 * off,
        yaw: side === 0 ? 6 : -6,
        pitch: 12 * off,
        rests: off === 0,
      }
    }
  return {
    ...staged('ladder climb', 4 * period, {
      seed: 61,
      feet: [foot(0), foot(1)],
      hips: t => {
        const [l, r] = [foot(0)(t).y, foot(1)(t).y]
        return [
          0.02 * beat(t, period),
          climbed(t) + 0.1 - rung / 4 - (0.6 * Math.min(l, r) + 0.4 * Math.max(l, r)),
          -0.2,
        ]
      },
      pelvis: t => [4, 4 * beat(t, period), 3 * beat(t, period)],
      chest: t => [6, -5 * beat(t, period), -3 * beat(t, period)],
      head: () => [-16, 0, 0],
      arms: (t, p) =>
        ([0, 1] as const).map(side => {
          const { y, off } = level(t, side === 0 ? 0.5 : 0)
          return {
            reach: [
              side === 0 ? 0.19 : -0.19,
              1.52 + y + 0.3 + 0.02 * off - (side === 0 ? rung / 2 : 0),
              p.centre[2] + 0.4 - 0.08 * off,
            ] as Vec3,
            elbowTo: outward(side, 0.9),
            curl: 0.9 - 0.5 * off,
            wrist: about('x', -10),
          }
        }) as unknown as [ArmPosture, ArmPosture],
    }),
  }
}

function hopAshore(): Move {
  const jump = [{ lift: 1, land: 1.42, x: 0.1, z: 0.95, yaw: 9, high: 0.26 }],
    late = [{ lift: 1.04, land: 1.46, x: -0.11, z: 0.92, yaw: -9, high: 0.28 }]
  const height = curve(
    [0, 0],
    [0.35, -0.02],
    [0.82, -0.26],
    [1.02, 0.02],
    [1.22, 0.2],
    [1.42, -0.02],
    [1.66, -0.27],
    [2.2, -0.04],
    [2.7, 0],
    [3.2, 0],
  )
  const ahead = curve([0, 0], [0.8, -0.05], [1.04, 0.1], [1.5, -0.06], [1.8, -0.1], [2.4, 0], [3.2, 0])
  const bow = curve([0, 2], [0.82, 34], [1.06, 6], [1.3, 14], [1.68, 38], [2.3, 8], [3.2, 2])
  const swing = curve([0, 4], [0.5, -12], [0.82, -48], [1.14, 96], [1.45, 58], [1.7, 22], [2.1, 34], [2.6, 4], [3.2, 5])
  const elbow = curve([0, 14], [0.82, 30], [1.15, 40], [1.7, 44], [2.5, 16], [3.2, 14])
  return staged('hop ashore', 3.2, {
    seed: 71,
    feet: [footPath({ x: 0.1, z: 0.01, yaw: 9 }, jump), footPath({ x: -0.11, z: -0.02, yaw: -9 }, late)],
    hips: t => [0, height(t), ahead(t)],
    pelvis: t => [0.6 * bow(t), 0, 0],
    chest: t => [bow(t), 0, 0],
    head: t => [-0.35 * bow(t), 0, 0],
    arms: t => [
      at(0, 14 + 0.16 * Math.abs(swing(t - 0.05)), swing(t - 0.05), elbow(t - 0.09)),
      at(1, 15 + 0.16 * Math.abs(swing(t - 0.07)), swing(t - 0.07), elbow(t - 0.11)),
    ],
  })
}

function sitOnBench(): Move {
  const down = (t: number): number => ease(clamp((t - 0.7) / 1.3))
  const lean = curve([0, 2], [0.7, 4], [1.35, 34], [2.05, 12], [2.8, 3], [5, 4])
  return staged('sit on bench', 5, {
    seed: 81,
    feet: [stands(0.11, 0.02, 10), stands(-0.11, 0, -10)],
    hips: t => [0.006 * beat(t, 4), -0.4 * down(t), -0.34 * down(t)],
    pelvis: t => [0.5 * lean(t) - 8 * down(t), 0, 0],
    chest: lean2(lean),
    head: t => [-0.4 * lean(t), 10 * clamp(t - 3) * beat(t, 3), 0],
    arms: (t, p) => {
      const d = ease(clamp((t - 1.2) / 1))
      return ([0, 1] as const).map((side): ArmPosture => {
        const s = side === 0 ? 1 : -1
        const rests = p.near(s * 0.12, 0.68, 0.27),
          hangs = p.near(s * 0.3, 0.8 - 0.12 * down(t), 0.03)
        return {
          reach: lerp(hangs, rests, d),
          elbowTo: outward(side, 0.8),
          curl: 0.2,
          spread: 0.6,
          wrist: about('z', side === 0 ? -8 * d : 8 * d),
        }
      }) as [ArmPosture, ArmPosture]
    },
  })
}
const lean2 =
  (lean: Curve) =>
  (t: number): Vec3 => [lean(t), 0, 0]

function stumble(): Move {
  const left = [
    { lift: 0.25, land: 0.75, x: 0.08, z: 0.42, yaw: 6 },
    { lift: 1.32, land: 1.62, x: 0.12, z: 1.42, yaw: 14, high: 0.12 },
    { lift: 2.5, land: 3, x: 0.1, z: 1.72, yaw: 9 },
  ]
  const right = [
    { lift: 0.86, land: 1.26, x: -0.1, z: 0.98, yaw: -4, high: 0.05 },
    { lift: 1.7, land: 2.1, x: -0.12, z: 1.7, yaw: -12, high: 0.12 },
  ]
  const bow = curve([0, 3], [0.8, 6], [1.2, 36], [1.65, 30], [2.1, 16], [2.7, 0], [3.1, 4], [3.8, 3])
  const out = curve([0, 10], [0.9, 14], [1.25, 58], [1.7, 46], [2.3, 22], [3, 11], [3.8, 10])
  return staged('stumble', 3.8, {
    seed: 101,
    feet: [footPath({ x: 0.1, z: 0, yaw: 9 }, left), footPath({ x: -0.1, z: 0, yaw: -9 }, right)],
    hips: t => [
      0.02 * beat(t, 1.1),
      curve([0, 0], [0.8, -0.02], [1.3, -0.1], [1.75, -0.13], [2.4, -0.04], [3.2, 0])(t),
      curve([0, 0], [0.6, 0.05], [1.1, 0.16], [1.6, 0.1], [2.2, -0.02], [3, 0])(t),
    ],
    pelvis: t => [0.5 * bow(t), 6 * beat(t, 1.3), 0],
    chest: t => [bow(t), -9 * beat(t, 1.3), 0.1 * out(t) - 1],
    head: t => [0.2 * bow(t), 0, 0],
    arms: t => [
      at(0, out(t - 0.06), 0.9 * bow(t - 0.06), 18 + 0.5 * out(t - 0.1)),
      at(1, out(t - 0.02) * 0.85, 1.2 * bow(t - 0.02), 24 + 0.4 * out(t - 0.07)),
    ],
  })
}

/** Hands on hips, hopping from foot to foot with a heel ahead. */
function jig(): Move {
  const period = 0.96
  const foot =
    (side: 0 | 1): ((t: number) => FootAt) =>
    t => {
      const u = (((t / period + (side === 0 ? 0 : 0.5)) % 1) + 1) % 1
      const x = side === 0 ? 0.09 : -0.09
      const yaw = side === 0 ? 9 : -9
      if (u < 0.5) return { x, y: 0, z: 0, yaw, pitch: 0, rests: true }
      const v = (u - 0.5) / 0.5,
        e = Math.sin(Math.PI * v)
      return { x: x * (1 + 0.4 * e), y: 0.16 * e, z: 0.3 * e, yaw, pitch: -22 * e, rests: false }
    }
  return staged('jig', 8 * period, {
    seed: 111,
    feet: [foot(0), foot(1)],
    hips: t => [
      0.045 * beat(t, period),
      -0.075 - 0.4 * Math.max(foot(0)(t).y, foot(1)(t).y) + 0.02 * Math.abs(beat(t, period)) ** 0.8,
      -0.5 * Math.max(foot(0)(t).z, foot(1)(t).z) + 0.03,
    ],
    pelvis: t => [0, 8 * beat(t, period), -3 * beat(t, period)],
    chest: t => [-3, -7 * beat(t, period), 2 * beat(t, period)],
    head: t => [-4 + 3 * beat(t, period / 2), 8 * beat(t, 2 * period), 4 * beat(t, period)],
    arms: (_t, p) =>
      ([0, 1] as const).map((side): ArmPosture => {
        const s = side === 0 ? 1 : -1
        return {
          reach: add(p.centre, rotate(about('y', p.yaw), [s * 0.2, 0.06, 0.03])),
          elbowTo: [s, 0.05, -0.35],
          curl: 0.35,
          wrist: multiply(about('y', s * 26), about('z', -s * 18)),
        }
      }) as [ArmPosture, ArmPosture],
  })
}

/** Talks with both hands, points ahead, counts something off. */
function pointAndTalk(): Move {
  const up = curve([0, 0], [0.6, 0], [1.15, 1], [2.5, 1], [3, 0.4], [3.6, 0.5], [5.2, 0.4], [6, 0])
  const points = curve([0, 0], [0.9, 0], [1.3, 1], [2.4, 1], [2.8, 0], [6.4, 0])
  const other = curve([0, 0], [2.6, 0], [3.2, 1], [5, 0.9], [5.8, 0], [6.4, 0])
  return idle('point and talk', 6.4, 121, (time, p) => {
    const u = up(time),
      k = points(time),
      o = other(time - 0.05)
    const raised: Quat = multiply(about('y', 12 - 22 * k), multiply(about('x', -38 - 42 * k), about('z', 66)))
    const curl = {
      Thumb: 0.3 + 0.4 * k,
      Index: 0.25 * (1 - k),
      Middle: 0.3 + 0.6 * k,
      Ring: 0.32 + 0.6 * k,
      Little: 0.34 + 0.58 * k,
    }
    const right: ArmPosture = {
      turn: slerp(hanging(1, 10, 5, 0).turn, raised, u),
      elbow: ((14 * (1 - u) + u * (72 - 58 * k + 8 * beat(time, 0.7) * (1 - k))) * Math.PI) / 180,
      curl,
      wrist: about('y', 10 * beat(time, 0.9) * u * (1 - k)),
      spread: 0.3,
    }
    const open = multiply(about('y', 16), multiply(about('x', -30), about('z', -70)))
    const counted = (i: number): number => ease(clamp((time - 3.2 - 0.42 * i) / 0.25))
    const left: ArmPosture = {
      turn: slerp(hanging(0, 10, 4, 0).turn, open, o),
      elbow: ((15 * (1 - o) + o * (78 + 6 * beat(time, 0.8))) * Math.PI) / 180,
      wrist: about('x', -40 * o),
      spread: 0.3 + 0.7 * o,
      curl: Object.fromEntries(
        (['Index', 'Middle', 'Ring', 'Little'] as const).map((f, i) => [f, 0.25 + o * (0.6 - 0.8 * counted(i))]),
      ),
    }
    return {
      ...p,
      arms: [left, right],
      chest: multiply(p.chest, about('y', 8 * k - 6 * o)),
      head: multiply(p.head, about('x', 3 * beat(time, 0.8) * Math.max(u, o))),
    }
  })
}

function turn(side: 0 | 1): Move {
  const s = side === 0 ? 1 : -1
  const first = [
    { lift: 0.35, land: 0.8, x: s * 0.13, z: -0.04, yaw: s * (9 + 52) },
    { lift: 1.4, land: 1.85, x: s * 0.03, z: -0.1, yaw: s * (90 + 9) },
  ]
  const second = [{ lift: 0.9, land: 1.36, x: -s * 0.02, z: 0.12, yaw: s * (90 - 9) }]
  const feet = [
    footPath({ x: s * 0.1, z: 0, yaw: s * 9 }, first),
    footPath({ x: -s * 0.1, z: 0, yaw: -s * 9 }, second),
  ] as const
  const look = curve([0, 0], [0.25, 46], [1, 40], [1.8, 4], [2.8, 0])
  return staged(side === 0 ? 'turn left' : 'turn right', 2.8, {
    seed: 131 + side,
    feet: side === 0 ? [feet[0], feet[1]] : [feet[1], feet[0]],
    hips: t => [0.02 * s * beat(t, 1.1), -0.012 * Math.abs(beat(t, 1.1)), 0],
    pelvis: t => [2, 0.15 * s * look(t), 0],
    chest: t => [3, 0.4 * s * look(t), 0],
    head: t => [3, 0.6 * s * look(t + 0.1), 0],
    arms: t => [at(0, 11, 4 + 10 * s * beat(t, 1.9), 20), at(1, 11, 4 - 10 * s * beat(t, 1.9, 0.3), 20)],
  })
}

function stop(): Move {
  const left = [
    { lift: 0.06, land: 0.5, x: 0.08, z: 0.62, yaw: 5 },
    { lift: 1.08, land: 1.6, x: 0.09, z: 1.62, yaw: 7 },
    { lift: 2.35, land: 2.8, x: 0.11, z: 1.72, yaw: 9 },
  ]
  const right = [
    { lift: 0.56, land: 1, x: -0.08, z: 1.2, yaw: -5 },
    { lift: 1.7, land: 2.2, x: -0.1, z: 1.7, yaw: -9 },
  ]
  const bow = curve([0, 5], [1, 4], [1.8, -3], [2.3, 5], [2.9, 2], [3.6, 2])
  return staged('stop', 3.6, {
    seed: 141,
    feet: [footPath({ x: 0.08, z: -0.1, yaw: 5 }, left), footPath({ x: -0.08, z: 0.38, yaw: -5 }, right)],
    hips: t => [
      0.015 * beat(t, 1.05, 0.8),
      -0.03 + 0.016 * beat(t, 0.53),
      curve([0, 0.08], [1.2, 0.06], [1.8, -0.1], [2.4, 0.03], [3, 0], [3.6, 0])(t),
    ],
    pelvis: t => [0.5 * bow(t), 4 * beat(t, 1.05) * clamp(2.2 - t), 0],
    chest: t => [bow(t), -6 * beat(t, 1.05) * clamp(2.2 - t), 0],
    head: t => [2 - 0.3 * bow(t), 14 * clamp(t - 2.4) * beat(t, 2.4), 0],
    arms: t => [
      at(0, 11, 4 - 20 * beat(t, 1.05, 1) * clamp(2.3 - t) * 0.9, 20),
      at(1, 11, 4 + 20 * beat(t, 1.05, 1) * clamp(2.3 - t) * 0.9, 20),
    ],
  })
}

/** A lantern held up in the right hand, swaying. */
function lanternIdle(): Move {
  return idle('lantern idle', 6, 151, (time, p) => {
    const sway = 4 * beat(time, 2.3)
    const arm: ArmPosture = {
      turn: multiply(about('y', 10), multiply(about('x', -46 + 0.5 * sway), about('z', 62))),
      elbow: ((52 + 0.6 * sway) * Math.PI) / 180,
      curl: 0.85,
      wrist: about('y', -8 + sway),
    }
    return { ...p, arms: [p.arms[0], arm], chest: multiply(p.chest, about('z', 2)) }
  })
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

/** The takes of the Night Ferry. */
export const MOVES: readonly Move[] = [
  idle('lookout idle', 6, 11),
  lanternIdle(),
  gait('walk', WALK, 4 * WALK.cycle, 21),
  gait('brisk walk', BRISK, 4 * BRISK.cycle, 23),
  gait('run', RUN, 5 * RUN.cycle, 31),
  gait('crouched walk', CROUCHED, 4 * CROUCHED.cycle, 25),
  haulRope(),
  polePush(),
  ladderClimb(),
  hopAshore(),
  wave(4.2),
  sitOnBench(),
  stumble(),
  jig(),
  pointAndTalk(),
  turn(0),
  turn(1),
  stop(),
]

/** Words each take is found by. */
export const TAGS: Readonly<Record<string, readonly string[]>> = {
  'lookout idle': ['idle', 'loop'],
  'lantern idle': ['idle', 'prop', 'loop'],
  walk: ['gait', 'loop'],
  'brisk walk': ['gait', 'loop'],
  run: ['gait', 'loop'],
  'crouched walk': ['gait', 'loop'],
  'haul rope': ['work', 'two hands', 'loop'],
  'pole push': ['work', 'two hands', 'loop'],
  'ladder climb': ['work', 'climb', 'loop'],
  'hop ashore': ['jump'],
  wave: ['gesture'],
  'sit on bench': ['sit'],
  stumble: ['fall'],
  jig: ['dance', 'loop'],
  'point and talk': ['gesture', 'fingers'],
  'turn left': ['turn'],
  'turn right': ['turn'],
  stop: ['gait'],
}
