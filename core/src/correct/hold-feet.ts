import { conjugate, distance, rotate, vec3At, type Vec3 } from '../math'
import { type Take, createLimbSolver, limbOf, type Contacts, tracksOf, type Played, type Tracks } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { ballRole, kneeWay, legsOf } from '../body'

/** Seconds over which a foot eases into and out of its hold. */
const EASE = 0.16

const LEG = ['UpperLeg', 'LowerLeg', 'Foot'] as const

/** Share of a leg's length it may be stretched to before the hips come down to it. */
const STRETCH = 0.985
/** A contact within this of the ground, in leg lengths, is on the ground. */
const NEAR = 0.05
/** Most the hips come down, in leg lengths. */
const DROP = 0.15

/** What {@link holdFeet} follows through a take. */
export const heldRoles = (joints: Readonly<Record<string, number>>): string[] =>
  legsOf(joints).flatMap(leg => [`${leg}UpperLeg`, `${leg}Foot`, ballRole(joints, leg)])

/**
 * Holds resting feet where they came down and keeps both feet out of the ground: each contact keeps the mean place of
 * the ball of the foot, at its standing height; the leg is solved anew as two bones with its knee in the plane it had, and the
 * foot keeps its turn. Corrections ease in and out around each contact (after Kovar, Schreiner and Gleicher 2002,
 * "Footskate cleanup for motion capture editing", without their bone stretching).
 * Where a leg is too short for its place the hips come down as little as they must.
 * @param tracks of {@link heldRoles}, where they are at hand
 */
export function holdFeet(
  played: Played,
  contacts: Contacts,
  tracks: Tracks = tracksOf(played, heldRoles(played.joints)),
): Take {
  const { skeleton, joints, take, frame } = played
  const rest = worldPose(skeleton)
  const up = (j: number): number => rotate(frame, vec3At(rest.positions, j))[1]
  // a rest pose that hangs in the air does not tell the height of the ground
  const stands =
    up(joints.hips) >
    0.3 * distance(vec3At(rest.positions, joints.hips), vec3At(rest.positions, joints[`${legsOf(joints).at(-1)}Foot`]))
  const back = conjugate(frame)
  const legs = legsOf(joints).flatMap(leg => {
    const role = ballRole(joints, leg)
    const chain = LEG.map(p => joints[leg + p])
    const track = tracks[role]
    if (!track || !contacts[leg] || chain.some(j => j === undefined)) return []
    const length =
      distance(vec3At(rest.positions, chain[0]), vec3At(rest.positions, chain[1])) +
      distance(vec3At(rest.positions, chain[1]), vec3At(rest.positions, chain[2]))
    const shifts = shiftsOf(track, contacts[leg], take.fps, stands ? up(joints[role]) : undefined, NEAR * length)
    return [
      {
        limb: limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))),
        length,
        shifts,
        hip: tracks[`${leg}UpperLeg`]!,
        ankle: tracks[`${leg}Foot`]!,
      },
    ]
  })
  const drop = dropOf(legs, take.frames, take.fps)
  const root = rootAbove(skeleton, joints.hips)
  const translations = drop ? take.translations.slice() : take.translations
  const rotations = take.rotations.slice()
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(
    skeleton,
    legs.map(l => l.limb.end),
  )
  const solver = createLimbSolver(skeleton)
  const [qx, qy, qz, qw] = back
  const down = rotate(back, [0, -1, 0])
  for (let f = 0; f < take.frames; f++) {
    let posed = false
    const lower = drop?.[f] ?? 0
    if (lower > 0) for (let k = 0; k < 3; k++) translations[3 * (f * J + root) + k] += lower * down[k]
    for (const { limb, shifts } of legs) {
      const x = shifts[3 * f],
        y = shifts[3 * f + 1] + lower,
        z = shifts[3 * f + 2]
      if (x * x + y * y + z * z < 1e-12) continue
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

/**
 * How far the ball of a foot must move in each frame, 3·N: onto its place while it rests, fading around it, and never
 * below the height it stands at.
 * @param near how near the ground a contact counts as on it
 */
function shiftsOf(
  track: Float32Array,
  flags: Uint8Array,
  fps: number,
  floor: number | undefined,
  near: number,
): Float32Array {
  const n = flags.length
  const shifts = new Float32Array(3 * n)
  const weights = new Float32Array(n)
  const ease = Math.max(1, Math.round(EASE * fps))
  for (let f = 0; f < n; f++) {
    if (!flags[f]) continue
    let end = f
    while (end + 1 < n && flags[end + 1]) end++
    const mean: Vec3 = [0, 0, 0]
    for (let i = f; i <= end; i++) for (let k = 0; k < 3; k++) mean[k] += track[3 * i + k] / (end - f + 1)
    // a foot that rests higher up, on a step or a rung, rests there
    if (floor !== undefined && Math.abs(mean[1] - floor) < near) mean[1] = floor
    for (let i = Math.max(0, f - ease); i <= Math.min(n - 1, end + ease); i++) {
      const out = i < f ? f - i : i > end ? i - end : 0
      const t = 1 - out / (ease + 1)
      const w = t * t * (3 - 2 * t)
      // outside of the hold the shift of its nearest end fades
      const from = 3 * Math.min(end, Math.max(f, i))
      for (let k = 0; k < 3; k++) shifts[3 * i + k] += w * (mean[k] - track[from + k])
      weights[i] += w
    }
    f = end
  }
  for (let i = 0; i < n; i++) {
    // where two holds fade into each other their sum is shared
    const share = weights[i] > 1 ? 1 / weights[i] : 1
    for (let k = 0; k < 3; k++) shifts[3 * i + k] *= share
    if (floor !== undefined) shifts[3 * i + 1] += Math.max(0, floor - (track[3 * i + 1] + shifts[3 * i + 1]))
  }
  return shifts
}

interface Leg {
  readonly length: number
  readonly shifts: Float32Array
  readonly hip: Float32Array
  readonly ankle: Float32Array
}

/** How far the hips must come down in each frame so that both legs reach where their feet are held; undefined where they do. */
function dropOf(legs: readonly Leg[], frames: number, fps: number): Float32Array | undefined {
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
      needed[f] = Math.max(needed[f], Math.min(DROP * length, -y - Math.sqrt(Math.max(0, most * most - flat))))
      any = any || needed[f] > 1e-4
    }
  }
  return any ? envelope(needed, Math.max(1, Math.round(1.5 * EASE * fps))) : undefined
}

/** A smooth curve that stays over the values: each reaches out over `reach` frames to both sides, then all is evened out. */
function envelope(values: Float32Array, reach: number): Float32Array {
  const n = values.length
  const over = new Float32Array(n)
  for (let f = 0; f < n; f++) {
    if (values[f] <= 0) continue
    for (let g = Math.max(0, f - 2 * reach); g <= Math.min(n - 1, f + 2 * reach); g++) {
      const t = Math.max(0, 1 - Math.max(0, Math.abs(g - f) - reach) / (reach + 1))
      over[g] = Math.max(over[g], values[f] * t * t * (3 - 2 * t))
    }
  }
  const out = new Float32Array(n)
  const half = Math.ceil(reach / 2)
  for (let f = 0; f < n; f++) {
    let sum = 0,
      weight = 0
    for (let g = Math.max(0, f - half); g <= Math.min(n - 1, f + half); g++) {
      const w = 1 + half - Math.abs(g - f)
      sum += w * over[g]
      weight += w
    }
    out[f] = sum / weight
  }
  return out
}
