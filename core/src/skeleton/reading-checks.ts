import { kindOf, SIDES } from '../body'
import { add, cross, distance, dot, maxOf, minOf, normalize, scale, sub, type Vec3 } from '../math'
import { isBelow, limbPairs, type Limb, type LimbPair } from './limb-runs'
import { readName } from './recognise-names'
import type { Skeleton, WorldJoint } from './skeleton'

/** Something about a reading that a person should look at before anything is carried over. */
export interface Doubt {
  /** How the body stands, which side is which, or the role in doubt. */
  readonly about: 'kind' | 'sides' | (string & {})
  readonly joint?: number
  /** What speaks against it, in words. */
  readonly why: string
}

/** What told the roles of a reading. */
export type ReadBy = 'roles' | 'names' | 'structure'

type Joints = Readonly<Record<string, number>>

/** Bones of one limb are at most this much longer than each other. */
const LONGER = { arm: 1.9, leg: 2.1, FrontLeg: 2.6, HindLeg: 2.6 } as const
/** Left and right bones differ by no more than this share. */
const UNEVEN = 0.2
/** An upper arm begins at least this share of the arm's length beside the middle. */
const BESIDE = 0.12
/** A thigh begins no farther from the hips than this share of the leg. */
const BELOW_HIPS = 0.6
/** Hands nearer than this share of the body to the level of the feet may be feet. */
const ON_GROUND = 0.12

/**
 * What speaks against a reading: lengths, places and sides that bodies do not have, names that say something else, and limbs
 * that were left over.
 * @param skeleton joints of the body alone, helpers left out
 * @param by what told the roles
 */
export function doubtsOf(
  skeleton: Skeleton,
  world: readonly WorldJoint[],
  joints: Joints,
  prefix: string,
  by: ReadBy,
): Doubt[] {
  const at = (role: string): Vec3 | undefined => (joints[role] === undefined ? undefined : world[joints[role]].position)
  return kindOf(joints) === 'fourleg'
    ? [
        ...limbDoubts(at, joints, FOURLEG_LIMBS),
        ...fourlegSides(at, skeleton, joints, prefix),
        ...trunkNames(skeleton, joints, prefix),
        ...leftOver(skeleton, world, joints, prefix, by),
      ]
    : [
        ...limbDoubts(at, joints, BIPED_LIMBS),
        ...bipedPlaces(at, joints),
        ...bipedKind(at),
        ...bipedSides(at),
        ...nameDoubts(skeleton, joints, prefix),
        ...rivals(skeleton, joints, prefix),
        ...leftOver(skeleton, world, joints, prefix, by),
      ]
}

interface LimbCheck {
  readonly of: string
  readonly parts: readonly [string, string, string]
  readonly longer: number
}
const BIPED_LIMBS: readonly LimbCheck[] = [
  { of: 'arm', parts: ['UpperArm', 'LowerArm', 'Hand'], longer: LONGER.arm },
  { of: 'leg', parts: ['UpperLeg', 'LowerLeg', 'Foot'], longer: LONGER.leg },
]
const FOURLEG_LIMBS: readonly LimbCheck[] = (['Front', 'Hind'] as const).map(q => ({
  of: `${q.toLowerCase()} leg`,
  parts: [`${q}UpperLeg`, `${q}LowerLeg`, `${q}Foot`],
  longer: LONGER[`${q}Leg`],
}))

type Place = (role: string) => Vec3 | undefined

function limbDoubts(at: Place, joints: Joints, limbs: readonly LimbCheck[]): Doubt[] {
  const out: Doubt[] = []
  for (const { of, parts, longer } of limbs) {
    const lengths = SIDES.map(side => {
      const [a, b, c] = parts.map(p => at(side + p))
      if (!a || !b || !c) return undefined
      const both = [distance(a, b), distance(b, c)] as const
      const role = side + parts[1]
      const joint = joints[role]
      if (minOf(both) < 1e-6) out.push({ about: role, joint, why: `a bone of the ${side} ${of} has no length` })
      else if (maxOf(both) > longer * minOf(both))
        out.push({
          about: role,
          joint,
          why: `one bone of the ${side} ${of} is ${(maxOf(both) / minOf(both)).toFixed(1)} times as long as the other`,
        })
      return both[0] + both[1]
    })
    const [l, r] = lengths
    if (l && r && Math.abs(l - r) > UNEVEN * Math.max(l, r))
      out.push({ about: `left${parts[0]}`, joint: joints[`left${parts[0]}`], why: `the ${of}s are not equally long` })
  }
  return out
}

function bipedPlaces(at: Place, joints: Joints): Doubt[] {
  const out: Doubt[] = []
  const hips = at('hips')
  const head = at('head')
  const shoulders = SIDES.map(s => at(`${s}UpperArm`))
  const wide = shoulders[0] && shoulders[1] ? distance(shoulders[0], shoulders[1]) / 2 : undefined
  for (const side of SIDES) {
    const [a, b, c] = ['UpperArm', 'LowerArm', 'Hand'].map(p => at(side + p))
    if (a && b && c && wide !== undefined && wide < BESIDE * (distance(a, b) + distance(b, c)))
      out.push({
        about: `${side}UpperArm`,
        joint: joints[`${side}UpperArm`],
        why: `the ${side} upper arm begins in the middle of the body, where a collarbone would`,
      })
    const [u, l, f] = ['UpperLeg', 'LowerLeg', 'Foot'].map(p => at(side + p))
    if (hips && u && l && f && distance(hips, u) > BELOW_HIPS * (distance(u, l) + distance(l, f)))
      out.push({
        about: `${side}UpperLeg`,
        joint: joints[`${side}UpperLeg`],
        why: `the ${side} thigh begins far from the hips, where a knee would`,
      })
  }
  const feet = [at('leftFoot'), at('rightFoot')]
  if (hips && head && feet[0] && feet[1]) {
    const low = scale(add(feet[0], feet[1]), 0.5)
    if (dot(sub(head, hips), sub(hips, low)) < -0.5 * distance(head, hips) * distance(hips, low))
      out.push({ about: 'head', joint: joints.head, why: 'the head is on the side of the feet' })
  }
  return out
}

/** Hands that stand on the ground as the feet do may be the front feet of an animal. */
function bipedKind(at: Place): Doubt[] {
  const [lh, rh, lf, rf, head, hips] = ['leftHand', 'rightHand', 'leftFoot', 'rightFoot', 'head', 'hips'].map(at)
  if (!lh || !rh || !lf || !rf || !head || !hips) return []
  const feet = scale(add(lf, rf), 0.5)
  const hands = scale(add(lh, rh), 0.5)
  // up is where the trunk is from all that touches the ground
  const trunk = scale(add(head, hips), 0.5)
  const spread = distance(feet, hands)
  const size = Math.max(distance(trunk, feet), distance(trunk, hands))
  if (spread < 1e-9 || size < 1e-9) return []
  const along = normalize(sub(hands, feet))
  const rise = sub(trunk, feet)
  const across = sub(rise, scale(along, dot(rise, along)))
  const up = normalize(Math.hypot(...across) > 1e-9 ? across : rise)
  const levels = [lh, rh, lf, rf].map(p => dot(sub(p, feet), up))
  const height = dot(rise, up)
  const flat = maxOf(levels) - minOf(levels) < ON_GROUND * height
  const ahead = dot(sub(hands, feet), along) > 0.2 * size
  // somebody who stands has hips above the feet; hands and feet make no ground to stand on
  const legs = sub(hips, feet)
  const upright = dot(normalize(legs), up) > 0.5 && height > 0.45 * size
  return flat && ahead && upright
    ? [{ about: 'kind', why: 'hands and feet stand on one level, as the feet of an animal do' }]
    : []
}

/** Which side is which, told by the way feet point, knees bend forwards and elbows backwards. */
function bipedSides(at: Place): Doubt[] {
  const hips = at('hips')
  const head = at('head')
  const left = at('leftUpperLeg')
  const right = at('rightUpperLeg')
  if (!hips || !head || !left || !right || distance(hips, head) < 1e-9 || distance(left, right) < 1e-9) return []
  const up = normalize(sub(head, hips))
  const across = cross(normalize(sub(left, right)), up)
  if (Math.hypot(...across) < 1e-6) return []
  const ahead = normalize(across)
  let toes = 0
  let bends = 0
  for (const side of SIDES) {
    const [u, l, f, t] = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => at(side + p))
    if (f && t && l) {
      const foot = distance(f, t)
      if (foot > 0.05 * distance(l, f)) toes += dot(sub(t, f), ahead) / foot
    }
    if (u && l && f) bends += offLine(u, l, f, ahead)
    const [a, b, c] = ['UpperArm', 'LowerArm', 'Hand'].map(p => at(side + p))
    if (a && b && c) bends -= 0.5 * offLine(a, b, c, ahead)
  }
  const against = toes < -0.6 || (Math.abs(toes) < 0.2 && bends < -0.06)
  return against
    ? [
        {
          about: 'sides',
          why:
            toes < -0.6
              ? 'the feet point backwards if what is called left is its left'
              : 'knees and elbows bend backwards if what is called left is its left',
        },
      ]
    : []
}

/** How far the middle of a limb stands ahead of the line between its ends, as a share of its length. */
function offLine(a: Vec3, b: Vec3, c: Vec3, ahead: Vec3): number {
  const long = distance(a, b) + distance(b, c)
  if (long < 1e-9) return 0
  const line = sub(c, a)
  const t = dot(sub(b, a), line) / Math.max(1e-12, dot(line, line))
  return dot(sub(b, add(a, scale(line, t))), ahead) / long
}

function fourlegSides(at: Place, skeleton: Skeleton, joints: Joints, prefix: string): Doubt[] {
  const [hips, chest, hl, hr] = ['hips', 'chest', 'leftHindUpperLeg', 'rightHindUpperLeg'].map(at)
  const foot = at('leftHindFoot')
  if (!hips || !chest || !hl || !hr || !foot) return []
  const left = cross(sub(hips, foot), sub(chest, hips))
  if (Math.hypot(...left) < 1e-9 || dot(left, sub(hl, hr)) >= 0) return []
  const named = readName(skeleton.names[joints.leftHindUpperLeg], prefix).side
  return named ? [{ about: 'sides', why: 'the names of left and right are on the other side of the body' }] : []
}

/** What the name of a joint says that its role does not. */
function nameDoubts(skeleton: Skeleton, joints: Joints, prefix: string): Doubt[] {
  const out: Doubt[] = []
  for (const [role, j] of Object.entries(joints)) {
    const { part, side, vague, exact } = readName(skeleton.names[j], prefix)
    const own = /^(left|right)?(.*)$/.exec(role)!
    if (side && own[1] && side !== own[1]) {
      out.push({ about: role, joint: j, why: `${skeleton.names[j]} is named for the ${side} side` })
      continue
    }
    if (!part || vague || !exact) continue
    const [named, played] = [GROUP[part], GROUP[own[2]]]
    if (named && played && named !== played)
      out.push({ about: role, joint: j, why: `${skeleton.names[j]} says it is something else` })
    else if (OPPOSITE[part] === own[2])
      out.push({ about: role, joint: j, why: `${skeleton.names[j]} is named for the other bone of the limb` })
  }
  return out
}

/** Neck, head and tail of an animal that are named as limbs. */
function trunkNames(skeleton: Skeleton, joints: Joints, prefix: string): Doubt[] {
  return Object.entries(joints).flatMap(([role, j]): Doubt[] => {
    const named = GROUP[readName(skeleton.names[j], prefix).part ?? '']
    return /^(neck|head|tail)/.test(role) && (named === 'arm' || named === 'leg')
      ? [{ about: role, joint: j, why: `${skeleton.names[j]} is named as a limb` }]
      : []
  })
}

/** Several joints side by side that are named alike, of which one was taken. */
function rivals(skeleton: Skeleton, joints: Joints, prefix: string): Doubt[] {
  const used = new Set(Object.values(joints))
  return Object.entries(joints).flatMap(([role, j]): Doubt[] => {
    const own = readName(skeleton.names[j], prefix)
    if (!own.part || !GROUP[own.part] || own.exact) return []
    const others = skeleton.names.filter((name, k) => {
      if (k === j || used.has(k) || skeleton.parents[k] !== skeleton.parents[j]) return false
      const other = readName(name, prefix)
      return !other.extra && other.part === own.part && other.side === own.side
    })
    return others.length === 0
      ? []
      : [{ about: role, joint: j, why: `${skeleton.names[j]} is one of several beside each other, as ${others[0]}` }]
  })
}

const GROUP: Readonly<Record<string, string>> = {
  UpperArm: 'arm',
  LowerArm: 'arm',
  Hand: 'arm',
  UpperLeg: 'leg',
  LowerLeg: 'leg',
  Foot: 'leg',
  Toes: 'leg',
  head: 'head',
}
const OPPOSITE: Readonly<Record<string, string>> = {
  LowerArm: 'UpperArm',
  LowerLeg: 'UpperLeg',
  Hand: 'UpperArm',
  Foot: 'UpperLeg',
}

/** Pairs of limbs nearly as long as those that were read: a body with more arms or legs than its kind has. */
function leftOver(
  skeleton: Skeleton,
  world: readonly WorldJoint[],
  joints: Joints,
  prefix: string,
  by: ReadBy,
): Doubt[] {
  const used = new Set(Object.values(joints))
  const legs = SIDES.flatMap(s => {
    const chain = kindOf(joints) === 'fourleg' ? ['HindUpperLeg', 'HindLowerLeg', 'HindFoot'] : ['UpperArm', 'LowerArm', 'Hand'] // prettier-ignore
    const [a, b, c] = chain.map(p => joints[s + p])
    return a === undefined || b === undefined || c === undefined
      ? []
      : [distance(world[a].position, world[b].position) + distance(world[b].position, world[c].position)]
  })
  if (legs.length === 0) return []
  const long = minOf(legs)
  const { head } = joints
  const below = (j: number): boolean => j === head || isBelow(skeleton, j, head)
  const pairs = limbPairs(skeleton, world, limb => !limb.chain.some(j => used.has(j)))
  // what is called an arm or a leg is one at any length; what has a name of its own (a wing, a skirt) is none
  const called = (limb: Limb): boolean => limb.chain.some(j => GROUP[readName(skeleton.names[j], prefix).part ?? ''])
  const asLong = (p: LimbPair): boolean => {
    const share = Math.min(p.a.length, p.b.length) / long
    return called(p.a) && called(p.b) ? share > 0.2 : by === 'structure' && share > 0.8
  }
  const [extra] = pairs.flatMap((p, j) => (p && !below(j) && asLong(p) ? [p] : []))
  return extra
    ? [
        {
          about: 'kind',
          joint: extra.a.root,
          why: `${skeleton.names[extra.a.root] || 'a joint'} and ${skeleton.names[extra.b.root] || 'another one'} begin another pair of limbs`,
        },
      ]
    : []
}
