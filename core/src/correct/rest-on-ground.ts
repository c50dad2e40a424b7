import { conjugate, rotate, rotateAt } from '../math'
import { restsOf, tracksOf, type Tracks, type Played, type Take } from '../motion'
import { forwardKinematics, waysTo, worldPoseBuffer } from '../skeleton'
import type { Travel } from '../retarget'
import type { BodySurface } from '../surface'
import { SIDES } from '../body'
import { envelope, evened, smoothly } from './in-time'
import { shiftHands } from './keep-hands'
import { easedWhere, toldOf, withTold, type PlacedContact } from './told-contacts'

/** A body over its ground: its surface, and how high the ground is in its own frame. */
export interface Grounded {
  readonly played: Played
  /** Its outermost places are asked for only where something comes near the ground. */
  readonly surface: Pick<BodySurface, 'outermost'>
  readonly ground: number
  /** Height of the hips over the soles at rest. */
  readonly long: number
  /** Joints of {@link NEAR_GROUND} through the take, where they were followed already. */
  readonly tracks?: Tracks
}

/** The joints that tell whether anything but feet comes near the ground. */
export const NEAR_GROUND = ['hips', 'head', 'leftLowerLeg', 'rightLowerLeg', 'leftHand', 'rightHand'] as const

const nearGround = ({ played, tracks }: Grounded): Tracks => tracks ?? tracksOf(played, NEAR_GROUND)

/** The frames in which one of these joints is low, so that a closer look is worth it. */
function lowFrames(over: Grounded, roles: readonly string[], low: number): number[] {
  const tracks = nearGround(over)
  const near = roles.flatMap(r => tracks[r] ?? [])
  const most = over.ground + low * over.long
  const frames: number[] = []
  for (let f = 0; f < over.played.take.frames; f++) if (near.some(track => track[3 * f + 1] < most)) frames.push(f)
  return frames
}

/** Parts that carry the body when they lie on the ground; hands and feet are brought there by their own limbs. */
const CARRIES = /^(hips|spine|chest|upperChest|head|(left|right)(UpperLeg|LowerLeg))$/
const CARRYING = ['hips', 'head', 'leftLowerLeg', 'rightLowerLeg'] as const
/** A joint lower than this makes a frame worth a closer look; a part this near the ground lies on it, and from the second on it does not, lengths of a leg. */
const LOW = 0.24,
  LIES = 0.025,
  CLEAR = 0.11
/** Seconds over which the body is lifted and lowered. */
const EASE = 0.1

/** How far a figure is lifted in each frame, N, unit of the figure, and how surely it lies on something else than its feet, 0..1. */
export interface Lift {
  readonly by: Float32Array
  readonly lies: Float32Array
  /** By frame, the parts that come near the ground with the performer. */
  readonly carriers: ReadonlyMap<number, readonly string[]>
}

/** How a body lies over its ground in a frame: by part, how high its lowest place is. */
type Heights = ReadonlyMap<string, number>

/**
 * Height of the lowest place of a body's surface over the ground in a take, unit of its skeleton; negative under it. Soles
 * are followed through every frame, all else where it comes near.
 * @param soles tracks of their places
 */
export function lowestPlace(over: Grounded, soles: readonly Float32Array[]): number {
  let low = Infinity
  for (const track of soles) for (let i = 1; i < track.length; i += 3) low = Math.min(low, track[i] - over.ground)
  const frames = lowFrames(over, NEAR_GROUND, LOW)
  if (frames.length === 0) return low
  const heights = heightsOver(over)
  for (const f of frames)
    for (const [role, y] of heights(f))
      // soles are told above, where each stands at rest
      if (y < low && !/(Foot|Toes)$/.test(role)) low = y
  return low
}

/** Reads how high the parts of a body are over the ground in a frame, unit of its skeleton. */
function heightsOver({ played, surface, ground }: Grounded): (f: number) => Map<string, number> {
  const { skeleton, take, frame } = played
  const { roles, joints, places } = surface.outermost
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, joints)
  const [ux, uy, uz] = rotate(conjugate(frame), [0, 1, 0])
  const P = pose.positions,
    R = pose.rotations
  const v = new Float64Array(3)
  return f => {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    const out = new Map<string, number>()
    for (let i = 0; i < roles.length; i++) {
      const j = joints[i]
      rotateAt(v, 0, R, 4 * j, places[3 * i], places[3 * i + 1], places[3 * i + 2])
      const y = ux * (v[0] + P[3 * j]) + uy * (v[1] + P[3 * j + 1]) + uz * (v[2] + P[3 * j + 2]) - ground
      const known = out.get(roles[i])
      if (known === undefined || y < known) out.set(roles[i], y)
    }
    return out
  }
}

/**
 * How far a figure must be lifted in each frame so that it lies on the ground with the parts the performer lies on: back,
 * seat, knees, head. Told from the lowest places of both surfaces, so that neither hovers where the other lies, nor
 * sinks.
 * @param told parts that were told to lie there, or not to
 * @returns undefined where nothing but feet and hands ever comes near the ground
 */
export function liftOntoGround(
  figure: Grounded,
  performer: Grounded,
  travel: Pick<Travel, 'scale'>,
  told: readonly PlacedContact[] = [],
): Lift | undefined {
  const { take } = performer.played
  const said = saidOf(
    told,
    performer.surface.outermost.roles.filter(r => CARRIES.test(r)),
    take,
  )
  const frames = withAsked(lowFrames(performer, CARRYING, LOW), said, take.frames)
  if (frames.length === 0) return undefined
  const theirs = heightsOver(performer),
    ours = heightsOver(figure)
  const carriers = new Map<number, readonly string[]>()
  const lifts = new Float32Array(take.frames),
    low = new Float32Array(take.frames),
    lies = new Float32Array(take.frames)
  let any = false
  for (const f of frames) {
    const own = ours(f)
    const others = theirs(f)
    for (const [role, { lies, free }] of said) {
      const y = others.get(role)
      if (y !== undefined) others.set(role, (1 - lies[f]) * y + free[f] * figure.long)
    }
    const lift = liftAt(own, others, travel.scale, figure.long)
    lifts[f] = lift.lift
    lies[f] = lift.firm
    // cloth and knees that are up in the air with the performer carry nobody
    const parts = [...others].flatMap(([role, y]) =>
      CARRIES.test(role) && travel.scale * y < CLEAR * figure.long ? [role] : [],
    )
    carriers.set(f, parts)
    for (const role of parts) low[f] = Math.min(low[f], own.get(role) ?? 0)
    any ||= Math.abs(lifts[f]) > 1e-4 || low[f] < -1e-4
  }
  if (!any) return undefined
  const reach = Math.max(1, Math.round(EASE * take.fps))
  const soft = evened(lifts, reach)
  // whatever is near the ground does not go under it, how deep the performer's usual body may seem to lie
  const rest = envelope(
    soft.map((lift, f) => Math.max(0, -low[f] - lift)),
    reach,
  )
  return { by: soft.map((lift, f) => lift + rest[f]), lies: evened(lies, reach), carriers }
}

/**
 * When parts of a body lie on the ground, feet apart: seat, back, knees, head, hands. N by role; those that never do are left
 * out.
 * @param told parts that were told to lie there, or not to
 */
export function findLying(over: Grounded, told: readonly PlacedContact[] = []): Readonly<Record<string, Uint8Array>> {
  const { take } = over.played
  const out: Record<string, Uint8Array> = {}
  const frames = lowFrames(over, NEAR_GROUND, LOW)
  if (frames.length > 0) {
    const heights = heightsOver(over)
    for (const f of frames)
      for (const [role, y] of heights(f))
        if ((CARRIES.test(role) || /Hand$/.test(role)) && y < ((LIES + CLEAR) / 2) * over.long)
          (out[role] ??= new Uint8Array(take.frames))[f] = 1
  }
  for (const { part, onto } of told) {
    if (onto !== 'ground' || /(Heel|Ball)$/.test(part)) continue
    out[part] = withTold(out[part] ?? new Uint8Array(take.frames), toldOf(told, part, 'ground', take.frames))
  }
  return out
}

/** What was told of parts on the ground, eased: how surely each lies there, and how surely it does not. */
type Said = ReadonlyMap<string, { readonly lies: Float32Array; readonly free: Float32Array }>

function saidOf(told: readonly PlacedContact[], roles: readonly string[], { frames, fps }: Take): Said {
  const said = new Map<string, { lies: Float32Array; free: Float32Array }>()
  if (told.length === 0) return said
  for (const role of new Set(roles)) {
    const flags = toldOf(told, role, 'ground', frames)
    if (flags) said.set(role, { lies: easedWhere(flags, 1, EASE * fps), free: easedWhere(flags, -1, EASE * fps) })
  }
  return said
}

/** The frames, and those in which something was told to lie on the ground. */
function withAsked(frames: readonly number[], said: Said, count: number): readonly number[] {
  if (said.size === 0) return frames
  const all = new Set(frames)
  for (const { lies } of said.values()) for (let f = 0; f < count; f++) if (lies[f] > 0) all.add(f)
  return [...all].sort((a, b) => a - b)
}

/** How far what carries a body lies under the ground after all, eased in time: N, unit of the figure. */
export function sunkIn(figure: Grounded, { lies, carriers }: Lift): Float32Array {
  const { take } = figure.played
  const ours = heightsOver(figure)
  const sunk = Float32Array.from(lies, (firm, f) => {
    const parts = carriers.get(f)
    if (firm <= 0 || !parts) return 0
    const heights = ours(f)
    let low = 0
    for (const role of parts) low = Math.min(low, heights.get(role) ?? 0)
    return -low
  })
  return envelope(sunk, Math.max(1, Math.round(EASE * take.fps)))
}

function liftAt(own: Heights, theirs: Heights, scale: number, long: number): { lift: number; firm: number } {
  let gap = Infinity,
    firm = 0
  for (const [role, height] of theirs) {
    const mine = own.get(role)
    if (mine === undefined || !CARRIES.test(role)) continue
    const high = scale * height
    const lies = 1 - smoothly((high / long - LIES) / (CLEAR - LIES))
    const wanted = Math.max(0, high)
    if (lies > 0) {
      // a part that only comes near tells less than one that lies
      gap = Math.min(gap, mine - wanted + (1 - lies) * CLEAR * long)
      firm = Math.max(firm, lies)
    }
  }
  return { lift: firm > 0 ? -firm * gap : 0, firm }
}

/** A hand this near the ground lies on it, lengths of a leg; seconds over which it eases. */
const PALM_LIES = 0.03,
  PALM_CLEAR = 0.1

/**
 * Brings hands that lie on the ground onto it, and keeps resting ones in place, as the performer's: told from the lowest place
 * of each hand.
 * @param told hands that were told to lie there, or not to
 * @returns the take itself where no hand is near the ground
 */
export function handsOnGround(
  figure: Grounded,
  performer: Grounded,
  travel: Pick<Travel, 'scale'>,
  told: readonly PlacedContact[] = [],
): Take {
  const { joints, take, frame } = figure.played
  const { long } = performer
  const hands = nearGround(performer)
  const roles = SIDES.map(s => `${s}Hand`)
  const said = saidOf(told, roles, take)
  const frames = withAsked(lowFrames(performer, roles, PALM_CLEAR + 0.1), said, take.frames)
  const chains = SIDES.map(s => ['UpperArm', 'LowerArm', 'Hand'].map(p => joints[s + p]))
  if (frames.length === 0 || chains.some(c => c.some(j => j === undefined))) return take
  const rests = SIDES.map(s => {
    const flags = restsOf(hands[`${s}Hand`]!, take.fps, long)
    const asked = said.get(`${s}Hand`)?.lies
    return asked ? flags.map((flag, f) => (asked[f] >= 1 ? 1 : flag)) : flags
  })
  const theirs = heightsOver(performer),
    ours = heightsOver(figure)
  const ownHands = tracksOf(
    figure.played,
    SIDES.map(s => `${s}Hand`),
  )
  const shifts = SIDES.map(() => new Float32Array(3 * take.frames))
  const weights = SIDES.map(() => new Float32Array(take.frames))
  for (const f of frames) {
    const a = ours(f),
      b = theirs(f)
    SIDES.forEach((side, s) => {
      const high = travel.scale * (b.get(`${side}Hand`) ?? Infinity),
        is = a.get(`${side}Hand`)
      if (is === undefined) return
      const known = said.get(`${side}Hand`)
      const asked = known?.lies[f] ?? 0
      const found = 1 - smoothly((high / figure.long - PALM_LIES) / (PALM_CLEAR - PALM_LIES))
      const lies = Math.max(asked, found * (1 - (known?.free[f] ?? 0)))
      shifts[s][3 * f + 1] = Math.max(lies * ((1 - asked) * Math.max(0, high) - is), -is)
      weights[s][f] = lies
    })
  }
  SIDES.forEach((side, s) => {
    const track = ownHands[`${side}Hand`]!,
      flags = rests[s]
    for (let f = 0; f < take.frames; f++) {
      if (!flags[f] || weights[s][f] <= 0) continue
      let end = f
      while (end + 1 < take.frames && flags[end + 1] && weights[s][end + 1] > 0) end++
      for (const k of [0, 2]) {
        let mean = 0
        for (let i = f; i <= end; i++) mean += track[3 * i + k] / (end - f + 1)
        for (let i = f; i <= end; i++) {
          const within = Math.min(1, (Math.min(i - f, end - i) + 1) / (EASE * take.fps + 1))
          shifts[s][3 * i + k] = smoothly(within) * weights[s][i] * (mean - track[3 * i + k])
        }
      }
      f = end
    }
  })
  const back = Float64Array.from(conjugate(frame))
  const v = new Float64Array(3)
  const reach = Math.max(1, Math.round(EASE * take.fps))
  const moved = SIDES.map((_, s) => {
    // a hand that would sink is up in time, one that hovers comes down softly
    const up = envelope(
      Float32Array.from({ length: take.frames }, (_, f) => Math.max(0, shifts[s][3 * f + 1])),
      2 * reach,
    )
    const down = evened(
      Float32Array.from({ length: take.frames }, (_, f) => Math.min(0, shifts[s][3 * f + 1])),
      reach,
    )
    const out = new Float32Array(3 * take.frames)
    for (let f = 0; f < take.frames; f++) {
      rotateAt(v, 0, back, 0, shifts[s][3 * f], up[f] + down[f], shifts[s][3 * f + 2])
      out.set(v, 3 * f)
    }
    return out
  })
  return shiftHands(figure.played, { left: moved[0], right: moved[1] })
}
