import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import { ballRole, findContacts, holdFeet, tracksOf, type Contacts, type Played } from '../ground'
import { measuredRoles, measureTransfer, type TransferMeasures } from './measure'
import { transfer, type Transferred, type TransferOptions } from './transfer'

export interface PerformOptions extends TransferOptions {
  /** Holds resting feet in place afterwards. Default true. */
  readonly ground?: boolean
}

export interface Performed extends Transferred { readonly measures: TransferMeasures; readonly contacts: Contacts }

/** A take carried over, its feet held to the ground as the performer's were, and measured. */
export async function perform(performer: Skeleton, take: Take, figure: Skeleton, options: PerformOptions = {}): Promise<Performed> {
  const moved = await transfer(performer, take, figure, options)
  const theirs: Played = { skeleton: performer, joints: moved.performer.joints, take, frame: moved.performerFrame }
  const tracks = tracksOf(theirs, measuredRoles(theirs.joints))
  const contacts = findContacts(theirs, tracks)
  const carried: Played = { skeleton: figure, joints: moved.figure.joints, take: moved.take, frame: moved.figureFrame }
  const balls = (['left', 'right'] as const).map(s => ballRole(carried.joints, s))
  const grounded: Played = options.ground === false ? carried : { ...carried, take: holdFeet(carried, contacts, tracksOf(carried, balls)) }
  return { ...moved, take: grounded.take, measures: measureTransfer(theirs, grounded, contacts, tracks), contacts }
}
