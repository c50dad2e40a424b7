import {
  add,
  addScaled,
  fromAxisAngle,
  multiply,
  normalize,
  rotate,
  scale,
  type Quat,
  type Vec3,
} from '@chiraxis/core/math'
import type { Build } from './build'
import type { Stance } from './stance'

/** Where a figure's joints are, metres, ground at 0, facing +Z; `…End` are tips. And the frames its flesh hangs on. */
export interface Posed {
  readonly joints: Readonly<Record<string, Vec3>>
  /** Turn of the pelvis, of the shoulders and of the head. */
  readonly pelvis: Quat
  readonly chest: Quat
  readonly head: Quat
  readonly fork: Vec3
}

const rad = Math.PI / 180
const turn = (axis: Vec3, degrees: number): Quat => fromAxisAngle(axis, degrees * rad)

/** Stands a build in a stance. Both feet are on the ground: the freer knee bends as far as it takes. */
export function pose(b: Build, s: Stance): Posed {
  const H = b.height
  const joints: Record<string, Vec3> = {}
  const pelvis = multiply(turn([0, 0, 1], s.pelvisTilt), turn([1, 0, 0], 0.25 * s.lean))
  const hipsUp = 0.026
  const hipLine: Vec3 = [0, b.hip * H, 0]
  joints.hips = add(hipLine, rotate(pelvis, [0, hipsUp * H, -0.004 * H]))
  const fork = add(hipLine, rotate(pelvis, [0, -b.fork * H, 0.004 * H]))

  // the spine: from the hips to the neck, bent evenly by what hunches and leans
  const chin = 1 - b.head
  const shoulderY = chin - b.neck
  const trunk = shoulderY - b.hip
  const neckUp = 0.115 * trunk + 0.25 * b.neck
  const bend = b.hunch + 0.75 * s.lean
  const along = trunk + neckUp - hipsUp
  const shares = [0, 0.22, 0.45, 0.7, 1]
  const depth = [-0.004, -0.002, -0.008, -0.018, -0.014]
  const names = ['hips', 'spine', 'chest', 'upperChest', 'neck']
  let at = joints.hips
  let frame = pelvis
  for (let i = 1; i < names.length; i++) {
    const part = shares[i] - shares[i - 1]
    frame = multiply(frame, turn([1, 0, 0], bend * part))
    frame = multiply(frame, turn([0, 0, 1], (s.shoulderTilt - s.pelvisTilt) * part))
    at = add(at, rotate(frame, [0, part * along * H, (depth[i] - depth[i - 1]) * H]))
    joints[names[i]] = at
  }
  const chest = frame
  // necks carry the head back upright, most of the way
  const level = multiply(turn([0, 1, 0], 0), turn([1, 0, 0], 0.35 * bend + s.headDown))
  const skullUp = b.neck * 0.75 - 0.115 * trunk + b.head * 0.28
  const half = multiply(chest, turn([1, 0, 0], -0.3 * bend))
  joints.head = add(at, rotate(half, [0, Math.max(0.02, skullUp) * H, (0.012 + 0.12 * b.head) * H]))
  const head = level
  joints.headEnd = add(joints.head, rotate(head, [0, 0.72 * b.head * H, 0]))

  for (const side of ['left', 'right'] as const) {
    const i = side === 'left' ? 0 : 1
    const m = i === 0 ? 1 : -1
    const down = s.armDown[i]
    // raised arms take the collar bones along: about a third of what goes beyond level
    const lift = Math.max(0, -down) * 0.3 + Math.max(0, 20 - down) * 0.05
    const inner = add(joints.neck, rotate(chest, [m * 0.016 * H, (-0.028 - 0.05 * b.neck) * H, 0.012 * H]))
    joints[`${side}Shoulder`] = inner
    const rest: Vec3 = [m * (b.shoulderSpread - 0.016) * H, (-neckUp + 0.028 + 0.05 * b.neck) * H, -0.006 * H]
    const girdle = multiply(chest, turn([0, 0, 1], m * lift))
    const shoulder = add(inner, rotate(girdle, rest))
    const dir = rotate(
      chest,
      normalize([
        m * Math.cos(down * rad) * Math.cos(s.armForward[i] * rad),
        -Math.sin(down * rad) * Math.cos(s.armForward[i] * rad),
        Math.sin(s.armForward[i] * rad),
      ]),
    )
    const elbow = addScaled(shoulder, dir, b.upperArm * H)
    const ahead = normalize(addScaled([0, 0, 1], dir, -dir[2]))
    const up = normalize([
      dir[1] * ahead[2] - dir[2] * ahead[1],
      dir[2] * ahead[0] - dir[0] * ahead[2],
      dir[0] * ahead[1] - dir[1] * ahead[0],
    ])
    const way = normalize(
      add(scale(ahead, Math.cos(s.elbowTurn * rad)), scale(up, Math.sign(up[1] || 1) * Math.sin(s.elbowTurn * rad))),
    )
    const fore = normalize(add(scale(dir, Math.cos(s.elbow[i] * rad)), scale(way, Math.sin(s.elbow[i] * rad))))
    joints[`${side}UpperArm`] = shoulder
    joints[`${side}LowerArm`] = elbow
    joints[`${side}Hand`] = addScaled(elbow, fore, b.forearm * H)
    joints[`${side}HandEnd`] = addScaled(elbow, fore, (b.forearm + b.hand) * H)

    const hip = add(hipLine, rotate(pelvis, [m * b.hipSpread * H, 0, 0]))
    joints[`${side}UpperLeg`] = hip
  }
  // legs: thigh and shank turned ahead, then apart; knees give way until both feet stand level
  const long = (b.hip - b.ankle) * H
  const leg = (i: 0 | 1, give: number): { knee: Vec3; ankle: Vec3 } => {
    const m = i === 0 ? 1 : -1
    const apart = turn([0, 0, 1], m * s.legsApart[i])
    const thigh = rotate(apart, rotate(turn([1, 0, 0], -(s.thigh[i] + 0.5 * give)), [0, -1, 0]))
    const shank = rotate(apart, rotate(turn([1, 0, 0], s.knee[i] - s.thigh[i] + 0.5 * give), [0, -1, 0]))
    const hip = joints[`${i === 0 ? 'left' : 'right'}UpperLeg`]
    const knee = addScaled(hip, thigh, b.thighShare * long)
    return { knee, ankle: addScaled(knee, shank, (1 - b.thighShare) * long) }
  }
  const lowest = Math.max(leg(0, 0).ankle[1], leg(1, 0).ankle[1])
  for (const i of [0, 1] as const) {
    let low = 0,
      high = 120
    for (let round = 0; round < 30; round++) {
      const give = (low + high) / 2
      if (leg(i, give).ankle[1] < lowest) low = give
      else high = give
    }
    const { knee, ankle } = leg(i, low)
    const side = i === 0 ? 'left' : 'right'
    const out = turn([0, 1, 0], (i === 0 ? 1 : -1) * s.toesOut)
    joints[`${side}LowerLeg`] = knee
    joints[`${side}Foot`] = ankle
    const foot = (z: number, y: number): Vec3 =>
      add([ankle[0], ankle[1] + (y - b.ankle) * H, ankle[2]], rotate(out, [0, 0, z * b.foot * H]))
    joints[`${side}Toes`] = foot(0.47, 0.3 * b.ankle)
    joints[`${side}ToesEnd`] = foot(0.72, 0.25 * b.ankle)
  }
  // down to the ground
  const ground = lowest - b.ankle * H
  const settle = (p: Vec3): Vec3 => [p[0], p[1] - ground, p[2]]
  for (const name of Object.keys(joints)) joints[name] = settle(joints[name])
  return { joints, pelvis, chest, head, fork: settle(fork) }
}
