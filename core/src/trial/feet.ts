import {
  conjugate,
  fromTo,
  IDENTITY,
  multiply,
  normalize,
  quatAt,
  rotate,
  rotateAt,
  setQuat,
  setVec3,
  vec3At,
  type Vec3,
} from '../math'
import { createLimbSolver, limbOf } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { kneeWay, legsOf } from '../body'
import type { MixedPose } from './blend'
import { LEVEL } from './floor'
import type { Walker } from './walkabout'

/** A foot that came down. */
export interface Footfall {
  readonly leg: string
  readonly at: readonly [number, number, number]
  readonly surface: string
}

/** Seconds in which what kept a foot in place fades. */
const FADES = 0.12
/** Half the length over which the ground's slope is told, metres, and what rises more over it is a step and no slope. */
const SLOPE = 0.06,
  STEEP = 0.08
/** Share of a leg's length it is stretched to at the most, how far the body goes down for that, metres, and seconds in which it comes up again. */
const REACH = 0.998,
  MOST_DROP = 0.08,
  EASES = 0.12
/** Seconds ahead that a lifted foot sees the ground. */
const AHEAD = 0.22
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
  /** How the ground under it leans: its upright across and ahead. */
  readonly lean: [number, number]
}

/** What feet are to do at a moment. */
export interface FeetNow {
  readonly dt: number
  readonly grounded: boolean
  /** The ground the body goes by, and where the body stands now, metres. */
  readonly high: number
  readonly body: number
  /** How far feet are drawn up in the air, and whether the body is sunk into its knees. */
  readonly tuck: number
  readonly sunk: boolean
  /** Metres a second across and ahead. */
  readonly going: readonly [number, number]
  /** Feet that are aside are set under the body. */
  readonly stands: boolean
  /** Whether what is played has a foot rest. */
  readonly rests: (leg: string) => boolean
}

/**
 * Feet on a ground: one that rests stays where it came down (by the leg, as two bones) and leans with the ground until it
 * is lifted; where the leg does not reach it any more the body goes down. One that is lifted goes over what lies ahead.
 */
export function createFeet({ skeleton, joints, frame, soles, unit = 1, floor = LEVEL }: Walker) {
  const J = skeleton.names.length
  const back = conjugate(frame)
  const root = rootAbove(skeleton, joints.hips)
  const rest = worldPose(skeleton)
  const solver = createLimbSolver(skeleton)
  const pose = worldPoseBuffer(J)
  const legs = legsOf(joints).flatMap(leg => {
    const chain = ['UpperLeg', 'LowerLeg', 'Foot'].map(p => joints[leg + p])
    if (!soles[leg] || chain.some(j => j === undefined)) return []
    const bone = (a: number, b: number): number =>
      Math.hypot(...[0, 1, 2].map(k => rest.positions[3 * a + k] - rest.positions[3 * b + k]))
    const long = (bone(chain[0], chain[1]) + bone(chain[1], chain[2])) * unit
    return [
      {
        leg,
        long,
        chain,
        limb: limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))),
        sole: soles[leg],
      },
    ]
  })
  const ways = waysTo(
    skeleton,
    legs.flatMap(l => [l.limb.end, l.sole.pivot.joint]),
  )
  const feet: Foot[] = legs.map(({ leg }) => ({ leg, shift: [0, 0, 0], lean: [0, 0] }))
  let high = 0
  const ground = (x: number, z: number): number => floor.heightAt(x, z, high)
  const point = new Float64Array(3)
  /** Where the sole of a leg is, in the world, metres. */
  function soleAt(i: number): Vec3 {
    const { joint, at: offset } = legs[i].sole.pivot
    if (offset) rotateAt(point, 0, pose.rotations, 4 * joint, offset[0], offset[1], offset[2])
    else point.fill(0)
    const p = rotate(frame, [0, 1, 2].map(k => pose.positions[3 * joint + k] + point[k]) as Vec3)
    return [p[0] * unit, p[1] * unit, p[2] * unit]
  }
  const lifts = legs.map(() => 0)
  let drop = 0
  /** How far the body must go down for every foot that stays to be reached, metres. */
  function wantedDrop(): number {
    let most = 0
    legs.forEach(({ chain, long }, i) => {
      const { held, shift } = feet[i]
      if (!held) return
      const d = rotate(frame, [0, 1, 2].map(k => pose.positions[3 * chain[2] + k] - pose.positions[3 * chain[0] + k]) as Vec3) // prettier-ignore
      const [dx, dy, dz] = [d[0] * unit + shift[0], -(d[1] * unit + shift[1]), d[2] * unit + shift[2]]
      const reach = REACH * long
      const flat = dx * dx + dz * dz
      if (dy > 0 && flat + dy * dy > reach * reach && flat < reach * reach)
        most = Math.max(most, dy - Math.sqrt(reach * reach - flat))
    })
    return most
  }
  /** Leans a foot with the ground it comes down on. */
  function lean(i: number, R: Float32Array, dt: number, grounded: boolean): void {
    const foot = feet[i]
    let nx = 0,
      nz = 0
    if (foot.last && grounded) {
      const [px, , pz] = foot.last
      const dx = ground(px + SLOPE, pz) - ground(px - SLOPE, pz)
      const dz = ground(px, pz + SLOPE) - ground(px, pz - SLOPE)
      if (Math.abs(dx) < STEEP) nx = -dx / (2 * SLOPE)
      if (Math.abs(dz) < STEEP) nz = -dz / (2 * SLOPE)
    }
    const follow = Math.min(1, dt / 0.1)
    foot.lean[0] += (nx - foot.lean[0]) * follow
    foot.lean[1] += (nz - foot.lean[1]) * follow
    if (Math.hypot(foot.lean[0], foot.lean[1]) < 1e-4) return
    const j = legs[i].limb.end
    const parent = skeleton.parents[j]
    const above = parent < 0 ? IDENTITY : quatAt(pose.rotations, parent)
    const up = rotate(back, [0, 1, 0])
    const tilt = fromTo(up, rotate(back, normalOf(foot.lean)))
    setQuat(R, j, multiply(multiply(multiply(conjugate(above), tilt), above), quatAt(R, j)))
  }

  return {
    /** Length of a leg, metres. */
    leg: mean(legs.map(l => l.long)) || 0.8,
    /** The ground under the feet, on average; under the body where there are none. */
    groundUnder(under: number, below: number): number {
      high = under
      return feet.length > 0 ? mean(feet.map(f => (f.last ? ground(f.last[0], f.last[2]) : below))) : below
    },
    /** Feet begin anew where they are. */
    letGo(): void {
      for (const f of feet) {
        f.held = f.last = f.setting = undefined
        f.shift.fill(0)
        f.lean.fill(0)
      }
    },
    /** Brings the feet of a placed pose to the ground, in place. */
    settle(
      { rotations: R, translations: T }: MixedPose,
      now: FeetNow,
    ): { readonly footfalls: readonly Footfall[]; readonly slide: number } {
      const { dt } = now
      high = now.high
      forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
      legs.forEach((_, i) => lean(i, R, dt, now.grounded))
      forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
      const footfalls: Footfall[] = []
      let slide = 0
      legs.forEach(({ leg, long }, i) => {
        const foot = feet[i]
        const own = soleAt(i)
        const firm = now.grounded && now.rests(leg)
        const offX = foot.held ? foot.held[0] - own[0] : 0,
          offZ = foot.held ? foot.held[2] - own[2] : 0
        const torn = Math.hypot(offX, offZ)
        if (foot.setting === undefined && now.stands && foot.held && torn > ASIDE) {
          // one foot after the other is set under the body
          if (feet.every(f => f.setting === undefined)) foot.setting = 0
        }
        let lift = 0
        if (foot.setting !== undefined) {
          foot.setting += dt
          const t = Math.min(1, foot.setting / SETS)
          lift = LIFTED * Math.sin(Math.PI * t)
          foot.held = undefined
          if (t >= 1 || !now.grounded) foot.setting = undefined
        } else if (firm && torn < TORN * long) {
          if (!foot.held) {
            foot.held = [own[0] + foot.shift[0], 0, own[2] + foot.shift[2]]
            const [hx, , hz] = foot.held
            footfalls.push({ leg, at: [hx, ground(hx, hz), hz], surface: floor.surfaceAt(hx, hz, now.high) })
          }
        } else foot.held = undefined
        const fade = Math.exp(-dt / FADES)
        foot.shift[0] = foot.held ? foot.held[0] - own[0] : foot.shift[0] * fade
        foot.shift[2] = foot.held ? foot.held[2] - own[2] : foot.shift[2] * fade
        const [fx, fz] = [own[0] + foot.shift[0], own[2] + foot.shift[2]]
        // what is lifted rises before the edge it is to go over
        const ahead = foot.held ? -Infinity : ground(fx + AHEAD * now.going[0], fz + AHEAD * now.going[1]) // prettier-ignore
        const here = now.grounded ? Math.max(ground(fx, fz), ahead) - now.body : now.tuck
        const follow = now.sunk || !now.grounded ? 1 : Math.min(1, dt / (foot.held ? 0.035 : 0.07))
        foot.shift[1] += (here - foot.shift[1]) * follow
        lifts[i] = lift
      })
      // a foot that stays where the leg does not reach any more takes the body down a little
      drop = Math.max(drop * Math.exp(-dt / EASES), now.grounded ? Math.min(MOST_DROP, wantedDrop()) : 0)
      if (drop > 1e-4) {
        const down = rotate(back, [0, -drop / unit, 0])
        const r = vec3At(T, root)
        setVec3(T, root, [r[0] + down[0], r[1] + down[1], r[2] + down[2]])
        forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
      } else drop = 0
      legs.forEach(({ limb }, i) => {
        const { shift } = feet[i]
        const s = rotate(back, [shift[0] / unit, (shift[1] + lifts[i] + drop) / unit, shift[2] / unit])
        if (Math.hypot(s[0], s[1], s[2]) * unit > 1e-5) solver.solve(limb, pose, R, 0, s[0], s[1], s[2])
      })
      forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
      legs.forEach((_, i) => {
        const foot = feet[i]
        const sole = soleAt(i)
        if (foot.held && foot.last && !footfalls.some(f => f.leg === foot.leg))
          slide = Math.max(slide, Math.hypot(sole[0] - foot.last[0], sole[2] - foot.last[2]) / dt)
        foot.last = sole
      })
      return { footfalls, slide }
    },
  }
}

const normalOf = ([nx, nz]: readonly [number, number]): Vec3 => normalize([nx, 1, nz])
const mean = (values: readonly number[]): number => values.reduce((s, v) => s + v, 0) / (values.length || 1)
