import { angleBetween, angleOf, normalize, quatAt, rotate, sub, vec3At, type Quat, type Vec3 } from '../math'
import { quantile, type Take } from '../motion'
import { SIDES, kindOf } from '../body'
import { worldPose, type Skeleton } from '../skeleton'

const RADIANS = Math.PI / 180
/** Longest time at the beginning of a take that such a pose is held, seconds. */
const LONGEST = 0.25
/** How far joints stir at most while it is held, and turn at least when it is left, root mean square over joints, degrees; times their fastest usual turn. */
const HELD = 0.3,
  LEAVES = 4,
  JUMPS = 4
/** A pose this near the skeleton's own rest, mean over joints, is it; limbs this straight and this much alike on both sides stand for measuring, degrees. */
const REST = 3,
  STRAIGHT = 14,
  ALIKE = 8

/**
 * How many frames at the beginning of a recording hold a pose for measuring and are no motion: arms out or down and straight,
 * or the rest pose itself, and then a leap into the first real frame.
 * @returns 0 where the recording begins with motion
 */
export function calibrationFrames(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  take: Take,
): number {
  const most = Math.min(take.frames - 4, Math.max(1, Math.round(LONGEST * take.fps)))
  if (most < 1 || kindOf(joints) !== 'biped') return 0
  const list = Object.values(joints)
  const J = skeleton.names.length
  const step = (f: number): number => {
    let sum = 0
    for (const j of list)
      sum += angleOf(quatAt(take.rotations, f * J + j), quatAt(take.rotations, (f - 1) * J + j)) ** 2
    return Math.sqrt(sum / list.length) / RADIANS
  }
  let held = 1
  while (held <= most && step(held) < HELD) held++
  if (held > most) return 0
  const leap = step(held)
  if (leap < LEAVES) return 0
  const usual: number[] = []
  const every = Math.max(1, Math.floor((take.frames - held) / 240))
  for (let f = held + 1; f < take.frames; f += every) usual.push(step(f))
  if (usual.length < 2 || leap < JUMPS * quantile(usual, 0.95)) return 0
  return isForMeasuring(skeleton, joints, frame, take) ? held : 0
}

function isForMeasuring(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  take: Take,
): boolean {
  const list = Object.values(joints)
  const near =
    list.reduce((sum, j) => sum + angleOf(quatAt(take.rotations, j), quatAt(skeleton.restRotations, j)), 0) /
    list.length
  if (near < REST * RADIANS) return true
  const world = worldPose(skeleton, take.translations, take.rotations, 0)
  const bone = (from: string, to: string): Vec3 | undefined =>
    joints[from] === undefined || joints[to] === undefined
      ? undefined
      : rotate(frame, normalize(sub(vec3At(world.positions, joints[to]), vec3At(world.positions, joints[from]))))
  const arms = SIDES.map(s => bone(`${s}UpperArm`, `${s}LowerArm`))
  for (const s of SIDES)
    for (const [a, b, c] of [
      ['UpperArm', 'LowerArm', 'Hand'],
      ['UpperLeg', 'LowerLeg', 'Foot'],
    ]) {
      const upper = bone(s + a, s + b),
        lower = bone(s + b, s + c)
      if (!upper || !lower || angleBetween(upper, lower) > STRAIGHT * RADIANS) return false
    }
  const [left, right] = arms
  if (!left || !right) return false
  return angleBetween(left, [-right[0], right[1], right[2]]) < ALIKE * RADIANS
}
