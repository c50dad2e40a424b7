import {
  conjugate,
  fromRotationVector,
  multiply,
  quatAt,
  rotate,
  rotateAt,
  rotationVector,
  setQuat,
  timesAt,
} from '../math'
import { createLimbSolver, followPlaces, limbOf, type Limb, type Played, type Take } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer, type WorldPose } from '../skeleton'
import { fleshAt, type BodySurface, type PosedDistance } from '../surface'
import { SIDES } from '../body'
import { alongBone, armLength, palmAt, palmOf, PLACES, type HandContacts } from './hand-places'
import { calmed, evenedAround, fastestAway, longer } from './in-time'

type Side = (typeof SIDES)[number]

/** Farther than this the surface itself does not move a hand from where the tables put it, arm lengths. */
const ADJUST = 0.12

/**
 * Keeps the figure's hands where the performer's were: hands that touch each other as far apart, scaled by the ratio of arms;
 * a hand that rests on the body at the same place of the figure's own surface, told by share along the part and direction
 * around it.
 * @param share 0 leaves the hands, 1 keeps them wholly
 * @returns the take itself where no hand rests on anything
 */
export function keepHands(
  figure: Played,
  surface: BodySurface | undefined,
  contacts: HandContacts,
  share: number,
): Take {
  const theirs = share > 0 ? contacts.hands : undefined
  const rest = worldPose(figure.skeleton)
  const own = theirs && armLength(figure, rest)
  if (!theirs || !own) return figure.take
  const { skeleton, frame, take } = figure
  const n = take.frames
  const ratio = own / theirs.arm
  const wrists = handJoints(figure)
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const palms = surface && { left: palmOf(surface.radii, 'left'), right: palmOf(surface.radii, 'right') }
  const every = Int32Array.from({ length: J }, (_, j) => j)
  const ways = waysTo(skeleton, [...SIDES.map(s => wrists[s]), ...PLACES.map(role => surface?.radii[role]?.joint)])
  const toSkeleton = Float64Array.from(conjugate(frame))
  const P = pose.positions,
    R = pose.rotations
  const goal = new Float64Array(3),
    palm = new Float64Array(3),
    table = new Float64Array(4)
  const hit: PosedDistance = { distance: 0, x: 0, y: 0, z: 0 }
  const shifts = { left: new Float32Array(3 * n), right: new Float32Array(3 * n) }
  for (let f = 0; f < n; f++) {
    const both = contacts.together[f] * share
    if (both <= 0 && contacts.body.left.weight[f] <= 0 && contacts.body.right.weight[f] <= 0) continue
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    for (const side of SIDES) {
      const each = contacts.body[side].weight[f] * share
      const role = PLACES[contacts.body[side].place[f]]
      const limb = surface?.radii[role]
      const hand = palms?.[side]
      if (each <= 0 || !limb || !hand) continue
      const on = theirs.on[side]
      const y = alongBone(on[4 * f], limb.bone, own)
      const x = on[4 * f + 1],
        z = on[4 * f + 2]
      const gap = Math.max(0, own * on[4 * f + 3]) + hand.thick
      const out = fleshAt(limb, x, y, z) + gap
      timesAt(table, 0, R, 4 * limb.joint, Float64Array.from(limb.axes), 0)
      rotateAt(goal, 0, table, 0, x * out, y, z * out)
      for (let e = 0; e < 3; e++) goal[e] += P[3 * limb.joint + e]
      if (surface?.exact && !role.endsWith('Arm')) {
        // tables tell the outermost flesh: the surface itself has the last word
        forwardKinematics(skeleton.parents, every, take.translations, take.rotations, f * J, pose)
        surface.exact.pose(pose)
        surface.exact.distanceTo(hit, [limb.joint], goal[0], goal[1], goal[2])
        const by = gap - hit.distance
        if (Math.abs(by) < ADJUST * own) {
          goal[0] += by * hit.x
          goal[1] += by * hit.y
          goal[2] += by * hit.z
        }
      }
      palmAt(palm, pose, hand)
      for (let e = 0; e < 3; e++) shifts[side][3 * f + e] = each * (goal[e] - palm[e])
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
    const l = 3 * wrists.left,
      r = 3 * wrists.right
    for (let e = 0; e < 3; e++) {
      const isApart = P[l + e] + shifts.left[3 * f + e] - P[r + e] - shifts.right[3 * f + e]
      const half = (both * (goal[e] - isApart)) / 2
      shifts.left[3 * f + e] += half
      shifts.right[3 * f + e] -= half
    }
  }
  return shiftHands(figure, shifts)
}

/** Shifts of hands go no faster than this, arm lengths a second, or than this share of what the arm does by itself. */
const SLOW = 0.35,
  ADDED = 0.2

/** Joints of an arm may turn this much faster than they do by themselves, as a share; seconds to either side a shift is evened out for it. */
const FASTER = 1.2,
  WIDEST = 0.3

/** Moves both hands by shifts in the skeleton's space, evened out so that no arm is hurried. */
export function shiftHands(figure: Played, shifts: Readonly<Record<Side, Float32Array>>): Take {
  const { skeleton, take } = figure
  const rest = worldPose(skeleton)
  const limbs = armsOf(figure, rest)
  const own = armLength(figure, rest)!
  const ends = SIDES.flatMap(s => [{ joint: limbs[s].end }, { joint: limbs[s].upper }])
  const tracks = followPlaces(figure, ends)
  const rotations = take.rotations.slice()
  SIDES.forEach((side, s) => {
    const limb = limbs[side]
    const most = Math.max(SLOW * own, ADDED * fastestAway(tracks[2 * s], tracks[2 * s + 1], take.fps))
    const bent = [limb.upper, limb.lower]
    const limits = bent.map(j => FASTER * Math.max(GENTLY, fastestTurn(take.rotations, take, j)))
    let shift = calmed(shifts[side], take.fps, most)
    solveArm(rotations, figure, limb, shift)
    for (let half = 2; half <= WIDEST * take.fps; half = longer(half)) {
      const hurried = new Float32Array(take.frames)
      bent.forEach((j, k) => markHurried(hurried, rotations, take, j, limits[k]))
      if (!hurried.includes(1)) break
      shift = evenedAround(shift, hurried, half)
      solveArm(rotations, figure, limb, shift)
    }
    calmTurn(rotations, take, limb.end)
  })
  return { ...take, rotations }
}

/** Solves an arm anew in every frame in which its hand is shifted. Changes `rotations`. */
function solveArm(rotations: Float32Array, { skeleton, take }: Played, limb: Limb, shift: Float32Array): void {
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const ways = waysTo(skeleton, [limb.end])
  const solver = createLimbSolver(skeleton)
  for (let f = 0; f < take.frames; f++) {
    const x = shift[3 * f],
      y = shift[3 * f + 1],
      z = shift[3 * f + 2]
    for (const j of [limb.upper, limb.lower, limb.end])
      for (let c = 4 * (f * J + j); c < 4 * (f * J + j + 1); c++) rotations[c] = take.rotations[c]
    if (x * x + y * y + z * z < 1e-12) continue
    forwardKinematics(skeleton.parents, ways, take.translations, rotations, f * J, pose)
    solver.solve(limb, pose, rotations, f * J, x, y, z)
  }
}

/** How fast a joint turns against its parent from the frame before, radians a second. */
function turnsAt(rotations: Float32Array, { frames, fps }: Take, joint: number, f: number): number {
  const J = rotations.length / (4 * frames)
  const a = 4 * ((f - 1) * J + joint),
    b = a + 4 * J
  const d =
    rotations[a] * rotations[b] +
    rotations[a + 1] * rotations[b + 1] +
    rotations[a + 2] * rotations[b + 2] +
    rotations[a + 3] * rotations[b + 3]
  return 2 * Math.acos(Math.min(1, Math.abs(d))) * fps
}
function fastestTurn(rotations: Float32Array, take: Take, joint: number): number {
  let most = 0
  for (let f = 1; f < take.frames; f++) most = Math.max(most, turnsAt(rotations, take, joint, f))
  return most
}
function markHurried(out: Float32Array, rotations: Float32Array, take: Take, joint: number, most: number): void {
  for (let f = 1; f < take.frames; f++) if (turnsAt(rotations, take, joint, f) > most) out[f] = out[f - 1] = 1
}

/** A wrist may be turned this much faster than it is by itself, as a share, and by this in any case, radians a second. */
const TURNS = 0.2,
  GENTLY = 1

/** Evens out in time how far a joint is turned away from its take, so that a hand that keeps its turn over a hurried forearm does not twitch. */
function calmTurn(rotations: Float32Array, take: Take, joint: number): void {
  const J = rotations.length / (4 * take.frames)
  const away = new Float32Array(3 * take.frames)
  let any = false
  for (let f = 0; f < take.frames; f++) {
    const i = f * J + joint
    const vector = rotationVector(multiply(conjugate(quatAt(take.rotations, i)), quatAt(rotations, i)))
    away.set(vector, 3 * f)
    any ||= Math.hypot(...vector) > 2e-6
  }
  if (!any) return
  const fastest = fastestTurn(take.rotations, take, joint)
  const calm = calmed(away, take.fps, Math.max(GENTLY, TURNS * fastest))
  if (calm === away) return
  for (let f = 0; f < take.frames; f++) {
    const i = f * J + joint
    const turn = fromRotationVector([calm[3 * f], calm[3 * f + 1], calm[3 * f + 2]])
    setQuat(rotations, i, multiply(quatAt(take.rotations, i), turn))
  }
}

/**
 * Brings hands that hold on to something back to where they were before arms were opened: the elbow keeps its room, the hand
 * its hold.
 * @param before the take with the hands where they belong
 */
export function holdOn(figure: Played, before: Take, contacts: HandContacts): Take {
  const { skeleton, take } = figure
  if (take === before || !contacts.hands) return take
  const wrists = handJoints(figure)
  const J = skeleton.names.length
  const now = worldPoseBuffer(J),
    then = worldPoseBuffer(J)
  const ways = waysTo(
    skeleton,
    SIDES.map(s => wrists[s]),
  )
  const shifts = { left: new Float32Array(3 * take.frames), right: new Float32Array(3 * take.frames) }
  for (let f = 0; f < take.frames; f++) {
    const weights = SIDES.map(s => Math.max(contacts.together[f], contacts.body[s].weight[f]))
    if (weights[0] <= 0 && weights[1] <= 0) continue
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, now)
    forwardKinematics(skeleton.parents, ways, before.translations, before.rotations, f * J, then)
    SIDES.forEach((side, s) => {
      const e = 3 * wrists[side]
      for (let k = 0; k < 3; k++) shifts[side][3 * f + k] = weights[s] * (then.positions[e + k] - now.positions[e + k])
    })
  }
  return shiftHands(figure, shifts)
}

const handJoints = ({ joints }: Played): Readonly<Record<Side, number>> => ({
  left: joints.leftHand,
  right: joints.rightHand,
})

/** Both arms as limbs of two bones; elbows of straight arms stand out behind. */
function armsOf({ joints, frame }: Played, rest: WorldPose): Readonly<Record<Side, Limb>> {
  const behind = rotate(conjugate(frame), [0, 0, -1])
  const arm = (s: Side): Limb =>
    limbOf(rest, joints[`${s}UpperArm`], joints[`${s}LowerArm`], joints[`${s}Hand`], behind)
  return { left: arm('left'), right: arm('right') }
}
