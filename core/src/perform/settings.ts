import { z } from 'zod'

/**
 * How takes are carried over and what is corrected afterwards. The one schema of window, batch, server and command
 * line, so that the same take comes out the same everywhere.
 */
export const transferSettingsSchema = z.object({
  /** `auto` brings the two rest poses together limb by limb; `none` takes them as they are. */
  rest: z.enum(['auto', 'none']).default('auto'),
  /**
   * Corrections act only where the figure does otherwise than the performer did: limits, elbow room and stillness of feet
   * give way to what the performer's own joints, arms and feet show. Off, they hold whatever the performer did.
   */
  asPerformed: z.boolean().default(true),
  /** Resting feet keep their place. */
  ground: z.boolean().default(true),
  /** Joints are held back from turning farther than a body's do. */
  limits: z.boolean().default(true),
  /** Raised arms take the figure's collar bones along where the performer has none. */
  girdle: z.boolean().default(false),
  /** How firmly hands keep their place on each other and on the body, 0..1. */
  hands: z.number().min(0).max(1).default(1),
  /** How far arms are kept off the body, metres; null lets them be. */
  elbowRoom: z.number().min(0).max(1).nullable().default(0.005),
})
export type TransferSettings = Readonly<z.infer<typeof transferSettingsSchema>>

export const TRANSFER_DEFAULTS: TransferSettings = transferSettingsSchema.parse({})

/** Carried over exactly: rest poses matched, nothing corrected afterwards. */
export const EXACT_TRANSFER: TransferSettings = {
  rest: 'auto',
  asPerformed: true,
  ground: false,
  limits: false,
  girdle: false,
  hands: 0,
  elbowRoom: null,
}
