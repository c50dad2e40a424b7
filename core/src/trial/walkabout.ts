import { conjugate, fromAxisAngle, multiply, quatAt, rotate, setQuat, setVec3, vec3At } from '../math'
import { rootAbove, type Skeleton } from '../skeleton'
import type { Sole } from '../surface'
import { createActions } from './actions'
import { mixIn, placeIn, restsAt, restsInMix, type MixedPose } from './blend'
import type { Clip } from './clip'
import { createFeet, type Footfall } from './feet'
import { LEVEL, type Floor } from './floor'
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
/** Seconds in which the body follows the ground. */
const FOLLOWS = 0.18

/**
 * Leads a figure over a ground: it gathers and loses speed, turns where it is to go, and plays what its states say, with
 * feet in step. What is done once goes where its take goes. A foot that rests stays where it came down (by the leg, as
 * two bones) and leans with the ground until it is lifted.
 */
export function createWalkabout(walker: Walker) {
  const { skeleton, joints, frame, clips, unit = 1, floor = LEVEL } = walker
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
  const mixed: MixedPose = { rotations: new Float32Array(4 * J), translations: new Float32Array(3 * J), weight: 0 }
  const feet = createFeet(walker)
  const jump = createJump(feet.leg)
  let x = 0,
    z = 0,
    heading = 0,
    speed = 0,
    turning = 0,
    high = floor.heightAt(0, 0),
    grounded = true
  let heldBefore: ReadonlySet<string> = new Set()
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
    // a state whose take is not there stands as bound
    if (mixed.weight === 0) {
      mixed.rotations.set(skeleton.restRotations)
      mixed.translations.set(skeleton.restTranslations)
    }
    actions.mix(mixed)
    const { rotations: R, translations: T } = mixed
    const turn = fromAxisAngle([0, 1, 0], heading)
    const at = rotate(turn, rotate(frame, vec3At(T, root)))
    const below = floor.heightAt(x, z, high)
    const wanted = grounded ? feet.groundUnder(high, below) : below // prettier-ignore
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
    const steps = playing.parts.filter(p => p.clip.kind === 'steps')
    const stepping = steps.reduce((sum, p) => sum + p.weight, 0)
    const mix = steps.map(p => ({ gait: p.clip, share: p.weight / stepping }))
    const standing = over * playing.parts.filter(p => p.clip.kind === 'stand').reduce((sum, p) => sum + p.weight, 0)
    const { footfalls, slide } = feet.settle(mixed, {
      dt,
      grounded,
      high,
      body,
      tuck: leap.tuck,
      sunk: leap.sunk > 0,
      going: [speed * Math.sin(heading), speed * Math.cos(heading)],
      stands: standing > 0.5 && speed < 0.3,
      // as most of what is played has it
      rests: leg => {
        let sum = 0
        for (const a of actions.bodily()) if (restsAt(a.clip, leg, a.phase)) sum += a.weight
        if (stepping > 0 && restsInMix(mix, leg, steps[0].phase)) sum += over * stepping
        for (const p of playing.parts)
          if (p.clip.kind !== 'steps' && restsAt(p.clip, leg, p.phase)) sum += over * p.weight
        return sum > 0.5
      },
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
      feet.letGo()
    },
    /** What played in the last ten seconds. */
    told: (): { readonly time: number; readonly list: readonly Played[] } => player.told(),
    states,
  }
}
export type Walkabout = ReturnType<typeof createWalkabout>

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
