import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import { findContacts, lockFeet, type Contacts } from '../ground'
import { measureTransfer, type TransferMeasures } from './measure'
import { transfer, type Transferred, type TransferOptions } from './transfer'

export interface PerformOptions extends TransferOptions {
  /** Holds resting feet in place afterwards. Default true. */
  readonly ground?: boolean
}

export interface Performed extends Transferred { readonly measures: TransferMeasures; readonly contacts: Contacts }

/** A take carried over, its feet held to the ground as the performer's were, and measured. */
export async function perform(performer: Skeleton, take: Take, figure: Skeleton, options: PerformOptions = {}): Promise<Performed> {
  const moved = await transfer(performer, take, figure, options)
  const { performerFrame: pFrame, figureFrame: fFrame } = moved
  const contacts = findContacts(performer, moved.performer.joints, take, pFrame)
  const grounded = options.ground === false ? moved.take : lockFeet(figure, moved.figure.joints, moved.take, fFrame, contacts)
  const measures = measureTransfer(performer, moved.performer.joints, take, pFrame, figure, moved.figure.joints, grounded, fFrame, contacts)
  return { ...moved, take: grounded, measures, contacts }
}
