import { add, lerp, multiply, type Quat, type Vec3 } from '@chiraxis/core/math'
import { FOUR_LEGS } from '@chiraxis/core/body'
import { HOUND, houndMoment, type HoundPosture, type Leg, type Paw } from './hound-model'
import { beat, clamp, curve, ease, unrest } from './keyed'
import { about } from './motion-model'
import type { Gait, Move } from './gaits'

const ball = (leg: Leg): Vec3 => HOUND[`${leg}Toes`]
const STAND = HOUND.hips
const TURN: Quat = [0, 0, 0, 1]
const stands = (leg: Leg): Paw => ({ ball: ball(leg), tilt: 0, yaw: 0, toes: 0, contact: true })
const pawsOf = (f: (leg: Leg) => Paw): Record<Leg, Paw> =>
  Object.fromEntries(FOUR_LEGS.map(leg => [leg, f(leg)])) as Record<Leg, Paw>

interface HoundGait extends Pick<Gait, 'speed' | 'cycle' | 'stance' | 'lift' | 'bob' | 'drop'> {
  /** When in the cycle each leg comes down. */
  readonly lands: Readonly<Record<Leg, number>>
  readonly nod: number
  readonly sway: number
}
/** Each hind paw is followed by the front one of its side. */
const WALKS: HoundGait = {
  speed: 0.92,
  cycle: 0.86,
  stance: 0.64,
  lift: 0.07,
  bob: 0.006,
  drop: 0.018,
  lands: { leftHind: 0, leftFront: 0.24, rightHind: 0.5, rightFront: 0.74 },
  nod: 4.5,
  sway: 4,
}
/** Legs go in diagonal pairs. */
const TROTS: HoundGait = {
  speed: 2.1,
  cycle: 0.5,
  stance: 0.42,
  lift: 0.1,
  bob: 0.016,
  drop: 0.03,
  lands: { leftFront: 0, rightHind: 0.01, rightFront: 0.5, leftHind: 0.51 },
  nod: 2.5,
  sway: 2.5,
}

/** One paw over time: planted while the body passes over it, then folded and swung to its next place. */
function stepping(g: HoundGait, leg: Leg, time: number): Paw {
  const stride = g.speed * g.cycle
  const phase = time / g.cycle - g.lands[leg]
  const step = Math.floor(phase),
    p = phase - step
  const front = leg.endsWith('Front')
  // paws come down nearer to the midline than they stand
  const x = ball(leg)[0] * 0.82
  const place = (n: number): Vec3 => [
    x,
    ball(leg)[1],
    ball(leg)[2] + (n + g.lands[leg]) * stride + 0.5 * g.stance * stride + (front ? 0.02 : 0.03),
  ]
  const pushed = front ? 34 : 30,
    reached = front ? -16 : -6
  if (p < g.stance) {
    const u = p / g.stance
    const tilt = reached * (1 - ease(clamp(u / 0.3))) + pushed * ease(clamp((u - 0.5) / 0.5))
    return { ball: place(step), tilt, yaw: 0, toes: reached * 0.5 * (1 - ease(clamp(u / 0.12))), contact: true }
  }
  const u = (p - g.stance) / (1 - g.stance)
  const from = place(step),
    to = place(step + 1)
  const at = lerp(from, to, ease(u))
  at[1] += g.lift * Math.sin(Math.PI * u ** 0.85) ** 2
  const folded = (front ? 52 : 34) * Math.sin(Math.PI * clamp(u * 1.15)) ** 1.5
  const tilt = pushed + (reached - pushed) * ease(u) + folded
  return {
    ball: at,
    tilt,
    yaw: 0,
    toes: tilt * 0.75 * (1 - ease(clamp((u - 0.75) / 0.25))) + reached * 0.5 * ease(clamp((u - 0.6) / 0.4)),
    contact: false,
  }
}

/** A tail that swings from side to side, its tip late. */
const wagging =
  (base: Quat, time: number, period: number, wide: number, lift: number) =>
  (share: number): Quat =>
    multiply(
      base,
      multiply(
        about('y', wide * (0.3 + share) * beat(time - 0.12 * period - 0.16 * share * period, period)),
        about('x', -lift * share),
      ),
    )

function gait(name: string, g: HoundGait, cycles: number, seed: number): Move {
  const a = unrest(seed),
    b = unrest(seed + 1)
  return {
    name,
    seconds: cycles * g.cycle,
    at: (time, spine) => {
      const w = (t: number): number => beat(t, g.cycle),
        twice = (t: number): number => beat(t, g.cycle / 2, 0.9)
      const hips = add(STAND, [0.008 * w(time), -g.drop + g.bob * twice(time), g.speed * time + 0.006 * twice(time)])
      const pelvis = multiply(
        about('y', 0.5 * g.sway * w(time)),
        multiply(about('z', 0.55 * g.sway * beat(time, g.cycle, 0.4)), about('x', 0.6 * twice(time))),
      )
      const chest = multiply(
        about('y', -0.5 * g.sway * w(time)),
        multiply(about('z', -0.4 * g.sway * beat(time, g.cycle, 0.2)), about('x', -0.8 * twice(time) + 0.3 * a(time))),
      )
      // the head goes down after a front paw lands, and comes late
      const nod = g.nod * beat(time - 0.07, g.cycle / 2, 1.4)
      const neck = multiply(about('y', 2 * b(time)), about('x', 7 + 0.8 * nod))
      const head = multiply(about('y', 5 * b(time - 0.1)), about('x', 4 - 0.5 * nod))
      const flop = 5 * beat(time - 0.1, g.cycle / 2, 1.2)
      const p: HoundPosture = {
        hips,
        pelvis,
        chest,
        neck,
        head,
        tail: wagging(pelvis, time, g.cycle, 9, 8),
        ears: [multiply(head, about('x', flop)), multiply(head, about('x', 0.9 * flop))],
        blades: [
          12 * beat(time, g.cycle, 1.2 - 2 * Math.PI * g.lands.leftFront),
          12 * beat(time, g.cycle, 1.2 - 2 * Math.PI * g.lands.rightFront),
        ],
        paws: pawsOf(leg => stepping(g, leg, time)),
      }
      return houndMoment(p, spine)
    },
  }
}

/** Hindquarters go down onto the hocks, the hind paws under it; then it looks around. */
function sit(): Move {
  const a = unrest(203),
    b = unrest(204)
  return {
    name: 'hound sit',
    seconds: 4.6,
    at: (time, spine) => {
      const down = ease(clamp((time - 0.6) / 1.1))
      const settle = curve([0, 0], [1.5, 0], [1.85, -0.006], [2.3, 0], [4.6, 0])(time)
      const breath = beat(time, 0.9) * (0.4 + 0.6 * down)
      const pitch = -30 * down
      const hips = add(STAND, [0.004 * a(time), -0.3 * down + settle, 0.02 * down])
      const pelvis = multiply(about('x', pitch * 1.08), about('z', 1.2 * a(time * 0.5) * (1 - down)))
      const chest = multiply(about('x', pitch * 0.86 + 0.5 * breath), about('y', 2 * b(time * 0.5)))
      const look = 20 * clamp((time - 1.9) / 0.6) * beat(time - 1.9, 2.6)
      const neck = multiply(
        about('y', 0.45 * look),
        about('x', -8 * down + 6 * curve([0, 0], [0.9, 1], [1.8, 0], [4.6, 0])(time)),
      )
      const head = multiply(
        about('y', look),
        multiply(
          about('x', 3 + 7 * curve([0, 0], [0.9, 1], [1.9, 0], [4.6, 0])(time - 0.06) + 0.6 * breath),
          about('z', 0.2 * look),
        ),
      )
      const paws = pawsOf(leg => {
        const left = leg.startsWith('left')
        // hind paws come in under the hips one after the other, front ones shift a little
        const hind = leg.endsWith('Hind')
        const lift = (hind ? 0.7 : 0.5) + (left ? 0 : 0.3)
        const u = clamp((time - lift) / 0.34)
        const off = Math.sin(Math.PI * u) ** 2
        const side = left ? 1 : -1
        return hind
          ? {
              ball: add(ball(leg), [side * 0.03 * ease(u), 0.035 * off, 0.19 * ease(u)]),
              tilt: -66 * ease(clamp((time - lift) / 0.9)) + 20 * off,
              toes: 18 * off,
              yaw: side * 10 * ease(u),
              contact: u === 0 || u === 1,
            }
          : {
              ball: add(ball(leg), [0, 0.03 * off, -0.03 * ease(u)]),
              tilt: 30 * off,
              toes: 20 * off,
              yaw: 0,
              contact: u === 0 || u === 1,
            }
      })
      const tail = (share: number): Quat =>
        multiply(
          about('y', 22 * down * share * beat(time - 0.2 * share, 0.62)),
          about('x', (pitch + 30 * down * (1 - share) * 0.3) * (1 - down * 0.75) + 16 * down),
        )
      const flop = 6 * beat(time - 0.1, 1.7)
      return houndMoment(
        {
          hips,
          pelvis,
          chest,
          neck,
          head,
          tail,
          ears: [multiply(head, about('x', flop)), multiply(head, about('x', -flop))],
          blades: [-6 * down, -6 * down],
          paws,
        },
        spine,
      )
    },
  }
}

/** Water shaken off: a twist that runs from the nose to the tip of the tail. */
function shake(): Move {
  const rate = 4.2
  return {
    name: 'hound shake',
    seconds: 3.2,
    at: (time, spine) => {
      /** Roll of a part, which the wave reaches late. */
      const roll = (late: number, wide: number): number => {
        const t = time - 0.5 - late
        const strength = ease(clamp(t / 0.35)) * (1 - ease(clamp((t - 1.35) / 0.5)))
        return wide * strength * Math.sin(2 * Math.PI * rate * t)
      }
      const brace = ease(clamp((time - 0.1) / 0.4)) * (1 - ease(clamp((time - 2.4) / 0.5)))
      const hips = add(STAND, [0.0006 * roll(0.16, 10), -0.03 * brace, -0.012 * brace])
      const pelvis = about('z', roll(0.16, 11))
      const chest = multiply(about('z', roll(0.07, 17)), about('x', 3 * brace))
      const neck = multiply(about('x', 14 * brace), about('z', roll(0.03, 26)))
      const head = multiply(about('x', 10 * brace), about('z', roll(0, 38)))
      const ear = (s: number): Quat =>
        multiply(head, multiply(about('z', roll(0.07, 32)), about('x', s * roll(0.09, 18))))
      return houndMoment(
        {
          hips,
          pelvis,
          chest,
          neck,
          head,
          tail: share =>
            multiply(
              about('y', roll(0.22 + 0.1 * share, 22 * (0.3 + share))),
              about('z', roll(0.2 + 0.08 * share, 20)),
            ),
          ears: [ear(1), ear(-1)],
          blades: [roll(0.08, 5), -roll(0.08, 5)],
          paws: pawsOf(leg => stands(leg)),
        },
        spine,
      )
    },
  }
}

/** Stands, breathes, listens. */
function idle(): Move {
  const a = unrest(211),
    b = unrest(212),
    c = unrest(213)
  return {
    name: 'hound idle',
    seconds: 5,
    at: (time, spine) => {
      const breath = beat(time, 1.25)
      const shift = a(time * 0.35)
      const look = 16 * c(time * 0.35)
      const neck = multiply(about('y', 0.5 * look), about('x', 2 + 3 * b(time * 0.5)))
      const head = multiply(
        about('y', look),
        multiply(about('x', 2 + 3 * b(time * 0.5 - 0.05)), about('z', 0.25 * look)),
      )
      const perk = 8 * Math.max(0, b(time * 0.9))
      return houndMoment(
        {
          hips: add(STAND, [0.012 * shift, -0.008 + 0.002 * breath, 0.006 * b(time * 0.4)]),
          pelvis: multiply(about('z', 1.2 * shift), about('y', 1.2 * shift)),
          chest: multiply(about('x', 0.6 * breath), about('z', -0.8 * shift)),
          neck,
          head,
          tail: wagging(TURN, time, 1.1, 12 + 6 * a(time), 4),
          ears: [multiply(head, about('x', -perk)), multiply(head, about('x', -0.8 * perk))],
          blades: [0, 0],
          paws: pawsOf(leg => stands(leg)),
        },
        spine,
      )
    },
  }
}

/** The takes recorded on a hound. */
export const HOUND_MOVES: readonly Move[] = [
  idle(),
  gait('hound walk', WALKS, 4, 221),
  gait('hound trot', TROTS, 6, 231),
  sit(),
  shake(),
]

export const HOUND_TAGS: Readonly<Record<string, readonly string[]>> = {
  'hound idle': ['idle', 'four legs'],
  'hound walk': ['gait', 'loop', 'four legs'],
  'hound trot': ['gait', 'loop', 'four legs'],
  'hound sit': ['sit', 'four legs'],
  'hound shake': ['gesture', 'four legs'],
}
