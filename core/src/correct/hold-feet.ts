import { conjugate, distance, rotate, vec3At } from '../math'
import {
  createLimbSolver,
  followPlaces,
  limbOf,
  quantile,
  restsOf,
  type Contacts,
  type Followed,
  type MovingGround,
  type Played,
  type Take,
} from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import type { Travel } from '../retarget'
import type { Sole } from '../surface'
import { kneeWay, legsOf } from '../body'
import { envelope, smoothly } from './in-time'
import type { Lift } from './rest-on-ground'
import { easedAround, toldOf, withTold, type PlacedContact } from './told-contacts'

/** Seconds over which a foot eases into and out of its hold. */
const EASE = 0.16

const LEG = ['UpperLeg', 'LowerLeg', 'Foot'] as const
/** Places of a sole in the order they are followed. */
const POINTS = ['heel', 'ball', 'tip', 'pivot'] as const

/** Those that are kept in place: the heel, and what the foot rolls over. */
const PLACED = [0, 3] as const

/** Share of a leg's length it may be stretched to before the hips come down to it. */
const STRETCH = 0.985
/** Most the hips come down, in leg lengths. */
const DROP = 0.15
/** Up to this height over the ground a foot's height is kept, beyond the second it is let be, in leg lengths. */
const CLOSE = 0.012,
  AWAY = 0.13
/** A resting foot that stirs less than this is held quite still, in leg lengths. */
const STIR = 0.01
/** A heel higher than this does not rest, in leg lengths. */
const HEEL = 0.02

/** A body whose feet are told of: its soles by leg, and how far the ground lies over them at rest. */
export interface Footed {
  readonly played: Played
  readonly soles: Readonly<Record<string, Sole>>
  readonly lift: number
  /** Its soles through the take, where they were followed already, see {@link solePlaces}. */
  readonly tracks?: readonly Float32Array[]
}

/** What is followed of soles, leg by leg: heel, ball, tip and pivot. */
export const solePlaces = (soles: Footed['soles']): Followed[] =>
  Object.values(soles).flatMap(sole => POINTS.map(p => sole[p]))
/** The four tracks of a leg. */
const tracksOfLeg = ({ soles }: Footed, tracks: readonly Float32Array[], leg: string): readonly Float32Array[] => {
  const i = Object.keys(soles).indexOf(leg)
  return tracks.slice(4 * i, 4 * i + 4)
}

export interface FeetOptions {
  readonly travel: Pick<Travel, 'scale'>
  /** When the performer's balls rest, by leg, as found. */
  readonly contacts: Contacts
  /** What was told of contacts: feet told to rest stay quite still, on the ground. */
  readonly told?: readonly PlacedContact[]
  /** How the ground moves under the performer. */
  readonly ground?: MovingGround
  /** Resting feet are held quite still, whatever the performer's did. */
  readonly still?: boolean
  /** How the figure is lifted before its feet are held; what lies does not come down to its feet. */
  readonly lifted?: Lift
}

/**
 * Holds resting feet by their soles: heel and ball each stay where they came down while the performer's rest, and stir only
 * as the performer's stirred; a foot near the ground is as high over it as the performer's, told from the lowest place of
 * the sole, and never under it. The leg is solved anew as two bones with its knee in the plane it had, and the foot keeps its
 * turn. Corrections ease in and out around each contact (after Kovar, Schreiner and Gleicher 2002, "Footskate cleanup for
 * motion capture editing", without their bone stretching). Where a leg is too short for its place the hips come down as
 * little as they must.
 */
export function holdFeet(figure: Footed, performer: Footed, options: FeetOptions): Take {
  const { played } = figure
  const { skeleton, joints, take, frame } = played
  const { travel, contacts, ground, still, lifted, told = [] } = options
  const rest = worldPose(skeleton)
  const back = conjugate(frame)
  const legs = legsOf(joints).flatMap(leg => {
    const chain = LEG.map(p => joints[leg + p])
    const own = figure.soles[leg],
      theirs = performer.soles[leg]
    if (!own || !theirs || !contacts[leg] || chain.some(j => j === undefined)) return []
    return [{ leg, chain, own, theirs }]
  })
  const J = skeleton.names.length
  const at = (j: number) => vec3At(rest.positions, j)
  // one pass over each take for all that is followed
  const ownTracks = followPlaces(
    played,
    legs.flatMap(({ chain, own }): Followed[] => [
      { joint: chain[0] },
      { joint: chain[2] },
      ...POINTS.map(p => own[p]),
    ]),
  )
  const theirTracks = performer.tracks ?? followPlaces(performer.played, solePlaces(performer.soles))
  const solved = legs.map(({ leg, chain, own, theirs }, i) => {
    const length = distance(at(chain[0]), at(chain[1])) + distance(at(chain[1]), at(chain[2]))
    const [hip, ankle, ...points] = ownTracks.slice(6 * i, 6 * i + 6)
    if (lifted)
      for (const track of [hip, ankle, ...points])
        for (let f = 0; f < take.frames; f++) track[3 * f + 1] += lifted.by[f]
    const others = tracksOfLeg(performer, theirTracks, leg)
    const long = length / travel.scale
    const found = heelRests(others[0], theirs.rest[0] + performer.lift, take.fps, long, ground)
    const say = (point: 'Heel' | 'Ball'): Int8Array | undefined =>
      told.length > 0 ? toldOf(told, leg + point, 'ground', take.frames) : undefined
    const heels = say('Heel'),
      balls = say('Ball')
    const rests = [withTold(found, heels), withTold(contacts[leg], balls)] as const
    const asked =
      heels || balls ? Uint8Array.from(found, (_, f) => (heels?.[f] === 1 || balls?.[f] === 1 ? 1 : 0)) : undefined
    const shifts = new Float32Array(3 * take.frames)
    keepPlaces(shifts, points, others, rests, {
      ...options,
      fps: take.fps,
      stir: still ? Infinity : STIR * length,
      asked,
    })
    keepHeights(shifts, points, others, {
      own: own.rest.map(y => y + figure.lift),
      theirs: theirs.rest.map(y => y + performer.lift),
      scale: travel.scale,
      length,
      asked: asked && easedAround(asked, EASE * take.fps),
    })
    return { limb: limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))), length, shifts, hip, ankle }
  })
  const drop = dropOf(solved, take.frames, take.fps, lifted?.lies)
  const root = rootAbove(skeleton, joints.hips)
  const moves = drop !== undefined || lifted !== undefined
  const translations = moves ? take.translations.slice() : take.translations
  const rotations = take.rotations.slice()
  const pose = worldPoseBuffer(J)
  const ways = waysTo(
    skeleton,
    solved.map(l => l.limb.end),
  )
  const solver = createLimbSolver(skeleton)
  const [qx, qy, qz, qw] = back
  const down = rotate(back, [0, -1, 0])
  for (let f = 0; f < take.frames; f++) {
    let posed = false
    const dropped = drop?.[f] ?? 0
    const lower = dropped - (lifted?.by[f] ?? 0)
    if (lower !== 0) for (let k = 0; k < 3; k++) translations[3 * (f * J + root) + k] += lower * down[k]
    for (const { limb, shifts } of solved) {
      const x = shifts[3 * f],
        y = shifts[3 * f + 1] + dropped,
        z = shifts[3 * f + 2]
      if (x * x + y * y + z * z < 1e-10) continue
      if (!posed) forwardKinematics(skeleton.parents, ways, translations, rotations, f * J, pose)
      posed = true
      const tx = 2 * (qy * z - qz * y),
        ty = 2 * (qz * x - qx * z),
        tz = 2 * (qx * y - qy * x)
      solver.solve(
        limb,
        pose,
        rotations,
        f * J,
        x + qw * tx + qy * tz - qz * ty,
        y + qw * ty + qz * tx - qx * tz,
        z + qw * tz + qx * ty - qy * tx,
      )
    }
  }
  return { ...take, rotations, translations }
}

/** When a heel rests. A heel comes down with the ball or before it; one that is still in the air does not rest. */
function heelRests(track: Float32Array, low: number, fps: number, long: number, ground?: MovingGround): Uint8Array {
  const found = restsOf(track, fps, long, ground)
  for (let f = 0; f < found.length; f++) if (found[f] && track[3 * f + 1] - low > HEEL * long) found[f] = 0
  return found
}

/** When the heels of a body rest, by leg; a paw has none. */
export function findHeels({ played, soles, lift, tracks }: Footed, ground?: MovingGround): Contacts {
  const { skeleton, joints, take } = played
  const rest = worldPose(skeleton)
  const followed = tracks ?? followPlaces(played, solePlaces(soles))
  return Object.fromEntries(
    Object.entries(soles).flatMap(([leg, sole], i) => {
      const [top, knee, ankle] = LEG.map(p => joints[leg + p])
      if ([top, knee, ankle].some(j => j === undefined)) return []
      const long =
        distance(vec3At(rest.positions, top), vec3At(rest.positions, knee)) +
        distance(vec3At(rest.positions, knee), vec3At(rest.positions, ankle))
      return [[leg, heelRests(followed[POINTS.length * i], sole.rest[0] + lift, take.fps, long, ground)]]
    }),
  )
}

/** The usual height of resting feet is taken for the ground where it is within this of it, in leg lengths. */
const LEVEL = 0.06

/**
 * How high over the ground at rest a performer's feet usually rest: recordings stand a little over or under it.
 * @param contacts when its balls rest
 */
export function standingLevel(performer: Footed, contacts: Contacts): number {
  const { played, soles, lift } = performer
  const { joints, skeleton } = played
  const legs = legsOf(joints).filter(leg => soles[leg] && contacts[leg]?.includes(1))
  if (legs.length === 0) return 0
  const tracks = performer.tracks ?? followPlaces(played, solePlaces(soles))
  const heights: number[] = []
  for (const leg of legs) {
    const points = tracksOfLeg(performer, tracks, leg)
    for (let f = 0; f < played.take.frames; f++)
      if (contacts[leg][f]) heights.push(lowest(points, soles[leg].rest, f) - lift)
  }
  const level = quantile(heights, 0.5)
  const rest = worldPose(skeleton)
  const at = (role: string) => vec3At(rest.positions, joints[legs[0] + role])
  return Math.abs(level) < LEVEL * distance(at('UpperLeg'), at('Foot')) ? level : 0
}

/** The lowest place of a sole over where it is at rest. */
const lowest = (points: readonly Float32Array[], rest: readonly number[], f: number): number =>
  Math.min(points[0][3 * f + 1] - rest[0], points[1][3 * f + 1] - rest[1], points[2][3 * f + 1] - rest[2])

/** What rests on the ground in a stretch of frames: the heel or what the foot rolls over, first one, then the other. */
interface Rest {
  readonly from: number
  readonly to: number
  /** Place of the sole that rests, by its number in POINTS. */
  readonly point: number
}

/** The rests of a foot in the order they hang together: balls first, heels that come down before or stay behind after them. */
function restsTogether(heel: Uint8Array, ball: Uint8Array): Rest[][] {
  const n = ball.length
  const free = heel.slice()
  const out: Rest[][] = []
  for (let f = 0; f < n; f++) {
    if (!ball[f]) continue
    let to = f
    while (to + 1 < n && ball[to + 1]) to++
    const rests: Rest[] = [{ from: f, to, point: PLACED[1] }]
    let a = f,
      b = to
    while (a > 0 && free[a - 1] && !ball[a - 1]) a--
    while (b + 1 < n && free[b + 1] && !ball[b + 1]) b++
    if (a < f) rests.push({ from: a, to: f - 1, point: PLACED[0] })
    if (b > to) rests.push({ from: to + 1, to: b, point: PLACED[0] })
    free.fill(0, a, b + 1)
    out.push(rests)
    f = to
  }
  for (let f = 0; f < n; f++) {
    if (!free[f]) continue
    let to = f
    while (to + 1 < n && free[to + 1]) to++
    out.push([{ from: f, to, point: PLACED[0] }])
    f = to
  }
  return out
}

/** Moves resting heels and balls onto their places over the ground, fading around each rest. Changes `shifts`, 3·N. */
function keepPlaces(
  shifts: Float32Array,
  own: readonly Float32Array[],
  theirs: readonly Float32Array[],
  rests: readonly [heel: Uint8Array, ball: Uint8Array],
  {
    travel: { scale },
    ground,
    fps,
    stir: stirs,
    asked,
  }: FeetOptions & { readonly fps: number; readonly stir: number; readonly asked: Uint8Array | undefined },
): void {
  const n = shifts.length / 3
  const weights = new Float32Array(n)
  const ease = Math.max(1, Math.round(EASE * fps))
  const runs = [((ground?.x ?? 0) * scale) / fps, ((ground?.z ?? 0) * scale) / fps]
  const here = new Float32Array(2 * n)
  const firm = asked && easedAround(asked, ease)
  for (const [first, ...others] of restsTogether(...rests)) {
    const a = own[first.point],
      b = theirs[first.point]
    const count = first.to - first.from + 1,
      middle = (first.from + first.to) / 2
    // what somebody told to rest does not stir, and other holds fade before it
    const told = asked && [first, ...others].some(r => asked.subarray(r.from, r.to + 1).includes(1))
    const stir = told ? Infinity : stirs
    /** How far the performer's place stirred over the ground from a moment on, what is a mere tremble left out. */
    const stirred = (track: Float32Array, i: number, from: readonly number[], at: number): readonly number[] => {
      const x = scale * track[3 * i] - from[0] - runs[0] * (i - at),
        z = scale * track[3 * i + 2] - from[1] - runs[1] * (i - at)
      const far = Math.hypot(x, z) / stir
      const kept = 1 - Math.exp(-far * far)
      return [runs[0] * (i - at) + kept * x, runs[1] * (i - at) + kept * z]
    }
    const mean = [0, 0],
      theirMean = [0, 0]
    for (let i = first.from; i <= first.to; i++)
      for (const k of [0, 1]) {
        mean[k] += a[3 * i + 2 * k] / count
        theirMean[k] += (scale * b[3 * i + 2 * k]) / count
      }
    for (let i = first.from; i <= first.to; i++) {
      const to = stirred(b, i, theirMean, middle)
      for (const k of [0, 1]) here[2 * i + k] = mean[k] + to[k] - a[3 * i + 2 * k]
    }
    let low = first.from,
      high = first.to
    for (const { from, to, point } of others) {
      // it goes on from where the foot is when the one hands over to the other
      const edge = from < first.from ? first.from : first.to
      const c = own[point],
        d = theirs[point]
      for (let i = from; i <= to; i++) {
        const way = stirred(d, i, [scale * d[3 * edge], scale * d[3 * edge + 2]], edge)
        for (const k of [0, 1]) here[2 * i + k] = here[2 * edge + k] + c[3 * edge + 2 * k] + way[k] - c[3 * i + 2 * k]
      }
      low = Math.min(low, from)
      high = Math.max(high, to)
    }
    for (let i = Math.max(0, low - ease); i <= Math.min(n - 1, high + ease); i++) {
      const out = i < low ? low - i : i > high ? i - high : 0
      const w = smoothly(1 - out / (ease + 1)) * (firm && !told ? 1 - firm[i] : 1)
      // outside of the hold the shift of its nearest end fades
      const k = Math.min(high, Math.max(low, i))
      shifts[3 * i] += w * here[2 * k]
      shifts[3 * i + 2] += w * here[2 * k + 1]
      weights[i] += w
    }
  }
  for (let i = 0; i < n; i++)
    if (weights[i] > 1) {
      // where two holds fade into each other they share
      shifts[3 * i] /= weights[i]
      shifts[3 * i + 2] /= weights[i]
    }
}

/** Keeps feet near the ground as high over it as the performer's, and never under it. Changes `shifts`, 3·N. */
function keepHeights(
  shifts: Float32Array,
  own: readonly Float32Array[],
  theirs: readonly Float32Array[],
  ground: {
    readonly own: readonly number[]
    readonly theirs: readonly number[]
    readonly scale: number
    readonly length: number
    /** How surely a foot was told to rest. */
    readonly asked?: Float32Array
  },
): void {
  const n = shifts.length / 3
  for (let f = 0; f < n; f++) {
    const high = ground.scale * lowest(theirs, ground.theirs, f)
    const is = lowest(own, ground.own, f)
    const firm = ground.asked?.[f] ?? 0
    const wanted = (1 - firm) * Math.max(0, high)
    const near = Math.max(firm, 1 - smoothly((wanted / ground.length - CLOSE) / (AWAY - CLOSE)))
    shifts[3 * f + 1] = Math.max(near * (wanted - is), -is)
  }
}

interface Leg {
  readonly length: number
  readonly shifts: Float32Array
  readonly hip: Float32Array
  readonly ankle: Float32Array
}

/** How far the hips must come down in each frame so that both legs reach where their feet are held; undefined where they do. */
function dropOf(
  legs: readonly Leg[],
  frames: number,
  fps: number,
  lies: Float32Array | undefined,
): Float32Array | undefined {
  const needed = new Float32Array(frames)
  let any = false
  for (const { length, shifts, hip, ankle } of legs) {
    for (let f = 0; f < frames; f++) {
      const i = 3 * f
      if (Math.abs(shifts[i]) + Math.abs(shifts[i + 1]) + Math.abs(shifts[i + 2]) < 1e-6) continue
      const ax = ankle[i] - hip[i],
        ay = ankle[i + 1] - hip[i + 1],
        az = ankle[i + 2] - hip[i + 2]
      const x = ax + shifts[i],
        y = ay + shifts[i + 1],
        z = az + shifts[i + 2]
      const most = Math.max(STRETCH * length, Math.sqrt(ax * ax + ay * ay + az * az))
      const flat = x * x + z * z
      if (flat + y * y <= most * most) continue
      const down = Math.min(DROP * length, -y - Math.sqrt(Math.max(0, most * most - flat)))
      needed[f] = Math.max(needed[f], (1 - (lies?.[f] ?? 0)) * down)
      any = any || needed[f] > 1e-4
    }
  }
  return any ? envelope(needed, Math.max(1, Math.round(1.5 * EASE * fps))) : undefined
}
