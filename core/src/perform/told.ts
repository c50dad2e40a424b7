import { z } from 'zod'
import { timeMapOf } from '../adjust'
import { framesOf, placeContacts, type PlacedContact, type ToldContact } from '../correct'
import type { Performance } from './perform'
import { takeCorrectionsSchema, type TakeCorrections } from './settings'

/** Most stretches of one take that are corrected in ways of their own. */
export const MOST_STRETCHES = 200

/** A stretch of a recording that is corrected otherwise than the rest of it. */
export const stretchSchema = z.object({
  /** Seconds of the recording. */
  from: z.number().min(0),
  to: z.number().min(0),
  correct: takeCorrectionsSchema,
})
export type Stretch = Readonly<z.infer<typeof stretchSchema>>

/** The same on the frames of a take, both ends included. */
export interface PlacedStretch {
  readonly from: number
  readonly to: number
  readonly correct: TakeCorrections
}

/** What a person told of single stretches of a take, on its frames. */
export interface Told {
  readonly contacts: readonly PlacedContact[]
  readonly stretches: readonly PlacedStretch[]
}
export const NOTHING_TOLD: Told = { contacts: [], stretches: [] }

/** What is told of a recording, in its own seconds. */
export interface ToldOfRecording {
  readonly contacts?: readonly ToldContact[]
  readonly stretches?: readonly Stretch[]
}

/** Puts what was told of a recording onto the frames of the take made of it; what is cut away is left out. */
export function placeTold({ take, clock }: Performance, { contacts = [], stretches = [] }: ToldOfRecording): Told {
  if (contacts.length === 0 && stretches.length === 0) return NOTHING_TOLD
  const { toResult } = timeMapOf(clock.adjust, clock.recording)
  return {
    contacts: placeContacts(contacts, take, toResult, clock.adjust?.mirror),
    stretches: stretches.flatMap(({ from, to, correct }) => {
      const frames = framesOf(toResult(from), toResult(to), take)
      return frames ? [{ ...frames, correct }] : []
    }),
  }
}
