import {
  conjugate,
  dot,
  multiply,
  normalize,
  normalizeQuat,
  oppositeAxis,
  quatAt,
  rotate,
  sub,
  type Quat,
  type Vec3,
} from '../math'
import {
  aimedRotation,
  boneDirection,
  childrenOf,
  jointSide,
  mirrorTurn,
  partnerJoint,
  readBends,
  worldPose,
  type AxisConvention,
  type Skeleton,
} from '../skeleton'
import { bodyPart, type Side } from '../body'
import { rebuildRig, sameJoints } from './rebuild'
import type { Rig } from './rig'

/**
 * Aims joints by a convention: one own axis along the bone, another along its hinge. Every other joint,
 * the skin and every frame of every take stay exactly where they are.
 * @param only joints to aim; all when left out
 */
export function aimJoints(rig: Rig, convention: AxisConvention, only?: ReadonlySet<number>): Rig {
  const { skeleton } = rig
  const world = worldPose(skeleton)
  const wished = aimedRest(skeleton, convention)
  return rebuildRig(
    rig,
    sameJoints(skeleton).map((joint, j) => {
      if (only && !only.has(j)) return joint
      return { ...joint, rotation: multiply(conjugate(quatAt(world.rotations, j)), wished[j]) }
    }),
  )
}

/** World rest rotation of every joint under a convention. A joint without a bone is turned as its parent is. */
export function aimedRest(skeleton: Skeleton, convention: AxisConvention): Quat[] {
  const world = worldPose(skeleton)
  const children = childrenOf(skeleton)
  const hinges = hingesOf(skeleton)
  const out: Quat[] = []
  skeleton.names.forEach((_, j) => {
    const p = skeleton.parents[j]
    const bone = boneDirection(skeleton, j, children, world)
    if (!bone) {
      // a branching or ending joint keeps its parent's ways; a root without a bone stands like the world
      out.push(p >= 0 ? out[p] : [0, 0, 0, 1])
      return
    }
    out.push(aimedRotation(bone, hinges[j], sideConvention(convention, jointSide(skeleton, j))))
  })
  return out
}

/**
 * A convention on one side of the body. A hinge is an axis of turning, which a mirror turns round by itself; only the axis
 * along the bone has to run the other way for both sides to turn alike.
 */
const sideConvention = (convention: AxisConvention, side: Side | 'middle'): AxisConvention =>
  convention.mirrored && side === 'right' ? { ...convention, along: oppositeAxis(convention.along) } : convention

/** The wished hinge of every joint in world space: the natural bend of its limb, across the body elsewhere. */
function hingesOf(skeleton: Skeleton): Vec3[] {
  const hinges: Vec3[] = skeleton.names.map(() => [1, 0, 0])
  const bends = new Map(readBends(skeleton).map(b => [b.role, b]))
  skeleton.names.forEach((_, j) => {
    // a joint takes the hinge of the limb it belongs to, however far down
    for (let p = j; p >= 0; p = skeleton.parents[p]) {
      const role = skeleton.roles[p]
      if (!role) continue
      const part = bodyPart(role)
      if (!part || part.side === 'middle') return
      const arm = part.limb === 'arm' || part.limb === 'hand'
      const bend = bends.get(arm ? `${part.side}LowerArm` : `${part.side}LowerLeg`)
      if (!bend || ['Shoulder', 'Foot', 'Toes'].includes(part.part)) return
      hinges[j] = bend.hinge
      return
    }
  })
  return hinges
}

/** Turns a joint about its own bone, which turns its hinge; nothing else moves. */
export function turnHinge(rig: Rig, j: number, radians: number): Rig {
  const { skeleton } = rig
  const world = worldPose(skeleton)
  const bone = boneDirection(skeleton, j) ?? rotate(quatAt(world.rotations, j), [0, 1, 0])
  const axis = rotate(conjugate(quatAt(world.rotations, j)), bone)
  const s = Math.sin(radians / 2)
  const turn: Quat = [axis[0] * s, axis[1] * s, axis[2] * s, Math.cos(radians / 2)]
  return turned(rig, new Map([[j, turn]]))
}

/**
 * Turns a joint's own axes freely; everything else stays, and so do skin and takes.
 * @param by the turn, in the joint's own axes  @param mirror turns the joint across the midline as its mirror image
 */
export function turnAxes(rig: Rig, j: number, by: Quat, mirror: boolean): Rig {
  const { skeleton } = rig
  const turns = new Map<number, Quat>([[j, normalizeQuat(by)]])
  const partner = mirror ? partnerJoint(skeleton, j) : -1
  if (partner >= 0 && partner !== j) {
    const { rotations } = worldPose(skeleton)
    const [q, p] = [quatAt(rotations, j), quatAt(rotations, partner)]
    const world = multiply(multiply(q, by), conjugate(q))
    turns.set(partner, normalizeQuat(multiply(multiply(conjugate(p), mirrorTurn(world)), p)))
  }
  return turned(rig, turns)
}

/** Turns axes as the body stands (x to its left, y up, z ahead) or as each joint's parent is turned, parents first. */
export function alignAxes(rig: Rig, only: ReadonlySet<number>, to: 'body' | 'parent'): Rig {
  const { skeleton } = rig
  const { rotations } = worldPose(skeleton)
  const wished: Quat[] = []
  skeleton.parents.forEach((p, j) => {
    const parent: Quat = p < 0 ? [0, 0, 0, 1] : wished[p]
    wished[j] = only.has(j) ? (to === 'body' ? [0, 0, 0, 1] : parent) : quatAt(rotations, j)
  })
  return turned(rig, new Map([...only].map(j => [j, multiply(conjugate(quatAt(rotations, j)), wished[j])])))
}

const turned = (rig: Rig, turns: ReadonlyMap<number, Quat>): Rig =>
  rebuildRig(
    rig,
    sameJoints(rig.skeleton).map((joint, j) => (turns.has(j) ? { ...joint, rotation: turns.get(j) } : joint)),
  )

/** How far a joint's hinge axis is turned about its bone from the hinge its limb asks for, radians, signed. */
export function hingeOff(skeleton: Skeleton, j: number, hinge: Vec3, wished: Vec3): number {
  const bone = boneDirection(skeleton, j)
  if (!bone) return 0
  const flat = (v: Vec3): Vec3 =>
    normalize(sub(v, [bone[0] * dot(v, bone), bone[1] * dot(v, bone), bone[2] * dot(v, bone)]))
  const a = flat(hinge),
    b = flat(wished)
  const c: Vec3 = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
  return Math.atan2(dot(c, bone), dot(a, b))
}
