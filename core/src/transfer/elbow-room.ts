import { addScaled, conjugate, cross, fromAxisAngle, length, multiply, quatAt, rotate, scale, setQuat, sub, vec3At, type Quat, type Vec3 } from '../math'
import type { Played } from '../ground'
import type { Take } from '../motion'
import { clearOf, intoGirth, outOfGirth, thicknessAt, type Girth, type Girths } from '../skin'
import { SIDES, poseOf, waysTo, worldPoseBuffer, type WorldPose } from '../skeleton'

/** Arms are looked at this often, and opened and closed no faster than over this time. */
const LOOKS_A_SECOND = 15
const EASE = 0.22
/** Most an arm is opened, radians. */
const MOST = 1.2

/** Arms farther off than this are not measured closer, metres. */
const SEEN = 0.3

const BODY = ['hips', 'spine', 'chest', 'upperChest', 'leftUpperLeg', 'rightUpperLeg', 'head'] as const

export interface ElbowRoom {
  readonly take: Take
  /** Smallest distance of each arm from the body before and after, metres; negative inside it. */
  readonly before: { readonly left: number; readonly right: number }
  readonly after: { readonly left: number; readonly right: number }
}

/** A place on an arm that must stay outside the body. */
interface Sample { readonly joint: number; readonly offset: Vec3; readonly radius: number }

/**
 * Keeps arms off the body: where flesh of an arm comes nearer than the room to trunk, head or thighs, the whole arm is turned
 * about its shoulder straight away from there, no more than it must; the turns are spread in time so that arms open and
 * close softly.
 * @param girths of the figure, its rest pose that of `played`
 * @param room metres
 */
export function keepElbowRoom(played: Played, girths: Girths, room: number): ElbowRoom {
  let take = played.take
  const before = { left: Infinity, right: Infinity }
  const after = { left: Infinity, right: Infinity }
  for (const side of SIDES) {
    const first = openArm({ ...played, take }, girths, room, side)
    before[side] = first.nearest
    if (!first.take) {
      after[side] = first.nearest
      continue
    }
    // what the softening took away again is made good once more
    const second = openArm({ ...played, take: first.take }, girths, room, side)
    take = second.take ?? first.take
    after[side] = second.take ? nearestArm({ ...played, take }, girths, side) : second.nearest
  }
  return { take, before, after }
}

/** Smallest distance of an arm from the body over a take, metres. */
export function nearestArm(played: Played, girths: Girths, side: 'left' | 'right'): number {
  return openArm(played, girths, -Infinity, side).nearest
}

function openArm(played: Played, girths: Girths, room: number, side: 'left' | 'right'): { take?: Take; nearest: number } {
  const { skeleton, joints, take } = played
  const shoulder = joints[`${side}UpperArm`]
  const samples = samplesOf(played, girths, side)
  const body = BODY.flatMap(role => (girths[role] ? [girths[role]] : []))
  if (shoulder === undefined || samples.length === 0 || body.length === 0) return { nearest: Infinity }
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [shoulder, ...samples.map(s => s.joint), ...body.map(b => b.joint)])
  const hung = skeleton.parents[shoulder]
  const step = Math.max(1, Math.round(take.fps / LOOKS_A_SECOND))
  const looks = Math.ceil((take.frames - 1) / step) + 1
  const turns = new Float64Array(3 * looks)
  let nearest = Infinity
  let any = false
  for (let i = 0; i < looks; i++) {
    const f = Math.min(take.frames - 1, i * step)
    poseOf(ways, skeleton.parents, take.translations, take.rotations, f * J, pose)
    const { clear, turn } = turnAway(pose, vec3At(pose.positions, shoulder), samples, body, room)
    nearest = Math.min(nearest, clear)
    if (!turn) continue
    any = true
    // told in the space of what the arm hangs on, where it changes little
    const own = hung >= 0 ? rotate(conjugate(quatAt(pose.rotations, hung)), turn) : turn
    for (let k = 0; k < 3; k++) turns[3 * i + k] = own[k]
  }
  if (!any) return { nearest }
  const soft = soften(turns, looks, Math.max(1, Math.round((EASE * take.fps) / step)))
  const rotations = take.rotations.slice()
  for (let f = 0; f < take.frames; f++) {
    const at = Math.min(looks - 1, f / step), i = Math.floor(at), n = Math.min(looks - 1, i + 1), t = at - i
    const w: Vec3 = [0, 1, 2].map(k => (1 - t) * soft[3 * i + k] + t * soft[3 * n + k]) as Vec3
    const angle = length(w)
    if (angle < 1e-6) continue
    // the joint's local turn is told in its parent's space, as the opening is
    setQuat(rotations, f * J + shoulder, multiply(fromAxisAngle(scale(w, 1 / angle), angle), quatAt(take.rotations, f * J + shoulder)))
  }
  return { take: { ...take, rotations }, nearest }
}

function samplesOf({ joints }: Played, girths: Girths, side: 'left' | 'right'): Sample[] {
  const out: Sample[] = []
  const put = (part: string, shares: readonly number[]): void => {
    const girth: Girth | undefined = girths[side + part]
    if (!girth || joints[side + part] === undefined) return
    for (const share of shares) out.push({ joint: girth.joint, offset: rotate(girth.axes, [0, share * girth.bone, 0]), radius: thicknessAt(girth, share) })
  }
  put('UpperArm', [0.8, 1])
  put('LowerArm', [0.33, 0.67, 1])
  put('Hand', [0.5, 1.2])
  return out
}

/** The turn of an arm, as a rotation vector in world space, that brings all of it out to the room; and how near it was. */
function turnAway(pose: WorldPose, shoulder: Vec3, samples: readonly Sample[], body: readonly Girth[], room: number): { clear: number; turn?: Vec3 } {
  const places = samples.map(s => addScaled(vec3At(pose.positions, s.joint), rotate(quatAt(pose.rotations, s.joint), s.offset), 1))
  const frames = body.map(girth => {
    const at = vec3At(pose.positions, girth.joint), turn = quatAt(pose.rotations, girth.joint)
    return { girth, at, turn, centre: addScaled(at, outOfGirth(girth, turn, [0, (girth.low + girth.high) / 2, 0]), 1) }
  })
  const way: Vec3 = [0, 0, 0]
  let total: Quat = [0, 0, 0, 1]
  let first = Infinity
  let turned = false
  for (let round = 0; round < 6; round++) {
    let worst = Infinity
    let at: Vec3 = [0, 0, 0], out: Vec3 = [0, 0, 0]
    samples.forEach((s, i) => {
      const p = round === 0 ? places[i] : addScaled(shoulder, rotate(total, sub(places[i], shoulder)), 1)
      for (const { girth, at: origin, turn, centre } of frames) {
        // what is farther than the whole of this part cannot be nearest
        if (Math.hypot(p[0] - centre[0], p[1] - centre[1], p[2] - centre[2]) - girth.reach - s.radius >= Math.min(worst, Math.max(room, SEEN))) continue
        const clear = clearOf(girth, intoGirth(girth, turn, sub(p, origin)), way) - s.radius
        if (clear >= worst) continue
        worst = clear
        at = p
        out = outOfGirth(girth, turn, way)
      }
    })
    if (round === 0) first = worst
    if (worst >= room - 1e-4) break
    const arm = sub(at, shoulder)
    const axis = cross(arm, out)
    const lever = length(axis)
    if (lever < 0.15 * length(arm) || lever < 1e-6) break
    const angle = Math.min(0.4, (room - worst) / lever)
    total = multiply(fromAxisAngle(scale(axis, 1 / lever), angle), total)
    turned = true
  }
  if (!turned) return { clear: first }
  const sine = Math.hypot(total[0], total[1], total[2])
  const angle = Math.min(MOST, 2 * Math.atan2(sine, Math.abs(total[3])))
  const k = sine > 1e-9 ? (Math.sign(total[3] || 1) * angle) / sine : 0
  return { clear: first, turn: [total[0] * k, total[1] * k, total[2] * k] }
}

/** Spreads turns in time: each reaches out to both sides, the strongest wins, then all is evened out. */
function soften(turns: Float64Array, n: number, reach: number): Float64Array {
  const size = Float64Array.from({ length: n }, (_, i) => Math.hypot(turns[3 * i], turns[3 * i + 1], turns[3 * i + 2]))
  const wide = new Float64Array(3 * n)
  for (let i = 0; i < n; i++) {
    let most = 0, from = i, share = 0
    for (let g = Math.max(0, i - 2 * reach); g <= Math.min(n - 1, i + 2 * reach); g++) {
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
