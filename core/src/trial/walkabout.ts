import {
  conjugate,
  fromAxisAngle,
  multiply,
  quatAt,
  rotate,
  rotateAt,
  setQuat,
  setVec3,
  vec3At,
  type Vec3,
} from '../math'
import { createLimbSolver, limbOf } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'
import { kneeWay, legsOf } from '../body'
import type { Sole } from '../surface'
import { gaitsAt, mixIn, restsInMix, type MixedPose } from './blend'
import type { Gait } from './gait'

/** A figure that can be led. */
export interface Walker {
  readonly skeleton: Skeleton
  readonly joints: Readonly<Record<string, number>>
  /** From the skeleton's space to Y up, facing +Z. */
  readonly frame: readonly [number, number, number, number]
  readonly soles: Readonly<Record<string, Sole>>
  /** Metres a unit of the skeleton is. */
  readonly unit?: number
  /** Gaits that go somewhere, and what it does where it stands. */
  readonly gaits: readonly Gait[]
  readonly idle: Gait
  /** How high the ground is, metres, at metres across and ahead. */
  readonly ground?: (x: number, z: number) => number
}

/** What is asked of it now. */
export interface Lead {
  /** Where to, across and ahead in the world; nothing to stand. */
  readonly to?: readonly [x: number, z: number]
  /** How fast it is to go, metres a second; left out, as its slowest gait. */
  readonly speed?: number
}

/** A foot that came down. */
export interface Footfall {
  readonly leg: string
  readonly at: readonly [number, number, number]
}

export interface Walking {
  /** Local values of every joint: 4·J and 3·J, in the skeleton's space. The same arrays each time. */
  readonly rotations: Float32Array
  readonly translations: Float32Array
  readonly place: readonly [x: number, z: number]
  readonly heading: number
  /** Metres a second. */
  readonly speed: number
  /** Share of the cycle. */
  readonly phase: number
  readonly shares: readonly { readonly name: string; readonly share: number }[]
  /** How fast resting feet move over the ground, metres a second: the fastest of them. */
  readonly slide: number
  readonly footfalls: readonly Footfall[]
}

/** Metres a second it gains or loses in one. */
const GAINS = 2.6,
  LOSES = 3.4
/** Radians a second it turns, standing and at a metre a second more. */
const TURNS = 4.2
/** Below this share of its slowest gait it is on its way to standing. */
const STANDS = 0.55
/** Seconds in which what kept a foot in place fades, and the body follows the ground. */
const FADES = 0.12,
  FOLLOWS = 0.18
/** A foot farther from where its gait has it than this share of the leg is let go. */
const TORN = 0.45
/** Standing, a foot farther off than this, metres, is set down anew, lifted so high on its way, in so many seconds. */
const ASIDE = 0.04,
  LIFTED = 0.05,
  SETS = 0.32

interface Foot {
  readonly leg: string
  /** Where it rests, in the world, metres. */
  held?: Vec3
  /** How far it is moved from where its gait has it, metres. */
  readonly shift: [number, number, number]
  /** Seconds into being set down anew. */
  setting?: number
  last?: Vec3
}

/**
 * Leads a figure over a ground: it gathers and loses speed, turns where it is to go, blends its gaits by speed with feet in step and
 * stands where nothing is asked. A foot that rests stays where it came down (by the leg, as two bones) until its gait lifts it.
 */
export function createWalkabout(walker: Walker): {
  step(seconds: number, lead: Lead): Walking
  place(x: number, z: number, heading?: number): void
} {
  const { skeleton, joints, frame, soles, idle, unit = 1, ground = () => 0 } = walker
  const gaits = walker.gaits.filter(g => g.speed > 0).sort((a, b) => a.speed - b.speed)
  const J = skeleton.names.length
  const back = conjugate(frame)
  const root = rootAbove(skeleton, joints.hips)
  const rest = worldPose(skeleton)
  const solver = createLimbSolver(skeleton)
  const pose = worldPoseBuffer(J)
  const mixed: MixedPose = { rotations: new Float32Array(4 * J), translations: new Float32Array(3 * J), weight: 0 }
  const legs = legsOf(joints).flatMap(leg => {
    const chain = ['UpperLeg', 'LowerLeg', 'Foot'].map(p => joints[leg + p])
    if (!soles[leg] || chain.some(j => j === undefined)) return []
    const bone = (a: number, b: number): number =>
      Math.hypot(...[0, 1, 2].map(k => rest.positions[3 * a + k] - rest.positions[3 * b + k]))
    const long = (bone(chain[0], chain[1]) + bone(chain[1], chain[2])) * unit
    return [
      { leg, long, limb: limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))), sole: soles[leg] },
    ]
  })
  const ways = waysTo(
    skeleton,
    legs.flatMap(l => [l.limb.end, l.sole.pivot.joint]),
  )
  const feet: Foot[] = legs.map(({ leg }) => ({ leg, shift: [0, 0, 0] }))
  let x = 0,
    z = 0,
    heading = 0,
    speed = 0,
    phase = 0,
    idled = 0,
    standing = 1,
    high = ground(0, 0)
  const point = new Float64Array(3)
  /** Where the sole of a leg is, in the world, metres. */
  function soleAt(i: number): Vec3 {
    const { joint, at: offset } = legs[i].sole.pivot
    if (offset) rotateAt(point, 0, pose.rotations, 4 * joint, offset[0], offset[1], offset[2])
    else point.fill(0)
    const p = rotate(frame, [0, 1, 2].map(k => pose.positions[3 * joint + k] + point[k]) as Vec3)
    return [p[0] * unit, p[1] * unit, p[2] * unit]
  }

  function step(seconds: number, { to, speed: wished }: Lead): Walking {
    const dt = Math.min(0.1, Math.max(1e-4, seconds))
    const far = to ? Math.hypot(to[0], to[1]) : 0
    const slowest = gaits[0]?.speed ?? 0
    const aim = far > 1e-6 ? Math.min(wished ?? slowest, 1.35 * (gaits[gaits.length - 1]?.speed ?? 0)) : 0
    speed += Math.min(GAINS * dt, Math.max(-LOSES * dt, aim - speed))
    if (far > 1e-6) {
      const off = Math.atan2(to![0], to![1]) - heading
      const turn = off - 2 * Math.PI * Math.round(off / (2 * Math.PI))
      const most = (TURNS / (1 + 0.35 * speed)) * dt
      heading += Math.min(most, Math.max(-most, turn))
    }
    x += Math.sin(heading) * speed * dt
    z += Math.cos(heading) * speed * dt
    const { shares, seconds: cycle } = gaitsAt(gaits, speed)
    // it goes over into standing by speed, and softly
    const wantsStanding = gaits.length === 0 ? 1 : 1 - Math.min(1, speed / (STANDS * slowest))
    standing += (wantsStanding - standing) * Math.min(1, dt / 0.12)
    if (standing < 1e-3) standing = 0
    if (standing > 1 - 1e-3) standing = 1
    if (gaits.length > 0 && standing < 1) phase = (phase + dt / cycle) % 1
    idled = (idled + dt / idle.seconds) % 1
    mixed.weight = 0
    if (standing < 1) for (const { gait, share } of shares) mixIn(mixed, gait, phase, (1 - standing) * share)
    mixIn(mixed, idle, idled, standing)
    const { rotations: R, translations: T } = mixed
    const turn = fromAxisAngle([0, 1, 0], heading)
    const at = rotate(turn, rotate(frame, vec3At(T, root)))
    const wanted =
      legs.length > 0 ? mean(feet.map(f => (f.last ? ground(f.last[0], f.last[2]) : ground(x, z)))) : ground(x, z)
    high += (wanted - high) * Math.min(1, dt / FOLLOWS)
    setVec3(T, root, rotate(back, [at[0] + x / unit, at[1] + high / unit, at[2] + z / unit]))
    setQuat(R, root, multiply(multiply(multiply(back, turn), frame), quatAt(R, root)))
    forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
    const footfalls: Footfall[] = []
    let slide = 0
    legs.forEach(({ leg, long, limb }, i) => {
      const foot = feet[i]
      const own = soleAt(i)
      const firm = standing > 0.5 || restsInMix(shares, leg, phase)
      const offX = foot.held ? foot.held[0] - own[0] : 0,
        offZ = foot.held ? foot.held[2] - own[2] : 0
      const torn = Math.hypot(offX, offZ)
      if (foot.setting === undefined && standing > 0.5 && foot.held && torn > ASIDE) {
        // one foot after the other is set under the body
        if (feet.every(f => f.setting === undefined)) foot.setting = 0
      }
      let lift = 0
      if (foot.setting !== undefined) {
        foot.setting += dt
        const t = Math.min(1, foot.setting / SETS)
        lift = LIFTED * Math.sin(Math.PI * t)
        foot.held = undefined
        if (t >= 1) foot.setting = undefined
      } else if (firm && torn < TORN * long) {
        if (!foot.held) {
          foot.held = [own[0] + foot.shift[0], 0, own[2] + foot.shift[2]]
          footfalls.push({ leg, at: [foot.held[0], ground(foot.held[0], foot.held[2]), foot.held[2]] })
        }
      } else foot.held = undefined
      const fade = Math.exp(-dt / FADES)
      foot.shift[0] = foot.held ? foot.held[0] - own[0] : foot.shift[0] * fade
      foot.shift[2] = foot.held ? foot.held[2] - own[2] : foot.shift[2] * fade
      const here = ground(own[0] + foot.shift[0], own[2] + foot.shift[2]) - high
      // a foot in the air goes up and down softly
      foot.shift[1] = foot.held ? here : foot.shift[1] + (here - foot.shift[1]) * Math.min(1, dt / 0.08)
      const s = rotate(back, [foot.shift[0] / unit, (foot.shift[1] + lift) / unit, foot.shift[2] / unit])
      if (Math.hypot(s[0], s[1], s[2]) * unit > 1e-5) solver.solve(limb, pose, R, 0, s[0], s[1], s[2])
    })
    forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
    legs.forEach((_, i) => {
      const foot = feet[i]
      const now = soleAt(i)
      if (foot.held && foot.last) slide = Math.max(slide, Math.hypot(now[0] - foot.last[0], now[2] - foot.last[2]) / dt)
      foot.last = now
    })
    return {
      rotations: R,
      translations: T,
      place: [x, z],
      heading,
      speed,
      phase,
      shares: [
        ...shares.map(s => ({ name: s.gait.name, share: (1 - standing) * s.share })),
        { name: idle.name, share: standing },
      ].filter(s => s.share > 1e-3),
      slide,
      footfalls,
    }
  }
  return {
    step,
    place(px, pz, to = heading) {
      x = px
      z = pz
      heading = to
      high = ground(px, pz)
      for (const f of feet) {
        f.held = f.last = f.setting = undefined
        f.shift.fill(0)
      }
    },
  }
}

const mean = (values: readonly number[]): number => values.reduce((s, v) => s + v, 0) / (values.length || 1)
