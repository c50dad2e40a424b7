import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import { findContacts, holdFeet, tracksOf, type Contacts, type Played } from '../ground'
import { measuredRoles, measureTransfer, type TransferMeasures } from './measure'
import { readRoles } from './prepare'
import { restAt, restShowsBody, standingRest } from './rest-of-take'
import { transfer, type Transferred, type TransferOptions } from './transfer'

export interface PerformOptions extends TransferOptions {
  /**
   * Where the performer's rest pose is taken from: the file, or a frame of the take. `auto` takes the file's where it shows a
   * standing body, else the take's most upright frame. Default auto.
   */
  readonly restFrom?: 'auto' | 'file' | number
  /** Holds resting feet in place afterwards. Default true. */
  readonly ground?: boolean
}

export interface Performed extends Transferred {
  readonly measures: TransferMeasures
  readonly contacts: Contacts
  /** The performer, its rest pose as it was taken. */
  readonly performerSkeleton: Skeleton
  /** The frame the rest pose was taken from, where it was. */
  readonly restFrame?: number
}

/** A take carried over, its feet held to the ground as the performer's were, and measured. */
export async function perform(recorded: Skeleton, take: Take, figure: Skeleton, options: PerformOptions = {}): Promise<Performed> {
  const { performer, restFrame } = rested(recorded, take, options)
  const moved = await transfer(performer, take, figure, options)
  const theirs: Played = { skeleton: performer, joints: moved.performer.joints, take, frame: moved.performerFrame }
  const tracks = tracksOf(theirs, measuredRoles(theirs.joints))
  const contacts = findContacts(theirs, tracks)
  const carried: Played = { skeleton: figure, joints: moved.figure.joints, take: moved.take, frame: moved.figureFrame }
  const grounded: Played = options.ground === false ? carried : { ...carried, take: holdFeet(carried, contacts) }
  return { ...moved, take: grounded.take, measures: measureTransfer(theirs, grounded, contacts, tracks), contacts, performerSkeleton: performer, restFrame }
}

function rested(recorded: Skeleton, take: Take, { plan, restFrom = 'auto', map }: PerformOptions): { performer: Skeleton; restFrame?: number } {
  if (plan) return { performer: plan.performerSkeleton }
  if (typeof restFrom === 'number') return { performer: restAt(recorded, take, restFrom), restFrame: restFrom }
  if (restFrom === 'file') return { performer: recorded }
  const { joints, missing } = readRoles(recorded, map?.performer, 'performer')
  if (missing.length > 0 || restShowsBody(recorded, joints)) return { performer: recorded }
  const { skeleton, frame } = standingRest(recorded, joints, take)
  return { performer: skeleton, restFrame: frame }
}
