import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import { adjustTake, onTheSpot, type AdjustSettings } from '../adjust'
import { findContacts, holdFeet, tracksOf, type Contacts, type Played } from '../ground'
import { keepHands } from './keep-hands'
import { limitJoints } from './joint-limits'
import { measuredRoles, measureTransfer, type TransferMeasures } from './measure'
import type { Girths } from '../skin'
import { keepElbowRoom } from './elbow-room'
import { findHandContacts, type HandContacts } from './hand-contacts'
import { prepareTransfer, readRoles } from './prepare'
import { restAt, restShowsBody, standingRest } from './rest-of-take'
import { transfer, type Transferred, type TransferOptions } from './transfer'

export interface PerformOptions extends TransferOptions {
  /**
   * Where the performer's rest pose is taken from: the file, or a frame of the take. `auto` takes the file's where it shows a
   * standing body, else the take's most upright frame. Default auto.
   */
  readonly restFrom?: 'auto' | 'file' | number
  /** Changes made to the take. */
  readonly adjust?: Partial<AdjustSettings>
  /** How firmly hands keep their place on each other and on the body, 0..1. Default 0. */
  readonly hands?: number
  /** Keeps arms this far off the body, metres; the body as measured around the figure's bones. */
  readonly elbowRoom?: { readonly girths: Girths; readonly metres: number }
  /** Holds joints back from turning farther than a body's do. Default false. */
  readonly limits?: boolean
  /** Holds resting feet in place afterwards. Default true. */
  readonly ground?: boolean
}

export interface Performed extends Transferred {
  readonly measures: TransferMeasures
  readonly contacts: Contacts
  /** When the performer's hands kept to each other and to the body, where hands were kept. */
  readonly handContacts?: HandContacts
  /** The performer, its rest pose as it was taken. */
  readonly performerSkeleton: Skeleton
  /** The take as carried over exactly, before hands, arms and feet were kept. */
  readonly carried: Take
  /** The performer's take as it was adjusted. */
  readonly performerTake: Take
  /** The frame the rest pose was taken from, where it was. */
  readonly restFrame?: number
}

/** A take adjusted, carried over, its feet held to the ground as the performer's were, and measured. */
export async function perform(
  recorded: Skeleton,
  recording: Take,
  figure: Skeleton,
  options: PerformOptions = {},
): Promise<Performed> {
  const { performer, restFrame } = rested(recorded, recording, options)
  const plan = options.plan ?? prepareTransfer(performer, figure, options)
  const asRecorded: Played = {
    skeleton: performer,
    joints: plan.performer.joints,
    take: recording,
    frame: plan.performerFrame,
  }
  const theirs: Played = { ...asRecorded, take: adjustTake(asRecorded, options.adjust) }
  const moved = await transfer(performer, theirs.take, figure, { ...options, plan })
  const tracks = tracksOf(theirs, measuredRoles(theirs.joints))
  const contacts = findContacts(theirs, tracks)
  let carried: Played = { skeleton: figure, joints: moved.figure.joints, take: moved.take, frame: moved.figureFrame }
  const arms = plan.figure.kind === 'biped'
  if (arms && options.limits === true) carried = { ...carried, take: limitJoints(carried) }
  const hands = arms ? (options.hands ?? 0) : 0
  const handContacts = hands > 0 ? findHandContacts(theirs, tracks) : undefined
  if (handContacts) carried = { ...carried, take: keepHands(theirs, carried, handContacts, hands) }
  const room = arms && options.elbowRoom && keepElbowRoom(carried, options.elbowRoom.girths, options.elbowRoom.metres)
  if (room) carried = { ...carried, take: room.take }
  const grounded: Played = options.ground === false ? carried : { ...carried, take: holdFeet(carried, contacts) }
  const measures = {
    ...measureTransfer(theirs, grounded, contacts, tracks),
    ...(room && {
      armRoom: Math.min(room.after.left, room.after.right),
      armRoomBefore: Math.min(room.before.left, room.before.right),
    }),
  }
  const spot = options.adjust?.onTheSpot === true
  return {
    ...moved,
    take: spot ? onTheSpot(grounded) : grounded.take,
    carried: moved.take,
    measures,
    contacts,
    handContacts,
    performerSkeleton: performer,
    performerTake: spot ? onTheSpot(theirs) : theirs.take,
    restFrame,
  }
}

function rested(
  recorded: Skeleton,
  take: Take,
  { plan, restFrom = 'auto', map }: PerformOptions,
): { performer: Skeleton; restFrame?: number } {
  if (plan) return { performer: plan.performerSkeleton }
  if (typeof restFrom === 'number') return { performer: restAt(recorded, take, restFrom), restFrame: restFrom }
  if (restFrom === 'file') return { performer: recorded }
  const { joints, missing } = readRoles(recorded, map?.performer, 'performer')
  if (missing.length > 0 || restShowsBody(recorded, joints)) return { performer: recorded }
  const { skeleton, frame } = standingRest(recorded, joints, take)
  return { performer: skeleton, restFrame: frame }
}
