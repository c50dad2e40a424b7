import { rotateAt, rotateBackAt, timesAt } from '../math'
import type { Played, Take } from '../motion'
import type { BodyRadii, BodySurface } from '../surface'
import { SIDES } from '../body'
import { exactLook, fromVector, least, look, openedAt, placesAt, TOUCHES, type ExactLook } from './arm-nearness'
import { smoothly } from './in-time'
import { sampleArms, nearestPlace, SEEN, type Arm, type Nearest, type Seen } from './arm-samples'

/** Arms are opened and closed no faster than over this time, seconds. */
const EASE = 0.26
/** Most an arm is opened, radians; in one go, and how often it is tried. */
const MOST = 1.2,
  STEP = 0.4,
  TRIES = 6
/** Deeper than this share of its thickness an arm is in the body and does not merely touch it. */
const LIGHT = 0.3
/** An opening that gains less than this share of what is missing is not worth it; one that leaves an arm deeper by this at any look is taken back, metres. */
const GAIN = 0.3,
  WORSE = 0.003
/** Times over which arms are opened, as softening takes a little away again. */
const PASSES = 4

type Side = (typeof SIDES)[number]

export interface ArmClearance {
  readonly take: Take
  /** Smallest distance of each arm from the body's own surface before and after, metres; negative inside it. */
  readonly before: { readonly left: number; readonly right: number }
  readonly after: { readonly left: number; readonly right: number }
}

/** The performer's own arms, which tell how near the figure's may come. */
export interface OtherArms {
  readonly played: Played
  readonly radii: BodyRadii
  /** The figure's size over the performer's. */
  readonly scale: number
}

/**
 * Keeps arms off the body: where flesh of an arm comes nearer than the room to trunk, head or thighs, the whole arm is turned
 * about its shoulder straight away from there, no more than it must; the turns are spread in time so that arms open and
 * close softly. Tables around the bones tell what is near at all; where they do, the skinned surface itself tells how near.
 * An arm that the performer had as near to the own body is left there.
 *
 * Everything is looked at once and kept in flat tables: an arm turned about its shoulder needs no kinematics, so the later
 * passes, which make good what softening took away, and the measuring work on the same tables.
 * @param surface of the figure, its rest pose that of `played`
 * @param room metres
 * @param performer left out, arms keep the room whatever the performer did
 */
export function keepArmsClear(played: Played, surface: BodySurface, room: number, performer?: OtherArms): ArmClearance {
  const { take } = played
  const before = { left: Infinity, right: Infinity }
  const after = { left: Infinity, right: Infinity }
  const seen = sampleArms(played, surface.radii)
  const exactly = surface.exact && exactLook(seen, surface.exact)
  const reach = Math.max(1, Math.round((EASE * take.fps) / seen.step))
  let rotations: Float32Array<ArrayBufferLike> = take.rotations
  let theirs: Seen | undefined
  const light = performer !== undefined && room <= TOUCHES
  for (const side of SIDES) {
    const arm = seen.arms[side]
    if (!arm) continue
    const clear = new Float64Array(seen.count)
    const asked = new Float64Array(seen.count).fill(room)
    look(seen, arm, clear, undefined, undefined, room)
    before[side] = after[side] = least(arm, clear, undefined, exactly)
    if (before[side] >= room) continue
    if (performer) {
      theirs ??= sampleArms(performer.played, performer.radii)
      askAsPerformed(asked, clear, theirs, side, performer.scale)
    }
    const first = openings(seen, arm, exactly, clear, undefined, undefined, asked, light)
    if (!first) continue
    let opened = soften(first, seen.count, reach)
    // what softening took away again is made good
    let more: Float64Array | undefined = opened
    for (let pass = 1; pass < PASSES && more; pass++) {
      const still = openings(seen, arm, exactly, clear, opened, more, asked, light)
      more = still && soften(still, seen.count, reach)
      if (more) opened = joined(opened, more, seen.count)
    }
    if (more) look(seen, arm, clear, opened, more, -Infinity)
    takeBack(opened, seen, arm, exactly)
    after[side] = least(arm, clear, opened, exactly)
    if (rotations === take.rotations) rotations = take.rotations.slice()
    turnArm(rotations, take, played.skeleton.names.length, arm.shoulder, opened, seen)
  }
  return { take: rotations === take.rotations ? take : { ...take, rotations }, before, after }
}

/** Takes back every stretch of an opening in which the arm is deeper in the body than it was: a softly opened arm sweeps through what lies beside it. */
function takeBack(opened: Float64Array, seen: Seen, arm: Arm, exactly: ExactLook | undefined): void {
  const n = arm.radii.length
  const turn = new Float64Array(4)
  const places = new Float64Array(3 * n)
  const found: Nearest = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  const clearAt = (i: number, turns: Float64Array | undefined): number => {
    placesAt(places, turn, arm, i, turns)
    nearestPlace(found, seen, i, arm, 3 * i * (1 + n), places, 0)
    if (found.clear < 0 && exactly) exactly(found, i, arm, 3 * i * (1 + n), places, 0)
    return Math.min(0, found.clear)
  }
  for (let i = 0; i < seen.count; i++) {
    if (!openedAt(opened, i)) continue
    let end = i
    while (end + 1 < seen.count && openedAt(opened, end + 1)) end++
    for (let k = i; k <= end; k++)
      if (clearAt(k, opened) < clearAt(k, undefined) - WORSE) {
        opened.fill(0, 3 * i, 3 * end + 3)
        break
      }
    i = end
  }
}

/** Lowers what is asked of an arm by as much as the performer's was nearer than what just clears the body. */
function askAsPerformed(asked: Float64Array, clear: Float64Array, theirs: Seen, side: Side, scale: number): void {
  const arm = theirs.arms[side]
  if (!arm) return
  const n = arm.radii.length
  const found: Nearest = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  for (let i = 0; i < asked.length; i++) {
    if (clear[i] >= asked[i]) continue
    const at = 3 * i * (1 + n)
    nearestPlace(found, theirs, i, arm, at, arm.places.subarray(at + 3, at + 3 + 3 * n), TOUCHES / scale)
    if (scale * found.clear < TOUCHES) asked[i] += scale * found.clear - TOUCHES
  }
}

/**
 * What an arm needs at each look beyond what it was opened already, told in the space of what it hangs on.
 * @param clear receives how near the arm is at each look
 * @param changed where the arm was opened since it was looked at last; undefined looks everywhere
 * @param asked the room at each look
 * @param light arms that hardly touch the body are let be
 * @returns undefined where it needs nothing
 */
function openings(
  seen: Seen,
  arm: Arm,
  exactly: ExactLook | undefined,
  clear: Float64Array,
  opened: Float64Array | undefined,
  changed: Float64Array | undefined,
  asked: Float64Array,
  light: boolean,
): Float64Array | undefined {
  const { count } = seen
  const n = arm.radii.length
  const turns = new Float64Array(3 * count)
  const total = new Float64Array(4)
  const kept = new Float64Array(4)
  const turn = new Float64Array(4)
  const places = new Float64Array(3 * n)
  const found: Nearest = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  let any = false
  for (let i = 0; i < count; i++) {
    if (changed ? !openedAt(changed, i) : clear[i] >= asked[i]) continue
    const room = asked[i]
    const at = 3 * i * (1 + n)
    placesAt(places, turn, arm, i, opened)
    total[0] = total[1] = total[2] = 0
    total[3] = 1
    let moved = false
    let start = 0,
      best = -Infinity
    kept.set(total)
    for (let round = 0; round < TRIES; round++) {
      nearestPlace(found, seen, i, arm, at, places, round === 0 ? SEEN : room)
      if (round === 0) clear[i] = found.clear
      // what the tables, which hold the outermost flesh, call near is measured on the surface itself
      if (found.clear < room && exactly) exactly(found, i, arm, at, places, room)
      if (round === 0) start = found.clear
      // an arm that leaves one part for another is no better off: the best it came to is taken
      if (found.clear > best) {
        best = found.clear
        kept.set(total)
      }
      if (!(found.clear < room - 1e-4)) break
      const s = 3 * found.sample
      const ax = places[s],
        ay = places[s + 1],
        az = places[s + 2]
      const cx = ay * found.z - az * found.y,
        cy = az * found.x - ax * found.z,
        cz = ax * found.y - ay * found.x
      const lever = Math.sqrt(cx * cx + cy * cy + cz * cz)
      if (lever < 0.15 * Math.sqrt(ax * ax + ay * ay + az * az) || lever < 1e-6) break
      // where arms need but clear the body, what hardly touches it is let be
      const firm = light ? smoothly(-found.clear / (LIGHT * arm.radii[found.sample])) : 1
      if (firm <= 0) break
      const half = (firm * Math.min(STEP, (room - found.clear) / lever)) / 2
      const k = Math.sin(half) / lever
      turn[0] = cx * k
      turn[1] = cy * k
      turn[2] = cz * k
      turn[3] = Math.cos(half)
      timesAt(total, 0, turn, 0, total, 0)
      for (let m = 0; m < n; m++) rotateAt(places, 3 * m, turn, 0, places[3 * m], places[3 * m + 1], places[3 * m + 2])
      moved = true
    }
    if (!moved || best < start + GAIN * (room - start)) continue
    any = true
    toVector(turns, 3 * i, kept, arm.hung, 4 * i)
  }
  return any ? turns : undefined
}

/** Two openings one after the other, as rotation vectors. */
function joined(first: Float64Array, second: Float64Array, n: number): Float64Array {
  const out = new Float64Array(3 * n)
  const a = new Float64Array(4),
    b = new Float64Array(4)
  const none = Float64Array.of(0, 0, 0, 1)
  for (let i = 0; i < n; i++) {
    fromVector(a, first, 3 * i)
    fromVector(b, second, 3 * i)
    timesAt(a, 0, b, 0, a, 0)
    toVector(out, 3 * i, a, none, 0)
  }
  return out
}

/** Turns the shoulder in every frame, between two looks in proportion. */
function turnArm(
  rotations: Float32Array,
  take: Take,
  J: number,
  shoulder: number,
  turns: Float64Array,
  { count, step: every }: Seen,
): void {
  const between = new Float64Array(3),
    q = new Float64Array(4)
  for (let f = 0; f < take.frames; f++) {
    const at = Math.min(count - 1, f / every),
      i = Math.floor(at),
      n = Math.min(count - 1, i + 1),
      t = at - i
    for (let k = 0; k < 3; k++) between[k] = (1 - t) * turns[3 * i + k] + t * turns[3 * n + k]
    if (between[0] * between[0] + between[1] * between[1] + between[2] * between[2] < 1e-12) continue
    fromVector(q, between, 0)
    // the joint's local turn is told in its parent's space, as the opening is
    const r = 4 * (f * J + shoulder)
    const ax = q[0],
      ay = q[1],
      az = q[2],
      aw = q[3],
      bx = rotations[r],
      by = rotations[r + 1],
      bz = rotations[r + 2],
      bw = rotations[r + 3]
    rotations[r] = aw * bx + ax * bw + ay * bz - az * by
    rotations[r + 1] = aw * by - ax * bz + ay * bw + az * bx
    rotations[r + 2] = aw * bz + ax * by - ay * bx + az * bw
    rotations[r + 3] = aw * bw - ax * bx - ay * by - az * bz
  }
}

/** A world turn as a rotation vector in the space of what the arm hangs on, never more than the most. */
function toVector(out: Float64Array, o: number, q: Float64Array, hung: Float64Array, h: number): void {
  const sine = Math.sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2])
  const angle = Math.min(MOST, 2 * Math.atan2(sine, Math.abs(q[3])))
  const k = sine > 1e-9 ? ((q[3] < 0 ? -1 : 1) * angle) / sine : 0
  rotateBackAt(out, o, hung, h, q[0] * k, q[1] * k, q[2] * k)
}

/** Spreads turns in time: each reaches out to both sides, the strongest wins, then all is evened out. */
function soften(turns: Float64Array, n: number, reach: number): Float64Array {
  const size = new Float64Array(n)
  for (let i = 0; i < n; i++) size[i] = Math.sqrt(turns[3 * i] ** 2 + turns[3 * i + 1] ** 2 + turns[3 * i + 2] ** 2)
  const wide = new Float64Array(3 * n)
  for (let i = 0; i < n; i++) {
    let most = 0,
      from = i,
      share = 0
    for (let g = Math.max(0, i - 2 * reach); g <= Math.min(n - 1, i + 2 * reach); g++) {
      if (size[g] === 0) continue
      const t = Math.max(0, 1 - Math.max(0, Math.abs(g - i) - reach) / (reach + 1))
      const w = t * t * (3 - 2 * t)
      if (size[g] * w > most) {
        most = size[g] * w
        from = g
        share = w
      }
    }
    for (let k = 0; k < 3; k++) wide[3 * i + k] = turns[3 * from + k] * share
  }
  const out = new Float64Array(3 * n)
  for (let i = 0; i < n; i++) {
    let weight = 0
    for (let g = Math.max(0, i - reach); g <= Math.min(n - 1, i + reach); g++) {
      const w = 1 + reach - Math.abs(g - i)
      for (let k = 0; k < 3; k++) out[3 * i + k] += w * wide[3 * g + k]
      weight += w
    }
    for (let k = 0; k < 3; k++) out[3 * i + k] /= weight
  }
  return out
}
