import { add, multiply, rotate, seededRandom, slerp, sub, lerp, type Quat, type Vec3 } from '@chiraxis/core/math'
import { about, momentOf, PERSON, type ArmPosture, type FootPosture, type Moment, type Posture } from './motion-model'

/** A named move as a function of time. */
export interface Move { readonly name: string; readonly seconds: number; readonly at: (time: number) => Moment }

const ease = (t: number): number => t * t * (3 - 2 * t)
const clamp = (t: number): number => Math.min(1, Math.max(0, t))

/** Slow, smooth, seeded unrest, about ±1. */
function unrest(seed: number): (t: number) => number {
  const random = seededRandom(seed)
  const waves = Array.from({ length: 4 }, (_, i) => ({ f: 0.23 + 0.41 * i + 0.2 * random(), p: 2 * Math.PI * random(), a: 1 / (i + 1.4) }))
  return t => waves.reduce((s, w) => s + w.a * Math.sin(2 * Math.PI * w.f * t + w.p), 0) / 1.6
}

/** Arm hanging by the side: `out` away from the body, `swing` to the front, degrees. */
function hanging(side: 0 | 1, out: number, swing: number, elbow: number): ArmPosture {
  const s = side === 0 ? 1 : -1
  return { turn: multiply(about('x', -swing), about('z', -s * (90 - out))), elbow: (elbow * Math.PI) / 180 }
}

const ANKLE: Vec3 = PERSON.leftFoot
const TOE: Vec3 = sub(PERSON.leftToes, ANKLE)
const HEEL: Vec3 = [0, -0.08, -0.05]

/** A foot flat on the ground at x, z. */
const flat = (x: number, z: number, yaw = 0): FootPosture =>
  ({ ankle: [x, ANKLE[1], z], foot: about('y', yaw), toes: about('y', yaw), contact: true })

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
export const WALK: Gait = { speed: 1.3, cycle: 1.08, stance: 0.62, lift: 0.09, bob: 0.018, drop: 0.035, lean: 3, swing: 24, elbow: 16 }
export const RUN: Gait = { speed: 3.1, cycle: 0.72, stance: 0.36, lift: 0.2, bob: 0.035, drop: 0.075, lean: 10, swing: 42, elbow: 82 }

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
    name, seconds,
    at: time => {
      const w = (2 * Math.PI * time) / g.cycle
      const n = wander(time)
      const hips: Vec3 = [0.014 * Math.cos(w - 0.6), PERSON.hips[1] - g.drop - g.bob * Math.cos(2 * w - 0.5), g.speed * time + 0.01 * Math.sin(2 * w)]
      const pelvis = multiply(about('y', 5 * Math.cos(w)), multiply(about('x', g.lean * 0.5), about('z', 2.5 * Math.sin(w))))
      const chest = multiply(about('y', -6 * Math.cos(w)), multiply(about('x', g.lean + 0.6 * n), about('z', -1.5 * Math.sin(w))))
      const head = multiply(about('y', 1.5 * n), about('x', 2))
      const arm = (side: 0 | 1): ArmPosture => {
        const swing = (side === 0 ? -1 : 1) * g.swing * Math.cos(w - 0.15)
        return hanging(side, 11 + n, swing + 4, g.elbow + 0.35 * swing * (g.elbow > 50 ? 0.5 : 1) + g.swing * 0.35)
      }
      return momentOf({ hips, pelvis, chest, head, arms: [arm(0), arm(1)], feet: [stepping(g, 0, time), stepping(g, 1, time)] })
    },
  }
}

function idle(name: string, seconds: number, seed: number, extra?: (time: number, p: Posture) => Posture): Move {
  const a = unrest(seed), b = unrest(seed + 1), c = unrest(seed + 2)
  return {
    name, seconds,
    at: time => {
      const breath = Math.sin((2 * Math.PI * time) / 3.6)
      const shift = 0.5 * a(time * 0.4)
      const hips: Vec3 = [0.025 * shift, PERSON.hips[1] - 0.018 + 0.002 * breath, 0.006 * b(time * 0.5)]
      const pelvis = multiply(about('y', 1.5 * shift), about('z', 1.5 * shift))
      const chest = multiply(about('y', 2.2 * b(time * 0.4)), multiply(about('x', 1.2 + 0.9 * breath), about('z', -1.2 * shift)))
      const head = multiply(about('y', 16 * c(time * 0.35)), about('x', 3 + 2 * b(time)))
      const p: Posture = {
        hips, pelvis, chest, head,
        arms: [hanging(0, 9 + 0.6 * breath, 4 + a(time), 15 + 2 * b(time)), hanging(1, 9 + 0.6 * breath, 5 + c(time), 14 + 2 * a(time))],
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
    const arm: ArmPosture = { turn: slerp(p.arms[1].turn, raised, up), elbow: p.arms[1].elbow * (1 - up) + up * ((84 + 24 * sway) * Math.PI) / 180 }
    return { ...p, arms: [p.arms[0], arm], head: slerp(p.head, multiply(about('y', -12), about('x', -2)), up * 0.7) }
  })
}

/** The takes of the Night Ferry that ship so far. */
export const MOVES: readonly Move[] = [
  idle('lookout idle', 6, 11),
  gait('walk', WALK, 4 * WALK.cycle, 21),
  gait('run', RUN, 5 * RUN.cycle, 31),
  wave(4.2),
]
