import { bodyPart, FINGERS, fingerOf, kindOf, SIDES, type Side } from '../body'
import { add, addScaled, cross, lerp, normalize, scale, sub, type Vec3 } from '../math'
import { jointsInWorld, type Skeleton } from '../skeleton'

export type LimbKind = 'trunk' | 'head' | 'arm' | 'leg' | 'finger' | 'thumb' | 'tail' | 'ear'

/** A limb a tube of quads is drawn around. */
export interface Limb {
  /** `trunk`, `leftArm`, `rightIndex`. */
  readonly id: string
  readonly kind: LimbKind
  readonly side: Side | 'middle'
  readonly host?: string
  /** The middle of the limb from its root to its tip, as its joints tell it; metres. */
  readonly points: readonly Vec3[]
  /** Which of the points are joints it bends at. */
  readonly bends: readonly number[]
  /** The way the far side of the rectangle it leaves by looks. */
  readonly deep: Vec3
}

export interface LimbTree {
  /** Hosts before what leaves them; the trunk first. */
  readonly limbs: readonly Limb[]
  /** J: the limb that moves with each joint. */
  readonly ofJoint: Int16Array
}

/**
 * The limbs of a body by the roles of its joints. Joints without a role go with the limb they hang on.
 * @returns undefined for a skeleton without hips and a trunk above them
 */
export function limbsOfBody(skeleton: Skeleton): LimbTree | undefined {
  const joints: Record<string, number> = {}
  skeleton.roles.forEach((role, j) => {
    if (role !== undefined) joints[role] ??= j
  })
  const world = jointsInWorld(skeleton)
  const place = (role: string): Vec3 | undefined => {
    const j = joints[role]
    return j === undefined ? undefined : world[j].position
  }
  const tip = (role: string): Vec3 | undefined => (joints[role] === undefined ? undefined : world[joints[role]].tip)
  const there = (...roles: string[]): Vec3[] => roles.flatMap(r => {
      const p = place(r)
      return p ? [p] : []
    })
  if (kindOf(joints) !== 'biped') return undefined
  const hips = place('hips')
  const spine = there('spine', 'chest', 'upperChest')
  const top = place('neck') ?? place('head')
  const legs = there('leftUpperLeg', 'rightUpperLeg')
  if (!hips || !top) return undefined

  const limbs: Limb[] = []
  const between = legs.length === 2 ? lerp(legs[0], legs[1], 0.5) : hips
  const low = addScaled(between, [0, 1, 0], -0.35 * Math.abs(hips[1] - top[1]))
  const trunk = [low, between, ...spine, top].filter((p, i, all) => i === 0 || p[1] > all[i - 1][1] + 1e-4)
  limbs.push({ id: 'trunk', kind: 'trunk', side: 'middle', points: trunk, bends: trunk.slice(2, -1).map((_, i) => i + 2), deep: [0, 0, -1] })

  const neck = there('neck', 'head')
  const crown = tip('head') ?? addScaled(neck[neck.length - 1], [0, 1, 0], 0.12)
  if (neck.length > 0)
    limbs.push({ id: 'head', kind: 'head', side: 'middle', host: 'trunk', points: [...neck, crown], bends: neck.map((_, i) => i), deep: [0, 0, -1] })

  for (const side of SIDES) {
    const out = side === 'left' ? 1 : -1
    const leg = there(`${side}UpperLeg`, `${side}LowerLeg`, `${side}Foot`, `${side}Toes`)
    if (leg.length >= 2) {
      const end = tip(`${side}Toes`) ?? tip(`${side}Foot`)
      limbs.push({
        id: `${side}Leg`, kind: 'leg', side, host: 'trunk', points: end ? [...leg, end] : leg,
        bends: leg.map((_, i) => i), deep: [0, 0, -1],
      })
    }
    const arm = there(`${side}UpperArm`, `${side}LowerArm`, `${side}Hand`)
    if (arm.length < 2) continue
    const chains = FINGERS.flatMap(finger => {
      const chain = fingerRoles(joints, side + finger)
      return chain.length > 0 ? [{ finger, chain }] : []
    })
    const knuckles = chains.filter(c => c.finger !== 'Thumb').map(c => place(c.chain[0])!)
    const hand = arm[arm.length - 1]
    const middle = knuckles.length > 0
      ? scale(knuckles.reduce<Vec3>((a, b) => add(a, b), [0, 0, 0]), 1 / knuckles.length)
      : (tip(`${side}Hand`) ?? addScaled(hand, normalize(sub(hand, arm[arm.length - 2])), 0.1))
    limbs.push({
      id: `${side}Arm`, kind: 'arm', side, host: 'trunk', points: [...arm, middle],
      bends: [0, 1, ...(arm.length > 2 ? [2] : []), ...(knuckles.length > 0 ? [arm.length] : [])],
      deep: [0.6 * out, 1, 0],
    })
    // the back of the hand
    const way = normalize(sub(middle, hand))
    const row = knuckles.length > 1 ? sub(knuckles[knuckles.length - 1], knuckles[0]) : ([0, 0, -1] as Vec3)
    const back = side === 'left' ? cross(way, row) : cross(row, way)
    for (const { finger, chain } of chains) {
      const points = chain.map(r => place(r)!)
      const last = chain[chain.length - 1]
      const end = tip(last) ?? addScaled(points[points.length - 1], sub(points[points.length - 1], points[points.length - 2] ?? hand), 0.8)
      limbs.push({
        id: side + finger, kind: finger === 'Thumb' ? 'thumb' : 'finger', side, host: `${side}Arm`,
        points: [...points, end], bends: points.map((_, i) => i), deep: normalize(finger === 'Thumb' ? sub(middle, points[0]) : back),
      })
    }
  }
  const at = new Map(limbs.map((l, i) => [l.id, i]))
  const ofJoint = new Int16Array(world.length).fill(-1)
  world.forEach((joint, j) => {
    const part = bodyPart(joint.role)
    const finger = joint.role === undefined ? undefined : fingerOf(joint.role)
    const own = finger
      ? at.get(finger.side + finger.finger)
      : part?.part === 'Shoulder' || part?.limb === 'trunk'
        ? 0
        : part?.limb === 'head'
          ? at.get('head')
          : part?.limb === 'arm'
            ? at.get(`${part.side}Arm`)
            : part?.limb === 'leg'
              ? at.get(`${part.side}Leg`)
              : undefined
    ofJoint[j] = own ?? (joint.parent >= 0 ? ofJoint[joint.parent] : 0)
  })
  return { limbs, ofJoint }
}

const fingerRoles = (joints: Readonly<Record<string, number>>, finger: string): string[] =>
  ['Metacarpal', 'Proximal', 'Intermediate', 'Distal'].map(p => finger + p).filter(r => joints[r] !== undefined)
