import { SIDES, sideOf, type Side } from './sides'

/** Fingers from the thumb outwards. */
export const FINGERS = ['Thumb', 'Index', 'Middle', 'Ring', 'Little'] as const
export type Finger = (typeof FINGERS)[number]

/** Bones of a finger from the palm to the end, by VRM 1.0; a thumb has no middle one, other fingers no metacarpal of their own. */
export const PHALANGES = ['Metacarpal', 'Proximal', 'Intermediate', 'Distal'] as const
export type Phalanx = (typeof PHALANGES)[number]

/** The joints of a finger as VRM 1.0 names them. */
export const fingerJoints = (finger: string): readonly Phalanx[] =>
  finger === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']

export interface FingerPart {
  readonly side: Side
  readonly finger: Finger
  /** A bone, or `Tip` for the landmark at the end. */
  readonly part: Phalanx | 'Tip'
}

const PARTS: ReadonlyMap<string, FingerPart> = new Map(
  SIDES.flatMap(side =>
    FINGERS.flatMap(finger =>
      [...PHALANGES, 'Tip' as const].map(part => [side + finger + part, { side, finger, part }] as const),
    ),
  ),
)

/** The finger a role or landmark belongs to. */
export const fingerOf = (name: string): FingerPart | undefined => PARTS.get(name)

export const isFinger = (name: string): boolean => PARTS.has(name)

/** `leftIndex` and its like: which finger of which hand. */
export const fingerName = (name: string): string | undefined => {
  const found = PARTS.get(name)
  return found && sideOf(name) !== 'middle' ? found.side + found.finger : undefined
}
