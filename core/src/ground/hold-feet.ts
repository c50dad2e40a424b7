import { conjugate, distance, rotate, vec3At, type Vec3 } from '../math'
import type { Take } from '../motion'
import { createLimbSolver, limbOf, poseOf, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import type { Contacts } from './contacts'
import { ballRole, tracksOf, type Played, type Tracks } from './tracks'

/** Seconds over which a foot eases into and out of its hold. */
const EASE = 0.16

const SIDES = ['left', 'right'] as const
const LEG = ['UpperLeg', 'LowerLeg', 'Foot'] as const

/**
 * Holds resting feet where they came down and keeps both feet out of the ground: each contact keeps the mean place of
 * the ball of the foot, at its standing height; the leg is solved anew as two bones with its knee in the plane it had, and the
 * foot keeps its turn. Corrections ease in and out around each contact (after Kovar, Schreiner and Gleicher 2002,
 * "Footskate cleanup for motion capture editing", without their bone stretching).
 * @param tracks of the balls of both feet, where they are at hand
 */
export function holdFeet(played: Played, contacts: Contacts, tracks: Tracks = tracksOf(played, SIDES.map(s => ballRole(played.joints, s)))): Take {
  const { skeleton, joints, take, frame } = played
  const rest = worldPose(skeleton)
  const up = (j: number): number => rotate(frame, vec3At(rest.positions, j))[1]
  // a rest pose that hangs in the air does not tell the height of the ground
  const stands = up(joints.hips) > 0.3 * distance(vec3At(rest.positions, joints.hips), vec3At(rest.positions, joints.leftFoot))
  const ahead = rotate(conjugate(frame), [0, 0, 1])
  const legs = SIDES.flatMap(side => {
    const role = ballRole(joints, side)
    const chain = LEG.map(p => joints[side + p])
    const track = tracks[role]
    if (!track || chain.some(j => j === undefined)) return []
    return [{ limb: limbOf(rest, chain[0], chain[1], chain[2], ahead), shifts: shiftsOf(track, contacts[side], take.fps, stands ? up(joints[role]) : undefined) }]
  })
  const rotations = take.rotations.slice()
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, legs.map(l => l.limb.end))
  const solver = createLimbSolver(skeleton)
  const [qx, qy, qz, qw] = conjugate(frame)
  for (let f = 0; f < take.frames; f++) {
    let posed = false
    for (const { limb, shifts } of legs) {
      const x = shifts[3 * f], y = shifts[3 * f + 1], z = shifts[3 * f + 2]
      if (x * x + y * y + z * z < 1e-12) continue
      if (!posed) poseOf(ways, skeleton.parents, take.translations, rotations, f * J, pose)
      posed = true
      const tx = 2 * (qy * z - qz * y), ty = 2 * (qz * x - qx * z), tz = 2 * (qx * y - qy * x)
      solver.solve(limb, pose, rotations, f * J, x + qw * tx + qy * tz - qz * ty, y + qw * ty + qz * tx - qx * tz, z + qw * tz + qx * ty - qy * tx)
    }
  }
  return { ...take, rotations }
}

/**
 * How far the ball of a foot must move in each frame, 3·N: onto its place while it rests, fading around it, and never
 * below the height it stands at.
 */
function shiftsOf(track: Float32Array, flags: Uint8Array, fps: number, floor: number | undefined): Float32Array {
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
    if (floor !== undefined) mean[1] = floor
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
