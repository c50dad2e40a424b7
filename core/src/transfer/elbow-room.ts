import { rotate, rotateAt, rotateBackAt, timesAt } from '../math'
import type { Played } from '../ground'
import type { Take } from '../motion'
import { clearOf, surelyFar, thicknessAt, type Girth, type Girths } from '../skin'
import { SIDES, poseOf, waysTo, worldPoseBuffer } from '../skeleton'

/** Arms are looked at this often, and opened and closed no faster than over this time. */
const LOOKS_A_SECOND = 15
const EASE = 0.26
/** Most an arm is opened, radians; in one go, and how often it is tried. */
const MOST = 1.2, STEP = 0.4, TRIES = 6
/** Times over which arms are opened, as softening takes a little away again. */
const PASSES = 4

/** Arms farther off than this are not measured closer, metres. */
const SEEN = 0.3

const BODY = ['hips', 'spine', 'chest', 'upperChest', 'leftUpperLeg', 'rightUpperLeg', 'head'] as const
/** Places along each part of an arm that must stay outside the body, as shares of its bone. */
const PLACES: readonly (readonly [string, readonly number[]])[] = [['UpperArm', [0.8, 1]], ['LowerArm', [0.33, 0.67, 1]], ['Hand', [0.5, 1.2]]]

type Side = (typeof SIDES)[number]

export interface ElbowRoom {
  readonly take: Take
  /** Smallest distance of each arm from the body before and after, metres; negative inside it. */
  readonly before: { readonly left: number; readonly right: number }
  readonly after: { readonly left: number; readonly right: number }
}

/**
 * Keeps arms off the body: where flesh of an arm comes nearer than the room to trunk, head or thighs, the whole arm is turned
 * about its shoulder straight away from there, no more than it must; the turns are spread in time so that arms open and
 * close softly.
 *
 * Everything is looked at once and kept in flat tables: an arm turned about its shoulder needs no kinematics, so the later
 * passes, which make good what softening took away, and the measuring work on the same tables.
 * @param girths of the figure, its rest pose that of `played`
 * @param room metres
 */
export function keepElbowRoom(played: Played, girths: Girths, room: number): ElbowRoom {
  const { take } = played
  const before = { left: Infinity, right: Infinity }
  const after = { left: Infinity, right: Infinity }
  const seen = look(played, girths)
  let rotations: Float32Array<ArrayBufferLike> = take.rotations
  for (const side of SIDES) {
    const arm = seen.arms[side]
    if (!arm) continue
    const clear = new Float64Array(seen.count)
    const first = openings(seen, arm, clear, undefined, undefined, room)
    before[side] = after[side] = nearestOf(clear)
    if (!first) continue
    let opened = soften(first, seen.count, seen.reach)
    // what softening took away again is made good
    let more: Float64Array | undefined = opened
    for (let pass = 1; pass < PASSES && more; pass++) {
      const still = openings(seen, arm, clear, opened, more, room)
      more = still && soften(still, seen.count, seen.reach)
      if (more) opened = joined(opened, more, seen.count)
    }
    if (more) openings(seen, arm, clear, opened, more, -Infinity)
    after[side] = nearestOf(clear)
    if (rotations === take.rotations) rotations = take.rotations.slice()
    turnArm(rotations, take, played.skeleton.names.length, arm.shoulder, opened, seen)
  }
  return { take: rotations === take.rotations ? take : { ...take, rotations }, before, after }
}

/** Smallest distance of an arm from the body over a take, metres. */
export function nearestArm(played: Played, girths: Girths, side: Side): number {
  const seen = look(played, girths)
  const arm = seen.arms[side]
  const clear = new Float64Array(seen.count)
  if (arm) openings(seen, arm, clear, undefined, undefined, -Infinity)
  return arm ? nearestOf(clear) : Infinity
}

/** The smallest distance; arms that never came as near as they are measured are clear. */
function nearestOf(clear: Float64Array): number {
  let nearest = Infinity
  for (let i = 0; i < clear.length; i++) nearest = Math.min(nearest, clear[i])
  return nearest < SEEN ? nearest : Infinity
}

/** An arm as it was seen: places told from the shoulder, in world axes. */
interface Arm {
  readonly shoulder: number
  /** Samples, and how thick the arm is at each. */
  readonly radii: Float64Array
  /** Per look: the shoulder, then 3 numbers a sample from there. */
  readonly places: Float64Array
  /** Per look: world turn of what the arm hangs on. */
  readonly hung: Float64Array
}

interface Seen {
  readonly count: number
  /** Frames between two looks, and looks over which turns are spread. */
  readonly step: number
  readonly reach: number
  readonly parts: readonly Girth[]
  /** Per look and part: world to table axes, 9 numbers row by row; where the part's joint is, 3; the middle of its table, 3. */
  readonly frames: Float64Array
  readonly arms: Readonly<Record<Side, Arm | undefined>>
}
const FRAME = 15

/** Goes through a take once and writes down where the parts of the body and both arms are. */
function look({ skeleton, joints, take }: Played, girths: Girths): Seen {
  const parts = BODY.flatMap(role => (girths[role] ? [girths[role]] : []))
  const J = skeleton.names.length
  const step = Math.max(1, Math.round(take.fps / LOOKS_A_SECOND))
  const count = Math.ceil((take.frames - 1) / step) + 1
  const samples = SIDES.map(side => PLACES.flatMap(([part, shares]) => {
    const girth: Girth | undefined = girths[side + part]
    if (!girth || joints[side + part] === undefined) return []
    return shares.map(share => ({ joint: girth.joint, offset: rotate(girth.axes, [0, share * girth.bone, 0]), radius: thicknessAt(girth, share) }))
  }))
  const arms = SIDES.map((side, i): Arm | undefined => {
    const shoulder = joints[`${side}UpperArm`]
    if (shoulder === undefined || samples[i].length === 0 || parts.length === 0) return undefined
    return { shoulder, radii: Float64Array.from(samples[i], s => s.radius), places: new Float64Array(count * 3 * (1 + samples[i].length)), hung: new Float64Array(4 * count) }
  })
  const frames = new Float64Array(count * parts.length * FRAME)
  const ways = waysTo(skeleton, [...arms.map(a => a?.shoulder), ...samples.flatMap(list => list.map(s => s.joint)), ...parts.map(p => p.joint)])
  const pose = worldPoseBuffer(J)
  const P = pose.positions, R = pose.rotations
  const offsets = samples.map(list => Float64Array.from(list.flatMap(s => s.offset)))
  const sampleJoints = samples.map(list => Int32Array.from(list, s => s.joint))
  const axes = Float64Array.from(parts.flatMap(p => [...p.axes]))
  const table = new Float64Array(4)
  for (let i = 0; i < count; i++) {
    poseOf(ways, skeleton.parents, take.translations, take.rotations, Math.min(take.frames - 1, i * step) * J, pose)
    for (let k = 0; k < parts.length; k++) {
      timesAt(table, 0, R, 4 * parts[k].joint, axes, 4 * k)
      writeFrame(frames, FRAME * (i * parts.length + k), P, 3 * parts[k].joint, table, (parts[k].low + parts[k].high) / 2)
    }
    for (let a = 0; a < 2; a++) {
      const arm = arms[a]
      if (!arm) continue
      const s = 3 * arm.shoulder, list = sampleJoints[a], n = list.length
      let o = 3 * i * (1 + n)
      const sx = P[s], sy = P[s + 1], sz = P[s + 2]
      arm.places[o] = sx
      arm.places[o + 1] = sy
      arm.places[o + 2] = sz
      for (let m = 0; m < n; m++) {
        o += 3
        const p = 3 * list[m]
        rotateAt(arm.places, o, R, 4 * list[m], offsets[a][3 * m], offsets[a][3 * m + 1], offsets[a][3 * m + 2])
        arm.places[o] += P[p] - sx
        arm.places[o + 1] += P[p + 1] - sy
        arm.places[o + 2] += P[p + 2] - sz
      }
      const above = skeleton.parents[arm.shoulder]
      for (let c = 0; c < 4; c++) arm.hung[4 * i + c] = above < 0 ? (c === 3 ? 1 : 0) : R[4 * above + c]
    }
  }
  return { count, step, reach: Math.max(1, Math.round((EASE * take.fps) / step)), parts, frames, arms: { left: arms[0], right: arms[1] } }
}

/** World to table axes as a matrix, the joint's place, and the middle of the table. */
function writeFrame(out: Float64Array, o: number, P: Float64Array, p: number, q: Float64Array, middle: number): void {
  const x = q[0], y = q[1], z = q[2], w = q[3]
  out[o] = 1 - 2 * (y * y + z * z)
  out[o + 1] = 2 * (x * y + w * z)
  out[o + 2] = 2 * (x * z - w * y)
  out[o + 3] = 2 * (x * y - w * z)
  out[o + 4] = 1 - 2 * (x * x + z * z)
  out[o + 5] = 2 * (y * z + w * x)
  out[o + 6] = 2 * (x * z + w * y)
  out[o + 7] = 2 * (y * z - w * x)
  out[o + 8] = 1 - 2 * (x * x + y * y)
  out[o + 9] = P[p]
  out[o + 10] = P[p + 1]
  out[o + 11] = P[p + 2]
  // the table's own y axis in the world is its middle row
  out[o + 12] = P[p] + middle * out[o + 3]
  out[o + 13] = P[p + 1] + middle * out[o + 4]
  out[o + 14] = P[p + 2] + middle * out[o + 5]
}

/**
 * What an arm needs at each look beyond what it was opened already, told in the space of what it hangs on.
 * @param clear receives how near the arm is at each look, or at least is
 * @param changed where the arm was opened since it was looked at last; undefined looks everywhere
 * @returns undefined where it needs nothing
 */
function openings(seen: Seen, arm: Arm, clear: Float64Array, opened: Float64Array | undefined, changed: Float64Array | undefined, room: number): Float64Array | undefined {
  const { count } = seen
  const n = arm.radii.length
  const turns = new Float64Array(3 * count)
  const total = new Float64Array(4)
  const start = new Float64Array(4)
  const places = new Float64Array(3 * n)
  const found: Worst = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  let nearest = SEEN
  let any = false
  for (let i = 0; i < count; i++) {
    if (changed && changed[3 * i] === 0 && changed[3 * i + 1] === 0 && changed[3 * i + 2] === 0) continue
    const at = 3 * i * (1 + n)
    fromVector(start, opened, 3 * i)
    if (opened) inWorld(start, arm.hung, 4 * i)
    for (let m = 0; m < n; m++) rotateAt(places, 3 * m, start, 0, arm.places[at + 3 + 3 * m], arm.places[at + 4 + 3 * m], arm.places[at + 5 + 3 * m])
    total[0] = total[1] = total[2] = 0
    total[3] = 1
    let moved = false
    for (let round = 0; round < TRIES; round++) {
      worstOf(found, seen, i, arm, at, places, Math.max(room, round === 0 ? nearest : -Infinity))
      if (round === 0) {
        clear[i] = found.clear
        if (found.clear < nearest) nearest = found.clear
      }
      if (!(found.clear < room - 1e-4)) break
      const s = 3 * found.sample
      const ax = places[s], ay = places[s + 1], az = places[s + 2]
      const cx = ay * found.z - az * found.y, cy = az * found.x - ax * found.z, cz = ax * found.y - ay * found.x
      const lever = Math.sqrt(cx * cx + cy * cy + cz * cz)
      if (lever < 0.15 * Math.sqrt(ax * ax + ay * ay + az * az) || lever < 1e-6) break
      const half = Math.min(STEP, (room - found.clear) / lever) / 2
      const k = Math.sin(half) / lever, w = Math.cos(half)
      thenTurn(total, cx * k, cy * k, cz * k, w)
      for (let m = 0; m < n; m++) {
        start[0] = cx * k
        start[1] = cy * k
        start[2] = cz * k
        start[3] = w
        rotateAt(places, 3 * m, start, 0, places[3 * m], places[3 * m + 1], places[3 * m + 2])
      }
      moved = true
    }
    if (!moved) continue
    any = true
    toVector(turns, 3 * i, total, arm.hung, 4 * i)
  }
  return any ? turns : undefined
}

interface Worst { clear: number; sample: number; x: number; y: number; z: number }

/** The place of an arm that is nearest to the body, and the way out from there in world axes; nothing farther than `limit` is looked for. */
function worstOf(out: Worst, { parts, frames }: Seen, i: number, arm: Arm, at: number, places: Float64Array, limit: number): void {
  const { radii } = arm
  const sx = arm.places[at], sy = arm.places[at + 1], sz = arm.places[at + 2]
  let least = limit, sample = 0, part = -1
  for (let k = 0; k < parts.length; k++) {
    const o = FRAME * (i * parts.length + k)
    const girth = parts[k]
    const { reach } = girth
    const cx = sx - frames[o + 12], cy = sy - frames[o + 13], cz = sz - frames[o + 14]
    const px = sx - frames[o + 9], py = sy - frames[o + 10], pz = sz - frames[o + 11]
    const yx = frames[o + 3], yy = frames[o + 4], yz = frames[o + 5]
    for (let m = 0; m < radii.length; m++) {
      const x = places[3 * m], y = places[3 * m + 1], z = places[3 * m + 2]
      // what is farther than the whole of this part cannot be nearest
      const far = reach + radii[m] + least
      const dx = cx + x, dy = cy + y, dz = cz + z
      if (far <= 0 || dx * dx + dy * dy + dz * dz >= far * far) continue
      const qx = px + x, qy = py + y, qz = pz + z
      const ty = yx * qx + yy * qy + yz * qz
      if (surelyFar(girth, ty, qx * qx + qy * qy + qz * qz - ty * ty, least + radii[m])) continue
      const clear = clearOf(girth, frames[o] * qx + frames[o + 1] * qy + frames[o + 2] * qz, ty, frames[o + 6] * qx + frames[o + 7] * qy + frames[o + 8] * qz) - radii[m]
      if (clear >= least) continue
      least = clear
      sample = m
      part = k
    }
  }
  out.clear = least
  if (part < 0) return
  const o = FRAME * (i * parts.length + part)
  const qx = sx + places[3 * sample] - frames[o + 9], qy = sy + places[3 * sample + 1] - frames[o + 10], qz = sz + places[3 * sample + 2] - frames[o + 11]
  const tx = frames[o] * qx + frames[o + 1] * qy + frames[o + 2] * qz, tz = frames[o + 6] * qx + frames[o + 7] * qy + frames[o + 8] * qz
  const r = Math.sqrt(tx * tx + tz * tz)
  const ux = r > 1e-6 ? tx / r : 1, uz = r > 1e-6 ? tz / r : 0
  out.sample = sample
  out.x = frames[o] * ux + frames[o + 6] * uz
  out.y = frames[o + 1] * ux + frames[o + 7] * uz
  out.z = frames[o + 2] * ux + frames[o + 8] * uz
}

/** Two openings one after the other, as rotation vectors. */
function joined(first: Float64Array, second: Float64Array, n: number): Float64Array {
  const out = new Float64Array(3 * n)
  const a = new Float64Array(4), b = new Float64Array(4)
  const none = Float64Array.of(0, 0, 0, 1)
  for (let i = 0; i < n; i++) {
    fromVector(a, first, 3 * i)
    fromVector(b, second, 3 * i)
    thenTurn(a, b[0], b[1], b[2], b[3])
    toVector(out, 3 * i, a, none, 0)
  }
  return out
}

/** Turns the shoulder in every frame, between two looks in proportion. */
function turnArm(rotations: Float32Array, take: Take, J: number, shoulder: number, turns: Float64Array, { count, step: every }: Seen): void {
  const between = new Float64Array(3), q = new Float64Array(4)
  for (let f = 0; f < take.frames; f++) {
    const at = Math.min(count - 1, f / every), i = Math.floor(at), n = Math.min(count - 1, i + 1), t = at - i
    for (let k = 0; k < 3; k++) between[k] = (1 - t) * turns[3 * i + k] + t * turns[3 * n + k]
    if (between[0] * between[0] + between[1] * between[1] + between[2] * between[2] < 1e-12) continue
    fromVector(q, between, 0)
    // the joint's local turn is told in its parent's space, as the opening is
    const r = 4 * (f * J + shoulder)
    const ax = q[0], ay = q[1], az = q[2], aw = q[3], bx = rotations[r], by = rotations[r + 1], bz = rotations[r + 2], bw = rotations[r + 3]
    rotations[r] = aw * bx + ax * bw + ay * bz - az * by
    rotations[r + 1] = aw * by - ax * bz + ay * bw + az * bx
    rotations[r + 2] = aw * bz + ax * by - ay * bx + az * bw
    rotations[r + 3] = aw * bw - ax * bx - ay * by - az * bz
  }
}

/** The turn of a rotation vector; none where there is no vector. */
function fromVector(out: Float64Array, v: Float64Array | undefined, o: number): void {
  const x = v ? v[o] : 0, y = v ? v[o + 1] : 0, z = v ? v[o + 2] : 0
  const angle = Math.sqrt(x * x + y * y + z * z)
  const k = angle > 1e-9 ? Math.sin(angle / 2) / angle : 0.5
  out[0] = x * k
  out[1] = y * k
  out[2] = z * k
  out[3] = Math.cos(angle / 2)
}

/** A world turn as a rotation vector in the space of what the arm hangs on, never more than the most. */
function toVector(out: Float64Array, o: number, q: Float64Array, hung: Float64Array, h: number): void {
  const sine = Math.sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2])
  const angle = Math.min(MOST, 2 * Math.atan2(sine, Math.abs(q[3])))
  const k = sine > 1e-9 ? ((q[3] < 0 ? -1 : 1) * angle) / sine : 0
  rotateBackAt(out, o, hung, h, q[0] * k, q[1] * k, q[2] * k)
}

/** q ← hung · q · hung⁻¹ */
function inWorld(q: Float64Array, hung: Float64Array, h: number): void {
  // the axis turns, the angle stays
  const w = q[3]
  rotateAt(q, 0, hung, h, q[0], q[1], q[2])
  q[3] = w
}

/** q ← [x, y, z, w] · q */
function thenTurn(q: Float64Array, x: number, y: number, z: number, w: number): void {
  const bx = q[0], by = q[1], bz = q[2], bw = q[3]
  q[0] = w * bx + x * bw + y * bz - z * by
  q[1] = w * by - x * bz + y * bw + z * bx
  q[2] = w * bz + x * by - y * bx + z * bw
  q[3] = w * bw - x * bx - y * by - z * bz
}

/** Spreads turns in time: each reaches out to both sides, the strongest wins, then all is evened out. */
function soften(turns: Float64Array, n: number, reach: number): Float64Array {
  const size = new Float64Array(n)
  for (let i = 0; i < n; i++) size[i] = Math.sqrt(turns[3 * i] ** 2 + turns[3 * i + 1] ** 2 + turns[3 * i + 2] ** 2)
  const wide = new Float64Array(3 * n)
  for (let i = 0; i < n; i++) {
    let most = 0, from = i, share = 0
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
