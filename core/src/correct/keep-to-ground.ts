import { minOf, rotate, vec3At } from '../math'
import type { Contacts, Take } from '../motion'
import { worldPose } from '../skeleton'
import { holdFeet, standingLevel, type FeetOptions, type Footed } from './hold-feet'
import { findLying, handsOnGround, liftOntoGround, sunkIn, type Grounded } from './rest-on-ground'

/** What still sinks after feet were held counts from this on, lengths of a leg. */
const SUNK = 0.001
/** Rounds of lifting what holding the feet pressed into the ground. */
const ROUNDS = 2

/** A body over its ground, its surface with it where that is known. */
export interface OverGround extends Footed {
  readonly near?: Grounded['tracks']
  readonly surface?: Grounded['surface']
}

/** A body over the ground its soles stand on. */
export function groundedAs({ played, soles, lift, near }: OverGround, surface: Grounded['surface']): Grounded {
  const { skeleton, joints, frame } = played
  const low = minOf(Object.values(soles).flatMap(s => s.rest))
  const hips = rotate(frame, vec3At(worldPose(skeleton).positions, joints.hips))[1]
  return { played, surface, ground: low + lift, long: hips - low, tracks: near }
}

/** When parts of a performer lie on the ground it usually stands on, see {@link findLying}. */
export function lyingOf(
  recorded: OverGround,
  contacts: Contacts,
  told?: FeetOptions['told'],
): Readonly<Record<string, Uint8Array>> {
  if (!recorded.surface) return {}
  const performer = { ...recorded, lift: recorded.lift + standingLevel(recorded, contacts) }
  return findLying(groundedAs(performer, recorded.surface), told)
}

/**
 * Keeps a figure to the ground as the performer kept to it: what lies there lies there, feet rest and roll where they came
 * down, hands that lean on the ground lean on it.
 */
export function keepToGround(figure: OverGround, recorded: OverGround, options: Omit<FeetOptions, 'lifted'>): Take {
  const { travel, contacts, told = [] } = options
  const performer = { ...recorded, lift: recorded.lift + standingLevel(recorded, contacts) }
  if (!figure.surface || !performer.surface) return holdFeet(figure, performer, options)
  const theirs = groundedAs(performer, performer.surface)
  const own = groundedAs(figure, figure.surface)
  const posed = (take: Take): Grounded => ({ ...own, played: { ...own.played, take } })
  let lifted = liftOntoGround(own, theirs, travel, told)
  let take = holdFeet(figure, performer, { ...options, lifted })
  for (let round = 0; lifted && round < ROUNDS; round++) {
    const sunk = sunkIn(posed(take), lifted)
    if (!sunk.some(s => s > SUNK * own.long)) break
    const { by } = lifted
    lifted = { ...lifted, by: by.map((lift, f) => lift + sunk[f]) }
    take = holdFeet(figure, performer, { ...options, lifted })
  }
  return handsOnGround(posed(take), theirs, travel, told)
}
