import { z } from 'zod'
import { adjustSchema } from '../adjust'
import { performerNoteSchema } from '../transfer'

/** How every take of a batch is carried over. */
export const batchSettingsSchema = z.object({
  rest: z.enum(['auto', 'none']).default('auto'),
  ground: z.boolean().default(true),
  limits: z.boolean().default(true),
  hands: z.number().min(0).max(1).default(1),
  /** Metres; null lets arms be. */
  elbowRoom: z.number().min(0).max(1).nullable().default(0.005),
  adjust: adjustSchema.partial().default({}),
  /** What was settled about performers by hand, by their key. */
  performers: z.record(z.string(), performerNoteSchema).default({}),
  /** The whole figure with the take, or skeleton and motion only. */
  content: z.enum(['whole', 'motion']).default('motion'),
})
export type BatchSettings = z.infer<typeof batchSettingsSchema>
