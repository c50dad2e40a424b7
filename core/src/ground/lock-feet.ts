import { add, addScaled, conjugate, cross, distance, dot, fromTo, length, lerp, multiply, normalize, quatAt, rotate, scale, setQuat, sub, vec3At, type Quat, type Vec3 } from '../math'
import type { Take } from '../motion'
import { worldPose, worldPoseBuffer, type Skeleton, type WorldPose } from '../skeleton'
import { jointPath, type Contacts } from './contacts'

/** Frames over which a foot eases into and out of its hold. */
const EASE = 5

/**
 * Holds resting feet where they came down: each contact keeps the mean place of the ball of the foot, at its standing height,
 * the leg is solved anew as two bones with its knee in the plane it had, and the foot keeps its turn.
 * Corrections ease in and out around each contact (after Kovar, Schreiner and Gleicher 2002,
 * "Footskate cleanup for motion capture editing", without their bone stretching).
 * @param frame the turn to the body's own frame, Y up
 */
export function lockFeet(skeleton: Skeleton, roles: Readonly<Record<string, number>>, take: Take, frame: Quat, contacts: Contacts): Take {
  const n = skeleton.names.length
  const rotations = take.rotations.slice()
  const held: Take = { ...take, rotations }
  const back = conjugate(frame)
  const pose = worldPoseBuffer(n)
  const rest = worldPose(skeleton)
  // a rest pose that hangs in the air does not tell the height of the ground
  const stands = rotate(frame, vec3At(rest.positions, roles.hips))[1] > 0.3 * distance(vec3At(rest.positions, roles.hips), vec3At(rest.positions, roles.leftFoot))
  for (const name of ['left', 'right'] as const) {
    const ball = roles[`${name}Toes`] ?? roles[`${name}Foot`]
    const chain = ['UpperLeg', 'LowerLeg', 'Foot'].map(p => roles[name + p])
    if (ball === undefined || chain.some(j => j === undefined)) continue
    const shifts = holdShifts(jointPath(skeleton, take, ball, frame), contacts[name], rotate(frame, vec3At(rest.positions, ball))[1], stands)
    for (let f = 0; f < take.frames; f++) {
      if (length(shifts[f]) < 1e-6) continue
      worldPose(skeleton, held.translations, rotations, f * n, pose)
      solveLeg(skeleton, pose, rotations, f * n, chain as [number, number, number], rotate(back, shifts[f]))
    }
  }
  return held
}

/** How far the ball of the foot must move in each frame so that it rests while it should. */
function holdShifts(path: readonly Vec3[], flags: Uint8Array, height: number, stands: boolean): Vec3[] {
  const n = path.length
  const shifts: Vec3[] = path.map(() => [0, 0, 0])
  const weights = new Float64Array(n)
  for (let f = 0; f < n; f++) {
    if (!flags[f]) continue
    let end = f
    while (end + 1 < n && flags[end + 1]) end++
    let mean: Vec3 = [0, 0, 0]
    for (let i = f; i <= end; i++) mean = addScaled(mean, path[i], 1 / (end - f + 1))
    if (stands) mean[1] = height
    for (let i = Math.max(0, f - EASE); i <= Math.min(n - 1, end + EASE); i++) {
      const out = i < f ? f - i : i > end ? i - end : 0
      const t = 1 - out / (EASE + 1)
      const w = out === 0 ? 1 : t * t * (3 - 2 * t)
      // outside of the hold the shift of its nearest end fades
      const from = path[Math.min(end, Math.max(f, i))]
      const shift = scale(sub(mean, from), w)
      if (w > weights[i]) {
        weights[i] = w
        shifts[i] = shift
      }
    }
    f = end
  }
  return shifts
}

function solveLeg(skeleton: Skeleton, pose: WorldPose, rotations: Float32Array, offset: number, chain: [number, number, number], shift: Vec3): void {
  const [hipJ, kneeJ, ankleJ] = chain
  const hip = vec3At(pose.positions, hipJ), knee = vec3At(pose.positions, kneeJ), ankle = vec3At(pose.positions, ankleJ)
  const a = distance(hip, knee), b = distance(knee, ankle)
  let goal = add(ankle, shift)
  const reach = 0.9995 * (a + b)
  const away = sub(goal, hip)
  if (length(away) > reach) goal = lerp(hip, goal, reach / length(away))
  const d = distance(hip, goal)
  const line = normalize(sub(goal, hip))
  const bend = sub(knee, hip)
  // swing the knee's own plane with the leg, so that it keeps pointing where it did
  const swung = rotate(fromTo(normalize(sub(ankle, hip)), line), bend)
  const out = normalize(sub(swung, scale(line, dot(swung, line))), normalize(cross(line, [1, 0, 0])))
  const cos = Math.max(-1, Math.min(1, (a * a + d * d - b * b) / (2 * a * d)))
  const kneeGoal = add(hip, add(scale(line, a * cos), scale(out, a * Math.sqrt(1 - cos * cos))))
  const turn = (j: number, from: Vec3, to: Vec3): Quat => multiply(fromTo(normalize(from), normalize(to)), quatAt(pose.rotations, j))
  const upper = turn(hipJ, bend, sub(kneeGoal, hip))
  const lower = turn(kneeJ, sub(ankle, knee), sub(goal, kneeGoal))
  const parent = skeleton.parents[hipJ]
  const above: Quat = parent >= 0 ? quatAt(pose.rotations, parent) : [0, 0, 0, 1]
  setQuat(rotations, offset + hipJ, multiply(conjugate(above), upper))
  setQuat(rotations, offset + kneeJ, multiply(conjugate(upper), lower))
  setQuat(rotations, offset + ankleJ, multiply(conjugate(lower), quatAt(pose.rotations, ankleJ)))
}
