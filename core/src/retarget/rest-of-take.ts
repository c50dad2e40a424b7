import {
  add,
  angleBetween,
  conjugate,
  distance,
  dot,
  fromTo,
  multiply,
  normalize,
  quatAt,
  scale,
  setQuat,
  sub,
  vec3At,
  type Vec3,
  maxOf,
  minOf,
} from '../math'
import type { Take } from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer, type Skeleton, type WorldPose } from '../skeleton'
import { SIDES, kindOf } from '../body'

/** Frames looked at. */
const LOOKS = 240
/** How far a leg may point away from straight down the trunk in a rest pose that shows a body, radians. */
const LEAN = 1.1

type Joints = Readonly<Record<string, number>>

/**
 * Whether a skeleton at rest stands as a body does: legs away from the head, thighs to both sides. Some recordings lay all bones
 * along one axis at rest, and only their motion shows a body.
 */
export function restShowsBody(skeleton: Skeleton, joints: Joints): boolean {
  // a body on four legs was told by how it stands
  if (kindOf(joints) === 'fourleg') return true
  const world = worldPose(skeleton)
  const at = (role: string): Vec3 => vec3At(world.positions, joints[role])
  const { down, across, trunk } = trunkOf(at)
  if (trunk < 1e-9 || across < 1e-9) return false
  return SIDES.every(s => {
    const leg = sub(at(`${s}Foot`), at(`${s}UpperLeg`))
    return distance(at(`${s}Foot`), at(`${s}UpperLeg`)) > 1e-9 && angleBetween(normalize(leg), down) < LEAN
  })
}

function trunkOf(at: (role: string) => Vec3): { down: Vec3; across: number; trunk: number } {
  const left = at('leftUpperLeg'),
    right = at('rightUpperLeg')
  const pelvis = scale(add(left, right), 0.5)
  const head = at('head')
  return { down: normalize(sub(pelvis, head)), across: distance(left, right), trunk: distance(pelvis, head) }
}

/** One look at a take. */
interface Look {
  readonly frame: number
  readonly score: number
  readonly down: Vec3
  readonly ankles: readonly [Vec3, Vec3]
  readonly balls: readonly [Vec3, Vec3]
}

function looksAt(skeleton: Skeleton, joints: Joints, take: Take): Look[] {
  const J = skeleton.names.length
  const ends = SIDES.map(s => joints[`${s}Toes`] ?? joints[`${s}Foot`])
  const roles = [
    'head',
    'hips',
    ...SIDES.flatMap(s => ['UpperLeg', 'LowerLeg', 'Foot', 'UpperArm', 'LowerArm', 'Hand'].map(p => s + p)),
  ]
  const ways = waysTo(skeleton, [...roles.map(r => joints[r]), ...ends])
  const pose = worldPoseBuffer(J)
  const step = Math.max(1, Math.floor(take.frames / LOOKS))
  const looks: Look[] = []
  for (let frame = 0; frame < take.frames; frame += step) {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, frame * J, pose)
    const at = (j: number): Vec3 => vec3At(pose.positions, j)
    const { down } = trunkOf(role => at(joints[role]))
    looks.push({
      frame,
      score: uprightness(pose, joints),
      down,
      ankles: [at(joints.leftFoot), at(joints.rightFoot)],
      balls: [at(ends[0]), at(ends[1])],
    })
  }
  return looks
}

/**
 * The frame of a take in which the performer stands most upright: legs and arms straight, legs in line with the trunk, the
 * trunk as it mostly is, both sides alike and an ankle near the ground.
 * @returns for each foot also the frame in which it rests flattest
 */
function uprightFrame(
  skeleton: Skeleton,
  joints: Joints,
  take: Take,
): { readonly body: number; readonly feet: readonly [number, number] } {
  const looks = looksAt(skeleton, joints, take)
  const down = normalize(
    looks.reduce((sum, l) => add(sum, l.down), [0, 0, 0] as Vec3),
    looks[0].down,
  )
  const leg = distance(looks[0].ankles[0], looks[0].balls[0]) || 1
  const lowest = maxOf(looks.flatMap(l => l.ankles.map(a => dot(a, down))))
  const body = best(looks, l => l.score + 2 * dot(l.down, down) - minOf(l.ankles.map(a => lowest - dot(a, down))) / leg)
  // a foot rests where ankle and ball are low and hardly move
  const foot = (k: 0 | 1): number =>
    best(looks, (l, i) => {
      const before = looks[Math.max(0, i - 1)],
        after = looks[Math.min(looks.length - 1, i + 1)]
      const way = (distance(before.ankles[k], after.ankles[k]) + distance(before.balls[k], after.balls[k])) / leg
      return dot(l.ankles[k], down) / leg + dot(l.balls[k], down) / leg - 4 * way
    })
  return { body, feet: [foot(0), foot(1)] }
}

function best(looks: readonly Look[], score: (look: Look, i: number) => number): number {
  const scores = looks.map(score)
  return looks[scores.indexOf(maxOf(scores))].frame
}

function uprightness(pose: WorldPose, joints: Joints): number {
  const at = (role: string): Vec3 => vec3At(pose.positions, joints[role])
  const { down } = trunkOf(at)
  const bone = (from: string, to: string): Vec3 => normalize(sub(at(to), at(from)))
  let score = 0
  const lean: number[] = []
  for (const s of SIDES) {
    const thigh = bone(`${s}UpperLeg`, `${s}LowerLeg`),
      shin = bone(`${s}LowerLeg`, `${s}Foot`)
    const upper = bone(`${s}UpperArm`, `${s}LowerArm`),
      lower = bone(`${s}LowerArm`, `${s}Hand`)
    score += 2 * dot(thigh, down) + dot(shin, down) + dot(thigh, shin) + 0.7 * dot(upper, lower)
    lean.push(dot(upper, down))
  }
  return score - Math.abs(lean[0] - lean[1])
}

/** The same skeleton with its rest pose taken from a frame of a take; the takes on it stay true. */
export function restAt(skeleton: Skeleton, take: Take, frame: number): Skeleton {
  const J = skeleton.names.length
  const f = Math.min(take.frames - 1, Math.max(0, Math.round(frame)))
  return {
    ...skeleton,
    bind: undefined,
    restTranslations: take.translations.slice(3 * f * J, 3 * (f + 1) * J),
    restRotations: take.rotations.slice(4 * f * J, 4 * (f + 1) * J),
  }
}

/**
 * A rest pose put together from a take: the body as it stands most upright, each foot turned as it rests flattest, told from the
 * way the body faces then.
 */
export function standingRest(
  skeleton: Skeleton,
  joints: Joints,
  take: Take,
): { readonly skeleton: Skeleton; readonly frame: number } {
  const { body, feet } = uprightFrame(skeleton, joints, take)
  const rest = restAt(skeleton, take, body)
  const world = worldPose(rest)
  const facing = (pose: WorldPose): Vec3 =>
    sub(vec3At(pose.positions, joints.leftUpperLeg), vec3At(pose.positions, joints.rightUpperLeg))
  const restRotations = rest.restRotations.slice()
  SIDES.forEach((side, k) => {
    const j = joints[`${side}Foot`]
    const flat = worldPose(restAt(skeleton, take, feet[k]))
    const up = scale(trunkOf(role => vec3At(world.positions, joints[role])).down, -1)
    const level = (v: Vec3): Vec3 => normalize(sub(v, scale(up, dot(v, up))))
    const turned = multiply(fromTo(level(facing(flat)), level(facing(world))), quatAt(flat.rotations, j))
    setQuat(restRotations, j, multiply(conjugate(quatAt(world.rotations, skeleton.parents[j])), turned))
    const toes = joints[`${side}Toes`]
    if (toes !== undefined) setQuat(restRotations, toes, quatAt(take.rotations, feet[k] * skeleton.names.length + toes))
  })
  return { skeleton: { ...rest, restRotations }, frame: body }
}
