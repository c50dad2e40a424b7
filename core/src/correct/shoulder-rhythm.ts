import {
  conjugate,
  dot,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  sub,
  vec3At,
  type Vec3,
} from '../math'
import type { Played, Take } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'

const RADIANS = Math.PI / 180
/** Up to this elevation the arm moves in its own joint alone, degrees; beyond, the girdle takes one degree of every three. */
const SETTING = 30
const SHARE = 1 / 3
/** How far the girdle goes up and down from rest at most, degrees. */
const MOST = { up: 35, down: 10 }

/**
 * Lets raised arms take the shoulder girdle along, on figures that have collar bones: one degree for every two of the arm's
 * own joint (scapulohumeral rhythm: Inman, Saunders and Abbott 1944, "Observations on the function of the shoulder
 * joint"). The arm keeps its direction; at rest nothing moves.
 * @param told whether the take already moves a side's collar bone, which then is left as it is
 * @returns the take itself where there is nothing to do
 */
export function raiseGirdle(played: Played, told: (side: 'left' | 'right') => boolean): Take {
  const { skeleton, joints, take, frame } = played
  const J = skeleton.names.length
  let rotations = take.rotations
  const rest = worldPose(skeleton)
  for (const side of ['left', 'right'] as const) {
    const [collar, upper, lower] = ['Shoulder', 'UpperArm', 'LowerArm'].map(part => joints[side + part])
    if (collar === undefined || upper === undefined || lower === undefined || told(side)) continue
    const trunk = skeleton.parents[collar]
    // the joint on the way to the arm that hangs on the collar bone
    let next = upper
    while (next >= 0 && skeleton.parents[next] !== collar) next = skeleton.parents[next]
    if (trunk < 0 || next < 0) continue
    const ways = waysTo(skeleton, Int32Array.from([trunk, collar, next, upper, lower]))
    /** Degrees between the arm and straight down, seen from the trunk. */
    const elevation = (pose: typeof rest): number => {
      const turned = multiply(quatAt(pose.rotations, trunk), conjugate(quatAt(rest.rotations, trunk)))
      const arm = normalize(sub(vec3At(pose.positions, lower), vec3At(pose.positions, upper)))
      const seen = rotate(frame, rotate(conjugate(turned), arm))
      return Math.acos(Math.min(1, Math.max(-1, dot(seen, [0, -1, 0])))) / RADIANS
    }
    const taken = (degrees: number): number => SHARE * Math.max(0, degrees - SETTING)
    const atRest = taken(elevation(rest))
    const pose = worldPoseBuffer(J)
    // ahead, in the skeleton's own space at rest
    const ahead: Vec3 = rotate(conjugate(frame), [0, 0, 1])
    for (let f = 0; f < take.frames; f++) {
      forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
      const lift = Math.min(MOST.up, Math.max(-MOST.down, taken(elevation(pose)) - atRest))
      if (Math.abs(lift) < 0.01) continue
      if (rotations === take.rotations) rotations = take.rotations.slice()
      const parent = quatAt(pose.rotations, trunk)
      const axis = rotate(multiply(parent, conjugate(quatAt(rest.rotations, trunk))), ahead)
      const turn = fromAxisAngle(axis, lift * RADIANS * (side === 'left' ? 1 : -1))
      const raised = multiply(turn, quatAt(pose.rotations, collar))
      setQuat(rotations, f * J + collar, multiply(conjugate(parent), raised))
      setQuat(rotations, f * J + next, multiply(conjugate(raised), quatAt(pose.rotations, next)))
    }
  }
  return rotations === take.rotations ? take : { ...take, rotations }
}
