import {
  bodyPart,
  FINGERS,
  fingerOf,
  FOUR_LEGS,
  kindOf,
  sideOf,
  SIDES,
  tailOf,
  type BodyKind,
  type Side,
} from '../body'
import { add, addScaled, cross, distance, lerp, normalize, scale, sub, type Vec3 } from '../math'
import { childrenOf, jointsInWorld, skinJoints, type Skeleton } from '../skeleton'

export type LimbKind = 'trunk' | 'head' | 'arm' | 'leg' | 'finger' | 'thumb' | 'tail' | 'ear' | 'extra'

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
  /** The roles of those joints, where they have any. */
  readonly roles?: readonly string[]
  /** The way the far side of the rectangle it leaves by looks. */
  readonly deep: Vec3
  /** One of four legs. */
  readonly fourleg?: boolean
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
  const there = (...roles: string[]): Vec3[] =>
    roles.flatMap(r => {
      const p = place(r)
      return p ? [p] : []
    })
  if (kindOf(joints) === 'fourleg') {
    const limbs = fourlegLimbs(joints, place, tip)
    return limbs && withExtras(skeleton, joints, limbs, ofRole(limbs, 'fourleg'))
  }
  const hips = place('hips')
  const spineRoles = ['spine', 'chest', 'upperChest'].filter(r => place(r))
  const spine = there(...spineRoles)
  const top = place('neck') ?? place('head')
  const legs = there('leftUpperLeg', 'rightUpperLeg')
  if (!hips || !top) return undefined

  const limbs: Limb[] = []
  const between = legs.length === 2 ? lerp(legs[0], legs[1], 0.5) : hips
  const low = addScaled(between, [0, 1, 0], -0.35 * Math.abs(hips[1] - top[1]))
  const trunk = [low, between, ...spine, top].filter((p, i, all) => i === 0 || p[1] > all[i - 1][1] + 1e-4)
  limbs.push({
    id: 'trunk',
    kind: 'trunk',
    side: 'middle',
    points: trunk,
    bends: trunk.slice(2, -1).map((_, i) => i + 2),
    ...(trunk.length === spine.length + 3 && { roles: spineRoles }),
    deep: [0, 0, -1],
  })

  const neck = there('neck', 'head')
  const crown = tip('head') ?? addScaled(neck[neck.length - 1], [0, 1, 0], 0.25 * distance(hips, top))
  if (neck.length > 0)
    limbs.push({
      id: 'head',
      kind: 'head',
      side: 'middle',
      host: 'trunk',
      points: [...neck, crown],
      bends: neck.map((_, i) => i),
      deep: [0, 0, -1],
    })

  for (const side of SIDES) {
    const out = side === 'left' ? 1 : -1
    const leg = there(`${side}UpperLeg`, `${side}LowerLeg`, `${side}Foot`, `${side}Toes`)
    if (leg.length >= 2) {
      const end = tip(`${side}Toes`) ?? tip(`${side}Foot`)
      limbs.push({
        id: `${side}Leg`,
        kind: 'leg',
        side,
        host: 'trunk',
        points: end ? [...leg, end] : leg,
        bends: leg.map((_, i) => i),
        deep: [0, 0, -1],
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
    const middle =
      knuckles.length > 0
        ? scale(
            knuckles.reduce<Vec3>((a, b) => add(a, b), [0, 0, 0]),
            1 / knuckles.length,
          )
        : (tip(`${side}Hand`) ?? addScaled(hand, sub(hand, arm[arm.length - 2]), 0.4))
    limbs.push({
      id: `${side}Arm`,
      kind: 'arm',
      side,
      host: 'trunk',
      points: [...arm, middle],
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
      const end =
        tip(last) ??
        addScaled(points[points.length - 1], sub(points[points.length - 1], points[points.length - 2] ?? hand), 0.8)
      limbs.push({
        id: side + finger,
        kind: finger === 'Thumb' ? 'thumb' : 'finger',
        side,
        host: `${side}Arm`,
        points: [...points, end],
        bends: points.map((_, i) => i),
        roles: chain,
        deep: normalize(finger === 'Thumb' ? sub(middle, points[0]) : back),
      })
    }
  }
  return withExtras(skeleton, joints, limbs, ofRole(limbs, 'biped'))
}

type Place = (role: string) => Vec3 | undefined

/** The limbs of a body on four legs. */
function fourlegLimbs(joints: Readonly<Record<string, number>>, place: Place, tip: Place): Limb[] | undefined {
  const there = (...roles: string[]): { role: string; at: Vec3 }[] =>
    roles.flatMap(role => {
      const at = place(role)
      return at ? [{ role, at }] : []
    })
  const hips = place('hips')
  const necks = Object.keys(joints)
    .filter(r => /^neck\d+$/.test(r))
    .sort()
  const neck = there('neck', ...necks, 'head')
  if (!hips || neck.length === 0) return undefined
  const spine = there('spine', 'chest', 'upperChest').map(s => s.at)
  const top = neck[0].at
  const rump = addScaled(hips, normalize(sub(hips, spine[0] ?? top)), 0.15 * Math.hypot(...sub(top, hips)))
  const up: Vec3 = [0, 1, 0]
  const limbs: Limb[] = [
    {
      id: 'trunk',
      kind: 'trunk',
      side: 'middle',
      points: [rump, hips, ...spine, top],
      bends: [hips, ...spine].map((_, i) => i + 1),
      deep: up,
    },
  ]
  const muzzle = tip('head') ?? addScaled(neck[neck.length - 1].at, [0, 0, 1], 0.2 * distance(hips, top))
  limbs.push({
    id: 'head',
    kind: 'head',
    side: 'middle',
    host: 'trunk',
    points: [...neck.map(n => n.at), muzzle],
    bends: neck.map((_, i) => i),
    deep: up,
  })
  for (const leg of FOUR_LEGS) {
    const chain = there(...['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => leg + p))
    if (chain.length < 2) continue
    const end = tip(chain[chain.length - 1].role)
    limbs.push({
      id: `${leg}Leg`,
      kind: 'leg',
      side: sideOf(leg),
      host: 'trunk',
      fourleg: true,
      points: [...chain.map(c => c.at), ...(end ? [end] : [])],
      bends: chain.map((_, i) => i),
      deep: [0, 0, 1],
    })
  }
  const tail = tailOf(joints)
  if (tail.length > 0) {
    const chain = there(...tail.map((_, i) => `tail${i + 1}`))
    const end = tip(chain[chain.length - 1].role)
    limbs.push({
      id: 'tail',
      kind: 'tail',
      side: 'middle',
      host: 'trunk',
      points: [...chain.map(c => c.at), ...(end ? [end] : [])],
      bends: chain.map((_, i) => i),
      deep: up,
    })
  }
  return limbs
}

/** The same body with hands as wholes: its fingers belong to their arms. */
export function withoutFingers({ limbs, ofJoint }: LimbTree): LimbTree {
  const left = limbs.filter(l => l.kind !== 'finger' && l.kind !== 'thumb')
  const to = limbs.map(l => left.findIndex(k => k.id === (left.includes(l) ? l.id : l.host)))
  return { limbs: left, ofJoint: ofJoint.map(l => (l < 0 ? -1 : to[l])) }
}

/** Which limb a joint of a role belongs to. */
function ofRole(limbs: readonly Limb[], kind: BodyKind): (role: string) => number | undefined {
  const at = new Map(limbs.map((l, i) => [l.id, i]))
  return role => {
    const finger = fingerOf(role)
    if (finger) return at.get(finger.side + finger.finger)
    const part = bodyPart(role)
    if (!part) return undefined
    if (part.part === 'Shoulder' || part.limb === 'trunk') return 0
    if (part.limb === 'head' || part.limb === 'tail') return at.get(part.limb)
    if (part.limb === 'arm') return at.get(`${part.side}Arm`)
    if (part.limb === 'leg' && kind === 'biped') return at.get(`${part.side}Leg`)
    if (part.limb === 'frontLeg' || part.limb === 'hindLeg')
      return at.get(`${part.side}${part.limb === 'frontLeg' ? 'Front' : 'Hind'}Leg`)
    return undefined
  }
}

/** How long a chain of joints without a role must be to be a limb of its own, of what its host is long. */
const LONG = 0.12

/** Adds chains that are no part of a body's plan - tails, ears, drawn ones - as limbs of their own, and parts the joints. */
function withExtras(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  planned: readonly Limb[],
  limbOf: (role: string) => number | undefined,
): LimbTree {
  const world = jointsInWorld(skeleton)
  const children = childrenOf(skeleton)
  const may = skinJoints(skeleton)
  const limbs = [...planned]
  const ofJoint = new Int16Array(world.length).fill(-1)
  world.forEach((joint, j) => {
    const known = joint.role === undefined ? undefined : limbOf(joint.role)
    if (known !== undefined) {
      ofJoint[j] = known
      return
    }
    const above = joint.parent >= 0 ? ofJoint[joint.parent] : 0
    ofJoint[j] = above
    const host = limbs[above]
    if (!host || !may[j] || host.kind === 'extra' || host.kind === 'ear') return
    const chain = [j]
    for (let c = j; children[c].length > 0;) {
      const next = children[c].find(
        k => may[k] && (world[k].role === undefined || limbOf(world[k].role!) === undefined),
      )
      if (next === undefined) break
      chain.push(next)
      c = next
    }
    const last = world[chain[chain.length - 1]]
    const points = [...chain.map(c => world[c].position), ...(last.tip ? [last.tip] : [])]
    if (points.length < 2 || /jaw|eye/i.test(joint.role ?? '')) return
    const length = points.slice(1).reduce((sum, p, i) => sum + distance(p, points[i]), 0)
    const hostLength = host.points.slice(1).reduce((sum, p, i) => sum + distance(p, host.points[i]), 0)
    if (length < LONG * hostLength || (chain.length < 2 && bodyPart(joint.role)?.limb !== 'ear')) return
    const way = sub(points[points.length - 1], points[0])
    limbs.push({
      id: `chain ${j}`,
      kind: bodyPart(joint.role)?.limb === 'ear' ? 'ear' : bodyPart(joint.role)?.limb === 'tail' ? 'tail' : 'extra',
      side: 'middle',
      host: host.id,
      points,
      bends: chain.map((_, i) => i),
      deep: Math.abs(normalize(way)[1]) < 0.8 ? [0, 1, 0] : [0, 0, 1],
    })
    ofJoint[j] = limbs.length - 1
  })
  void joints
  return { limbs, ofJoint }
}

const fingerRoles = (joints: Readonly<Record<string, number>>, finger: string): string[] =>
  ['Metacarpal', 'Proximal', 'Intermediate', 'Distal'].map(p => finger + p).filter(r => joints[r] !== undefined)
