import { conjugate, fromAxisAngle, multiply, quatAt, rotate, rotateAt, setQuat, setVec3, fromTo, vec3At, type Vec3 } from '../math' // prettier-ignore
import { createLimbSolver, limbOf } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'
import { kneeWay, legsOf } from '../body'
import type { Sole } from '../surface'
import { createActions } from './actions'
import { mixIn, placeIn, restsAt, restsInMix, type MixedPose } from './blend'
import type { Clip } from './clip'
import type { Floor } from './floor'
import { createJump } from './jump'
import { createPlayer, standardStates, type Played, type Rule, type StatesDocument } from './states'

/** A figure that can be led. */
export interface Walker {
  readonly skeleton: Skeleton
  readonly joints: Readonly<Record<string, number>>
  /** From the skeleton's space to Y up, facing +Z. */
  readonly frame: readonly [number, number, number, number]
  readonly soles: Readonly<Record<string, Sole>>
  /** Metres a unit of the skeleton is. */
  readonly unit?: number
  /** Its takes made ready; the states call them by their names. */
  readonly clips: readonly Clip[]
  /** How it behaves; left out, as a figure does of itself. */
  readonly states?: StatesDocument
  /** What it goes on; left out, level ground. */
  readonly floor?: Floor
}
const LEVEL: Floor = { heightAt: () => 0, surfaceAt: () => 'ground' }

/** What is asked of it now. */
export interface Lead {
  /** Where to, across and ahead in the world; nothing to stand. */
  readonly to?: readonly [x: number, z: number]
  /** How fast it is to go, metres a second; left out, as its slowest gait. */
  readonly speed?: number
  /** Keys that went down since the last step, and those that are down. */
  readonly pressed?: readonly string[]
  readonly held?: readonly string[]
  /** Values of one's own. */
  readonly values?: Readonly<Record<string, number>>
}

/** A foot that came down. */
export interface Footfall {
  readonly leg: string
  readonly at: readonly [number, number, number]
  readonly surface: string
}

export interface Walking {
  /** Local values of every joint: 4·J and 3·J, in the skeleton's space. The same arrays each time. */
  readonly rotations: Float32Array
  readonly translations: Float32Array
  readonly place: readonly [x: number, z: number]
  /** How high the body's ground is, metres. */
  readonly height: number
  readonly heading: number
  /** Metres a second. */
  readonly speed: number
  /** Whether it is not in the air. */
  readonly grounded: boolean
  /** The state it is in and those within it, how much of it is reached, the rule that was taken now. */
  readonly state: readonly string[]
  readonly share: number
  readonly took?: Rule
  /** Values rules ask for. */
  readonly values: Readonly<Record<string, number>>
  /** What is done on keys now. */
  readonly doing: readonly string[]
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
/** Seconds in which what kept a foot in place fades, and the body follows the ground. */
const FADES = 0.12,
  FOLLOWS = 0.18
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

/**
 * Leads a figure over a ground: it gathers and loses speed, turns where it is to go, and plays what its states say, with
 * feet in step. What is done once goes where its take goes. A foot that rests stays where it came down (by the leg, as
 * two bones) and leans with the ground until it is lifted.
 */
export function createWalkabout(walker: Walker) {
  const { skeleton, joints, frame, soles, clips, unit = 1, floor = LEVEL } = walker
  const states = walker.states ?? standardStates(clips)
  const byName = new Map(clips.map(c => [c.name, c]))
  const player = createPlayer(states.table, byName)
  const actions = createActions(states, byName, skeleton, joints)
  const speeds = clips.filter(c => c.kind === 'steps').map(c => c.speed)
  const slowest = speeds.reduce((a, b) => Math.min(a, b), Infinity),
    fastest = speeds.reduce((a, b) => Math.max(a, b), 0)
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
      {
        leg,
        long,
        chain,
        limb: limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))),
        sole: soles[leg],
      },
    ]
  })
  const jump = createJump(mean(legs.map(l => l.long)) || 0.8)
  const ways = waysTo(
    skeleton,
    legs.flatMap(l => [l.limb.end, l.sole.pivot.joint]),
  )
  const feet: Foot[] = legs.map(({ leg }) => ({ leg, shift: [0, 0, 0], lean: [0, 0] }))
  let x = 0,
    z = 0,
    heading = 0,
    speed = 0,
    turning = 0,
    high = floor.heightAt(0, 0),
    grounded = true
  let heldBefore: ReadonlySet<string> = new Set()
  const ground = (px: number, pz: number): number => floor.heightAt(px, pz, high)
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
  function lean(i: number, dt: number): void {
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
    const above = parent < 0 ? IDENTITY_TURN : quatAt(pose.rotations, parent)
    const up = rotate(back, [0, 1, 0])
    const tilt = fromTo(up, rotate(back, normalOf(foot.lean)))
    const R = mixed.rotations
    setQuat(R, j, multiply(multiply(multiply(conjugate(above), tilt), above), quatAt(R, j)))
  }

  function step(seconds: number, lead: Lead = {}): Walking {
    const dt = Math.min(0.1, Math.max(1e-4, seconds))
    const { to, speed: wished, values = {} } = lead
    const held = new Set(lead.held ?? [])
    const pressed = new Set([...(lead.pressed ?? []), ...[...held].filter(k => !heldBefore.has(k))])
    heldBefore = held
    if (grounded && states.jump && pressed.has(states.jump.key) && actions.bodily().length === 0 && !jump.isOn()) {
      if (states.jump.take && byName.has(states.jump.take)) actions.begin(states.jump.take)
      else jump.begin()
    }
    const far = to ? Math.hypot(to[0], to[1]) : 0
    const going = far > 1e-6 && fastest > 0
    const off = going ? Math.atan2(to![0], to![1]) - heading : 0
    const bearing = off - 2 * Math.PI * Math.round(off / (2 * Math.PI))
    const wish = going ? Math.min(wished ?? slowest, 1.35 * fastest) : 0
    const of: Record<string, number> = {
      ...Object.fromEntries(states.values.map(v => [v.name, v.value])),
      ...values,
      speed,
      wish,
      turn: (turning * 180) / Math.PI,
      bearing: (bearing * 180) / Math.PI,
      height: jump.height(),
    }
    const playing = player.step(grounded ? dt : 0.45 * dt, { of, ground: grounded, pressed, held })
    actions.step(dt, pressed, held)

    // what is done once goes where its take goes, everything else as fast as it is led
    let driven = 0,
      onItsWay = 0,
      along = 0
    const before = heading
    const drives = [...playing.parts, ...actions.bodily()]
    const over = Math.max(0, 1 - actions.bodily().reduce((s, a) => s + a.weight, 0))
    drives.forEach(({ clip, phase, before: was, weight }, i) => {
      if (!clip.way) return
      const share = i < playing.parts.length ? weight * over : weight
      driven += share
      const [ax, az, at] = wayAt(clip, was),
        [bx, bz, bt] = wayAt(clip, phase)
      const a = before - at
      x += share * ((bx - ax) * Math.cos(a) + (bz - az) * Math.sin(a))
      z += share * ((bz - az) * Math.cos(a) - (bx - ax) * Math.sin(a))
      heading += share * (bt - at)
      if (clip.begins !== undefined || clip.ends !== undefined) {
        onItsWay += share
        along += share * Math.hypot(bx - ax, bz - az)
      }
    })
    driven = Math.min(1, driven)
    const aim = wish * (driven - onItsWay > 0.02 || actions.bodily().length > 0 ? 0 : 1)
    // it keeps its pace until steps are where what follows begins; what sets off or stops has a speed of its own
    if (grounded && !playing.waits) speed += Math.min(GAINS * dt, Math.max(-LOSES * dt, aim - speed))
    if (onItsWay > 0.5) speed += (along / dt / onItsWay - speed) * Math.min(1, dt / 0.08)
    if (going && grounded) {
      const most = (TURNS / (1 + 0.35 * speed)) * dt * (1 - driven)
      heading += Math.min(most, Math.max(-most, bearing))
    }
    turning += ((heading - before) / dt - turning) * Math.min(1, dt / 0.1)
    x += Math.sin(heading) * speed * dt * (1 - driven)
    z += Math.cos(heading) * speed * dt * (1 - driven)

    mixed.weight = 0
    for (const { clip, phase, weight } of playing.parts) mixIn(mixed, clip, phase, weight)
    actions.mix(mixed)
    const { rotations: R, translations: T } = mixed
    const turn = fromAxisAngle([0, 1, 0], heading)
    const at = rotate(turn, rotate(frame, vec3At(T, root)))
    const below = ground(x, z)
    const wanted = legs.length > 0 && grounded ? mean(feet.map(f => (f.last ? ground(f.last[0], f.last[2]) : below))) : below // prettier-ignore
    // in the air it keeps its own height over where it left the ground
    const leap = jump.step(dt, high, wanted)
    const landed = !grounded && !leap.flies
    grounded = !leap.flies
    if (leap.flies) high = leap.from
    else if (landed) high = wanted
    else high += (wanted - high) * Math.min(1, dt / FOLLOWS)
    const body = high + leap.rise - leap.sunk
    setVec3(T, root, rotate(back, [at[0] + x / unit, at[1] + body / unit, at[2] + z / unit]))
    setQuat(R, root, multiply(multiply(multiply(back, turn), frame), quatAt(R, root)))
    forwardKinematics(skeleton.parents, ways, T, R, 0, pose)
    legs.forEach((_, i) => lean(i, dt))
    forwardKinematics(skeleton.parents, ways, T, R, 0, pose)

    const footfalls: Footfall[] = []
    let slide = 0
    const shares = playing.parts.map(p => ({ gait: p.clip, share: p.weight, phase: p.phase }))
    const steps = shares.filter(s => s.gait.kind === 'steps')
    const stepping = steps.reduce((s, p) => s + p.share, 0)
    const stands = shares.filter(s => s.gait.kind === 'stand').reduce((s, p) => s + p.share, 0) * over > 0.5
    /** Whether a foot is to rest: as most of what is played has it. */
    function firmly(leg: string): boolean {
      if (!grounded) return false
      let sum = 0
      for (const a of actions.bodily()) if (restsAt(a.clip, leg, a.phase)) sum += a.weight
      if (stepping > 0 && restsInMix(steps.map(s => ({ gait: s.gait, share: s.share / stepping })), leg, steps[0].phase)) sum += over * stepping // prettier-ignore
      for (const s of shares) if (s.gait.kind !== 'steps' && restsAt(s.gait, leg, s.phase)) sum += over * s.share
      return sum > 0.5
    }
    legs.forEach(({ leg, long }, i) => {
      const foot = feet[i]
      const own = soleAt(i)
      const firm = firmly(leg)
      const offX = foot.held ? foot.held[0] - own[0] : 0,
        offZ = foot.held ? foot.held[2] - own[2] : 0
      const torn = Math.hypot(offX, offZ)
      if (foot.setting === undefined && stands && speed < 0.3 && foot.held && torn > ASIDE) {
        // one foot after the other is set under the body
        if (feet.every(f => f.setting === undefined)) foot.setting = 0
      }
      let lift = 0
      if (foot.setting !== undefined) {
        foot.setting += dt
        const t = Math.min(1, foot.setting / SETS)
        lift = LIFTED * Math.sin(Math.PI * t)
        foot.held = undefined
        if (t >= 1 || !grounded) foot.setting = undefined
      } else if (firm && torn < TORN * long) {
        if (!foot.held) {
          foot.held = [own[0] + foot.shift[0], 0, own[2] + foot.shift[2]]
          const [hx, , hz] = foot.held
          footfalls.push({ leg, at: [hx, ground(hx, hz), hz], surface: floor.surfaceAt(hx, hz, high) })
        }
      } else foot.held = undefined
      const fade = Math.exp(-dt / FADES)
      foot.shift[0] = foot.held ? foot.held[0] - own[0] : foot.shift[0] * fade
      foot.shift[2] = foot.held ? foot.held[2] - own[2] : foot.shift[2] * fade
      const [fx, fz] = [own[0] + foot.shift[0], own[2] + foot.shift[2]]
      // what is lifted rises before the edge it is to go over
      const ahead = foot.held ? -Infinity : ground(fx + AHEAD * speed * Math.sin(heading), fz + AHEAD * speed * Math.cos(heading)) // prettier-ignore
      const here = grounded ? Math.max(ground(fx, fz), ahead) - body : leap.tuck
      const follow = leap.sunk > 0 || !grounded ? 1 : Math.min(1, dt / (foot.held ? 0.035 : 0.07))
      foot.shift[1] += (here - foot.shift[1]) * follow
      lifts[i] = lift
    })
    // a foot that stays where the leg does not reach any more takes the body down a little
    drop = Math.max(drop * Math.exp(-dt / EASES), grounded ? Math.min(MOST_DROP, wantedDrop()) : 0)
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
      const now = soleAt(i)
      if (foot.held && foot.last && !footfalls.some(f => f.leg === foot.leg))
        slide = Math.max(slide, Math.hypot(now[0] - foot.last[0], now[2] - foot.last[2]) / dt)
      foot.last = now
    })
    return {
      rotations: R,
      translations: T,
      place: [x, z],
      height: body,
      heading,
      speed,
      grounded: grounded && !actions.flies(),
      state: playing.state,
      share: playing.share,
      took: playing.took?.rule,
      values: of,
      doing: [...actions.names(), ...(jump.isOn() ? ['jump'] : [])],
      shares: sumByName([
        ...playing.parts.map(p => ({ name: p.clip.name, share: over * p.weight })),
        ...actions.bodily().map(a => ({ name: a.clip.name, share: a.weight })),
      ]).filter(s => s.share > 1e-3),
      slide,
      footfalls,
    }
  }
  return {
    step,
    /** Puts it somewhere; how it faces stays where it is left out. */
    place(px: number, pz: number, to = heading): void {
      x = px
      z = pz
      heading = to
      speed = 0
      high = floor.heightAt(px, pz)
      for (const f of feet) {
        f.held = f.last = f.setting = undefined
        f.shift.fill(0)
        f.lean.fill(0)
      }
    },
    /** What played in the last ten seconds. */
    told: (): { readonly time: number; readonly list: readonly Played[] } => player.told(),
    states,
  }
}
export type Walkabout = ReturnType<typeof createWalkabout>

const IDENTITY_TURN = [0, 0, 0, 1] as const
const normalOf = ([nx, nz]: readonly [number, number]): Vec3 => {
  const long = Math.hypot(nx, 1, nz)
  return [nx / long, 1 / long, nz / long]
}
const mean = (values: readonly number[]): number => values.reduce((s, v) => s + v, 0) / (values.length || 1)

/** Where what is done once has gone at a share of it. */
function wayAt(clip: Clip, phase: number): readonly [number, number, number] {
  const way = clip.way!
  const { k, next, t } = placeIn(clip, phase)
  return [0, 1, 2].map(c => way[3 * k + c] + t * (way[3 * next + c] - way[3 * k + c])) as [number, number, number]
}

function sumByName(list: readonly { name: string; share: number }[]): { name: string; share: number }[] {
  const sums = new Map<string, number>()
  for (const { name, share } of list) sums.set(name, (sums.get(name) ?? 0) + share)
  return [...sums].map(([name, share]) => ({ name, share }))
}
