import { z } from 'zod'
import { adjustSchema } from '../adjust'
import { MOST_CONTACTS, toldContactSchema } from '../correct'
import { takeCuesSchema } from '../cues'
import { layerSchema, MOST_LAYERS } from '../layers'
import { MOST_STRETCHES, stretchSchema, takeCorrectionsSchema } from '../perform'
import { rootSettingsSchema } from '../root-motion'

/** Everything told of one take, as it goes along with it wherever it is worked out: window, server, command line. */
export const takeToldSchema = z.object({
  adjust: adjustSchema.partial().optional(),
  /** Frame of its own that its performer's rest pose is taken from. */
  restFrom: z.number().int().min(0).optional(),
  correct: takeCorrectionsSchema.optional(),
  stretches: z.array(stretchSchema).max(MOST_STRETCHES).optional(),
  contacts: z.array(toldContactSchema).max(MOST_CONTACTS).optional(),
  layers: z.array(layerSchema).max(MOST_LAYERS).optional(),
  /** How it travels, over what is told of all. */
  root: rootSettingsSchema.optional(),
  /** Moments and curves told of it. */
  cues: takeCuesSchema.optional(),
})
export type TakeTold = Readonly<z.infer<typeof takeToldSchema>>

/** What of a record is told of its take. */
export const toldOfTake = ({
  adjust,
  restFrom,
  correct,
  stretches,
  contacts,
  layers,
  root,
  cues,
}: TakeTold): TakeTold => ({
  ...(adjust && { adjust }),
  ...(restFrom !== undefined && { restFrom }),
  ...(correct && { correct }),
  ...(stretches && { stretches }),
  ...(contacts && { contacts }),
  ...(layers && { layers }),
  ...(root && { root }),
  ...(cues && { cues }),
})
