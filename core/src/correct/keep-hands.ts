import { conjugate, distance, multiply, quatAt, rotate, rotateAt, vec3At } from '../math'
import { type Played, type Take, createLimbSolver, limbOf } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { SIDES } from '../body'
import { armLength, placeJoint, PLACES, type HandContacts } from './hand-contacts'

/**
 * Keeps the figure's hands where the performer's were: as far from each other, and at the same place of the body, scaled by
 * the ratio of arms and of the body's own measures.
 * @param share 0 leaves the hands, 1 keeps them wholly
 */
export function keepHands(performer: Played, figure: Played, contacts: HandContacts, share: number): Take {
  const n = figure.take.frames
  const used = contacts.together.some(w => w > 0) || SIDES.some(s => contacts.body[s].weight.some(w => w > 0))
  const theirs = used && share > 0 ? contacts.hands : undefined
  const rest = worldPose(figure.skeleton)
  const own = theirs && armLength(figure, rest)
  if (!theirs || !own) return figure.take
  const { skeleton, joints, frame } = figure
  const ratio = own / theirs.arm
  const wide = widthOf(figure) / (widthOf(performer) || 1)
  const behind = rotate(conjugate(frame), [0, 0, -1])
  const limbs = Object.fromEntries(
    SIDES.map(s => [s, limbOf(rest, joints[`${s}UpperArm`], joints[`${s}LowerArm`], joints[`${s}Hand`], behind)]),
  )
  const J = skeleton.names.length
  const rotations = figure.take.rotations.slice()
  const pose = worldPoseBuffer(J)
  const places = PLACES.map(r => placeJoint(joints, r))
  const ways = waysTo(skeleton, [...SIDES.map(s => limbs[s].end), ...places])
  const solver = createLimbSolver(skeleton)
  const back = conjugate(frame)
  // from body-aligned axes at rest into each place's own
  const restTurns = Float64Array.from(
    places.flatMap(j => (j === undefined ? [0, 0, 0, 1] : [...multiply(conjugate(quatAt(rest.rotations, j)), back)])),
  )
  const toSkeleton = Float64Array.from(back)
  const P = pose.positions,
    R = pose.rotations
  const goal = new Float64Array(3)
  for (let f = 0; f < n; f++) {
    const both = contacts.together[f] * share
    if (both <= 0 && contacts.body.left.weight[f] <= 0 && contacts.body.right.weight[f] <= 0) continue
    forwardKinematics(skeleton.parents, ways, figure.take.translations, rotations, f * J, pose)
    for (const side of SIDES) {
      const each = contacts.body[side].weight[f] * share
      const k = contacts.body[side].place[f]
      const joint = places[k]
      const track = theirs.local[side][k]
      if (each <= 0 || joint === undefined || !track) continue
      // from the place's own body-aligned axes: across by the width of hips, up and ahead by the reach of arms
      rotateAt(goal, 0, restTurns, 4 * k, wide * track[3 * f], ratio * track[3 * f + 1], wide * track[3 * f + 2])
      rotateAt(goal, 0, R, 4 * joint, goal[0], goal[1], goal[2])
      const w = 3 * limbs[side].end,
        p = 3 * joint
      solver.solve(
        limbs[side],
        pose,
        rotations,
        f * J,
        each * (P[p] + goal[0] - P[w]),
        each * (P[p + 1] + goal[1] - P[w + 1]),
        each * (P[p + 2] + goal[2] - P[w + 2]),
      )
    }
    if (both <= 0) continue
    const a = theirs.wrist.left,
      b = theirs.wrist.right
    rotateAt(
      goal,
      0,
      toSkeleton,
      0,
      ratio * (a[3 * f] - b[3 * f]),
      ratio * (a[3 * f + 1] - b[3 * f + 1]),
      ratio * (a[3 * f + 2] - b[3 * f + 2]),
    )
    const l = 3 * limbs.left.end,
      r = 3 * limbs.right.end
    const x = (both * (goal[0] - (P[l] - P[r]))) / 2,
      y = (both * (goal[1] - (P[l + 1] - P[r + 1]))) / 2,
      z = (both * (goal[2] - (P[l + 2] - P[r + 2]))) / 2
    solver.solve(limbs.left, pose, rotations, f * J, x, y, z)
    solver.solve(limbs.right, pose, rotations, f * J, -x, -y, -z)
  }
  return { ...figure.take, rotations }
}

/** Distance between both hip joints. */
function widthOf({ skeleton, joints }: Played): number {
  const rest = worldPose(skeleton)
  return distance(vec3At(rest.positions, joints.leftUpperLeg), vec3At(rest.positions, joints.rightUpperLeg))
}
