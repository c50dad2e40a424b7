import { bareName, fingerOf, PHALANGES, sideOf } from '../body'
import {
  conjugate,
  cross,
  dot,
  fromAxisAngle,
  fromTo,
  IDENTITY,
  length,
  multiply,
  normalize,
  quatAt,
  scale,
  setQuat,
  slerp,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import {
  atBind,
  boneDirection,
  childrenOf,
  findJoint,
  naturalHinge,
  worldPose,
  type Skeleton,
  type WorldPose,
} from '../skeleton'
import type { CheckPose, Turn } from './check-poses'

const TRUNK = ['spine', 'chest', 'upperChest']
const NAPE = ['neck', 'head']
const DEGREE = Math.PI / 180

/**
 * Local rotations of a skeleton in a check pose, from where it was bound. Works on any joint axes: every turn is
 * told in the body's own axes and carried into the joint's. Parts the skeleton lacks are left out.
 * @param skeleton upright, facing +Z, with roles
 * @param share how far into the pose, 0..1
 * @returns 4·J
 */
export function strike(skeleton: Skeleton, pose: CheckPose, share = 1): Float32Array {
  const rest = atBind(skeleton)
  const world = worldPose(rest)
  const children = childrenOf(rest)
  const rotations = rest.restRotations.slice()
  const deltas = new Map<number, Quat>()
  for (const turn of pose.turns) {
    for (const { joint, delta } of deltasOf(turn, rest, world, children))
      deltas.set(joint, multiply(delta, deltas.get(joint) ?? IDENTITY))
  }
  for (const [j, delta] of deltas) {
    const p = rest.parents[j]
    const own = quatAt(world.rotations, j)
    const turned = multiply(share < 1 ? slerp(IDENTITY, delta, share) : delta, own)
    setQuat(rotations, j, p < 0 ? turned : multiply(conjugate(quatAt(world.rotations, p)), turned))
  }
  return rotations
}

/** Whether a skeleton has any joint a pose turns. */
export const canTakePose = (skeleton: Skeleton, pose: CheckPose): boolean =>
  pose.turns.some(t => ('joint' in t ? findJoint(skeleton, t.joint) >= 0 : targetsOf(t.part, skeleton).length > 0))

interface Target {
  readonly joint: number
  readonly mirror: boolean
  readonly share: number
}

function targetsOf(part: string, skeleton: Skeleton): Target[] {
  const at = (role: string): number => skeleton.roles.indexOf(role)
  if (part === 'trunk' || part === 'nape') {
    const joints = (part === 'trunk' ? TRUNK : NAPE).map(at).filter(j => j >= 0)
    return joints.map(joint => ({ joint, mirror: false, share: 1 / joints.length }))
  }
  if (sideOf(part) !== 'middle') {
    const joint = at(part)
    return joint < 0 ? [] : [{ joint, mirror: sideOf(part) === 'right', share: 1 }]
  }
  // `Proximal` and its like stand for that joint of every finger but the thumb
  const ending = (PHALANGES as readonly string[]).includes(part)
  return skeleton.roles.flatMap((role, joint) => {
    const side = role ? sideOf(role) : 'middle'
    if (!role || side === 'middle') return []
    const finger = fingerOf(role)
    const fits = ending ? finger?.part === part && finger.finger !== 'Thumb' : bareName(role) === part
    return fits ? [{ joint, mirror: side === 'right', share: 1 }] : []
  })
}

function deltasOf(
  turn: Turn,
  rest: Skeleton,
  world: ReturnType<typeof worldPose>,
  children: number[][],
): { joint: number; delta: Quat }[] {
  if ('joint' in turn) {
    const joint = findJoint(rest, turn.joint)
    return joint < 0 ? [] : [{ joint, delta: [...turn.by] }]
  }
  return targetsOf(turn.part, rest).flatMap(({ joint, mirror, share }) => {
    const s = mirror ? -1 : 1
    if ('toward' in turn) {
      const bone = boneDirection(rest, joint, children, world)
      if (!bone) return []
      return [{ joint, delta: fromTo(bone, normalize([s * turn.toward[0], turn.toward[1], turn.toward[2]])) }]
    }
    const angle = turn.degrees * DEGREE * share
    if (turn.about === 'hinge') {
      const hinge = hingeOf(rest, world, joint)
      return hinge ? [{ joint, delta: fromAxisAngle(hinge, angle) }] : []
    }
    if (turn.about === 'bone') {
      const p = rest.parents[joint]
      const from = /UpperLeg$/.test(rest.roles[joint] ?? '')
        ? boneDirection(rest, joint, children, world)
        : p < 0
          ? undefined
          : vecTo(world.positions, p, joint)
      return from ? [{ joint, delta: fromAxisAngle(from, s * angle) }] : []
    }
    if (turn.about === 'curl' || turn.about === 'fan') {
      const axis = handAxis(rest, world, joint, turn.about)
      return axis ? [{ joint, delta: fromAxisAngle(axis, angle) }] : []
    }
    const axis = AXES[turn.about]
    // mirrored about the midplane, turns about x keep their sense and the others change it
    return [{ joint, delta: fromAxisAngle(axis, turn.about === 'x' ? angle : s * angle) }]
  })
}

const AXES: Readonly<Record<'x' | 'y' | 'z', Vec3>> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] }

function vecTo(positions: ArrayLike<number>, a: number, b: number): Vec3 | undefined {
  const d = sub(vec3At(positions, b), vec3At(positions, a))
  return length(d) > 1e-7 ? normalize(d) : undefined
}

/** The axis an elbow or a knee bends about the natural way. */
function hingeOf(rest: Skeleton, world: ReturnType<typeof worldPose>, joint: number): Vec3 | undefined {
  const role = rest.roles[joint] ?? ''
  const side = sideOf(role) === 'left' ? 'left' : 'right'
  const arm = role.endsWith('LowerArm')
  const a = rest.roles.indexOf(`${side}${arm ? 'UpperArm' : 'UpperLeg'}`),
    b = rest.roles.indexOf(`${side}${arm ? 'Hand' : 'Foot'}`)
  if (a < 0 || b < 0) return undefined
  const u = vecTo(world.positions, a, joint),
    l = vecTo(world.positions, joint, b)
  if (!u || !l) return undefined
  const bend = cross(u, l)
  const natural = naturalHinge(u, l, arm ? [0, 0, -1] : [0, 0, 1])
  return length(bend) > 0.035 && dot(bend, natural) > 0 ? normalize(bend) : natural
}

/** Axis that curls a hand or finger towards its palm, or fans it towards the thumb, as the hand rests. */
function handAxis(
  rest: Skeleton,
  world: ReturnType<typeof worldPose>,
  joint: number,
  kind: 'curl' | 'fan',
): Vec3 | undefined {
  const side = sideOf(rest.roles[joint] ?? '') === 'left' ? 'left' : 'right'
  const at = (role: string): number => rest.roles.indexOf(side + role)
  const hand = at('Hand'),
    fore = at('LowerArm')
  const [index, little] = [at('IndexProximal'), at('LittleProximal') >= 0 ? at('LittleProximal') : at('RingProximal')]
  const middle = at('MiddleProximal') >= 0 ? at('MiddleProximal') : index
  if (hand < 0) return undefined
  const along =
    middle >= 0 ? vecTo(world.positions, hand, middle) : fore >= 0 ? vecTo(world.positions, fore, hand) : undefined
  if (!along) return undefined
  // without fingers the thumb is taken to be ahead, as in a body that rests with its arms out or hanging
  const told = index >= 0 && little >= 0 ? vecTo(world.positions, little, index) : undefined
  const ahead: Vec3 = told ?? [0, 0, 1]
  const flat = sub(ahead, scale(along, dot(ahead, along)))
  if (length(flat) < 1e-3) return undefined
  const fan = cross(along, normalize(flat))
  if (kind === 'fan') return fan
  return cross(along, side === 'left' ? fan : scale(fan, -1))
}

/** Local values of a skeleton in a check pose, standing: the lowest joint is as low as it was when bound. */
export function standIn(
  skeleton: Skeleton,
  pose: CheckPose,
  share = 1,
): { translations: Float32Array; rotations: Float32Array } {
  const rest = atBind(skeleton)
  const rotations = strike(skeleton, pose, share)
  const translations = rest.restTranslations.slice()
  const lowest = (w: WorldPose): number => {
    let low = Infinity
    for (let i = 1; i < w.positions.length; i += 3) low = Math.min(low, w.positions[i])
    return low
  }
  const sunk = lowest(worldPose(rest)) - lowest(worldPose(rest, translations, rotations))
  rest.parents.forEach((p, j) => {
    if (p < 0) translations[3 * j + 1] += sunk
  })
  return { translations, rotations }
}

/** World pose of local values. */
export const worldOf = (
  skeleton: Skeleton,
  { translations, rotations }: { readonly translations: Float32Array; readonly rotations: Float32Array },
): WorldPose => worldPose(atBind(skeleton), translations, rotations)

/** World pose of a skeleton in a check pose. */
export function poseWorld(skeleton: Skeleton, pose: CheckPose, share = 1): WorldPose {
  return worldOf(skeleton, standIn(skeleton, pose, share))
}
