import { FINGERS, fingerJoints } from './fingers'
import { FOUR_LEGS } from './kinds'
import { SIDES, sideOf, type Side } from './sides'

/** Parts that hang together and move as one member. */
export type BodyLimb = 'trunk' | 'head' | 'arm' | 'hand' | 'leg' | 'frontLeg' | 'hindLeg' | 'tail' | 'ear' | 'face'

/** How far a part may swing and turn about its own length against the part it hangs on, degrees. */
export interface Range {
  readonly swing: number
  readonly twist: number
  /** A hinge: least and most about the way from left to right, in place of the swing. */
  readonly hinge?: readonly [number, number]
}

export interface BodyPart {
  readonly role: string
  readonly side: Side | 'middle'
  readonly limb: BodyLimb
  /** The role without side and limb: `UpperArm`, `Proximal`. */
  readonly part: string
  /** What it hangs on: the first of these that a skeleton has. */
  readonly parents: readonly string[]
  /** The axis of the body's reference stance (arms out, feet ahead) its bone runs along: 0 across, 1 up, 2 ahead. */
  readonly along: 0 | 1 | 2
  /**
   * Farther than living joints go (after the ranges of Kapandji, "The Physiology of the Joints", with a quarter more for
   * what a skeleton's few joints stand for), so that only what no body does is held back.
   */
  readonly range?: Range
  /** A joint of the VRM 1.0 humanoid. */
  readonly vrm: boolean
}

type Told = Omit<BodyPart, 'role' | 'side' | 'vrm'> & { readonly vrm?: boolean }
const entry = (role: string, told: Told): BodyPart => ({ vrm: true, ...told, role, side: sideOf(role) })
const own = (told: Told): Told => ({ vrm: false, ...told })

const middle = (role: string, limb: BodyLimb, parents: readonly string[], range?: Range): BodyPart =>
  entry(role, { limb, part: role, parents, along: 1, range })

const BIPED: readonly BodyPart[] = [
  middle('hips', 'trunk', []),
  middle('spine', 'trunk', ['hips'], { swing: 75, twist: 65 }),
  middle('chest', 'trunk', ['spine', 'hips'], { swing: 75, twist: 65 }),
  middle('upperChest', 'trunk', ['chest', 'spine', 'hips'], { swing: 75, twist: 65 }),
  middle('neck', 'head', ['upperChest', 'chest', 'spine'], { swing: 75, twist: 80 }),
  middle('head', 'head', ['neck', 'upperChest', 'chest', 'spine'], { swing: 75, twist: 90 }),
  middle('jaw', 'face', ['head']),
  ...SIDES.flatMap(side => [
    entry(`${side}Eye`, { limb: 'face', part: 'Eye', parents: ['head'], along: 2 }),
    entry(`${side}Shoulder`, { limb: 'arm', part: 'Shoulder', parents: ['upperChest', 'chest', 'spine'], along: 0 }),
    entry(`${side}UpperArm`, {
      limb: 'arm',
      part: 'UpperArm',
      parents: [`${side}Shoulder`, 'upperChest', 'chest', 'spine'],
      along: 0,
    }),
    entry(`${side}LowerArm`, {
      limb: 'arm',
      part: 'LowerArm',
      parents: [`${side}UpperArm`],
      along: 0,
      range: { swing: 162, twist: 180 },
    }),
    entry(`${side}Hand`, {
      limb: 'arm',
      part: 'Hand',
      parents: [`${side}LowerArm`],
      along: 0,
      range: { swing: 105, twist: 150 },
    }),
    entry(`${side}UpperLeg`, { limb: 'leg', part: 'UpperLeg', parents: ['hips'], along: 1 }),
    entry(`${side}LowerLeg`, {
      limb: 'leg',
      part: 'LowerLeg',
      parents: [`${side}UpperLeg`],
      along: 1,
      range: { swing: 165, twist: 75, hinge: [-12, 165] },
    }),
    entry(`${side}Foot`, {
      limb: 'leg',
      part: 'Foot',
      parents: [`${side}LowerLeg`],
      along: 2,
      range: { swing: 85, twist: 75 },
    }),
    entry(`${side}Toes`, {
      limb: 'leg',
      part: 'Toes',
      parents: [`${side}Foot`],
      along: 2,
      range: { swing: 95, twist: 60 },
    }),
    ...FINGERS.flatMap(finger => {
      const bones = fingerJoints(finger)
      return bones.map((part, i) =>
        entry(side + finger + part, {
          limb: 'hand',
          part,
          // a finger of fewer bones hangs on the nearest that is there
          parents: [
            ...bones
              .slice(0, i)
              .map(b => side + finger + b)
              .reverse(),
            `${side}Hand`,
          ],
          along: 0,
          range: finger === 'Thumb' ? undefined : { swing: 120, twist: 60 },
        }),
      )
    }),
  ]),
]

/** What a body on four legs has beyond that: two more legs in place of arms, a tail, ears. */
const FOURLEG: readonly BodyPart[] = [
  ...FOUR_LEGS.flatMap(leg => {
    const front = leg.endsWith('Front')
    const limb: BodyLimb = front ? 'frontLeg' : 'hindLeg'
    const chain = [...(front ? ['Shoulder'] : []), 'UpperLeg', 'LowerLeg', 'Foot', 'Toes']
    return chain.map((part, i) =>
      entry(
        leg + part,
        own({
          limb,
          part,
          parents: i > 0 ? [leg + chain[i - 1]] : front ? ['upperChest', 'chest', 'spine'] : ['hips'],
          along: part === 'Toes' ? 2 : 1,
        }),
      ),
    )
  }),
  ...SIDES.map(side => entry(`${side}Ear`, own({ limb: 'ear', part: 'Ear', parents: ['head'], along: 1 }))),
]

const TABLE: ReadonlyMap<string, BodyPart> = new Map([...BIPED, ...FOURLEG].map(p => [p.role, p]))

/** Spines, necks and tails may have any number of joints, numbered from the body outwards. */
const NUMBERED = /^(neck|tail)(\d+)$/

/**
 * What a role stands for; undefined for what is no part of a body. The one place that knows what bodies are made of:
 * nothing else reads roles by their letters.
 */
export function bodyPart(role: string | undefined): BodyPart | undefined {
  if (role === undefined) return undefined
  const known = TABLE.get(role)
  if (known) return known
  const numbered = NUMBERED.exec(role)
  if (!numbered) return undefined
  const [, part, n] = numbered
  const limb: BodyLimb = part === 'tail' ? 'tail' : 'head'
  const above = Number(n) > 1 ? `${part}${Number(n) - 1}` : part === 'tail' ? 'hips' : 'neck'
  return entry(role, own({ limb, part, parents: [above], along: part === 'tail' ? 2 : 1 }))
}

/** A leg that stands, front or hind or one of two, from the hip or shoulder joint down. */
export const isLeg = (role: string | undefined): boolean => {
  const part = bodyPart(role)
  return part !== undefined && /leg$/i.test(part.limb) && part.part !== 'Shoulder'
}

/** The arm from its own joint down to the hand, without the shoulder and without fingers. */
export const isArm = (role: string | undefined): boolean => {
  const part = bodyPart(role)
  return part?.limb === 'arm' && part.part !== 'Shoulder'
}

/** What lies on the midline and carries the limbs: trunk, neck and head. */
export const isMidline = (role: string | undefined): boolean => {
  const part = bodyPart(role)
  return part !== undefined && part.side === 'middle' && (part.limb === 'trunk' || part.limb === 'head')
}
