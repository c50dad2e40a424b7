import { z } from 'zod'
import { adjustSchema } from '../adjust'
import { profileSchema, type Profile } from '../delivery'
import { performerNoteSchema } from '../retarget'
import { transferSettingsSchema } from '../perform'
import { cueSettingsSchema } from '../cues'
import { rootSettingsSchema } from '../root-motion'

/** How every take of a batch is carried over. */
export const batchSettingsSchema = transferSettingsSchema.extend({
  adjust: adjustSchema.partial().default({}),
  /** How they travel; left out as they came. */
  root: rootSettingsSchema.optional(),
  /** What moments and curves are found. */
  cues: cueSettingsSchema.optional(),
  /** What was settled about performers by hand, by their key. */
  performers: z.record(z.string(), performerNoteSchema).default({}),
  /** How its receiver wants the files; left out, GLB. */
  profile: profileSchema.optional(),
  /** Where no profile is told: the whole figure with the take, or skeleton and motion only. */
  content: z.enum(['whole', 'motion']).default('motion'),
})
export type BatchSettings = z.infer<typeof batchSettingsSchema>

/** The profile files of a batch are written by: each holds one take. */
export const batchProfile = ({ profile, content }: Pick<BatchSettings, 'profile' | 'content'>): Profile => ({
  ...(profile ?? profileSchema.parse({ name: 'GLB', format: 'glb', content })),
  split: 'each',
})
