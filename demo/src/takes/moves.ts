import { add, lerp, multiply, rotate, slerp, type Quat, type Vec3 } from '@chiraxis/core/math'
import { BRISK, CROUCHED, gait, hanging, RUN, WALK, type Move } from './gaits'
import { beat, clamp, curve, ease, footPath, type Curve, type FootAt } from './keyed'
import { about, type ArmPosture } from './motion-model'
import { at, DOWN_BACK, idle, outward, staged, stands, type Place } from './stagings'
import { TOUCHING_MOVES, TOUCHING_TAGS } from './touching-moves'

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
  ...TOUCHING_MOVES,
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
  ...TOUCHING_TAGS,
}
