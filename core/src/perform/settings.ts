import { z } from 'zod'

/** What is corrected after a take was carried over. */
const corrections = {
  /**
   * Corrections act only where the figure does otherwise than the performer did: limits, elbow room and stillness of feet
   * give way to what the performer's own joints, arms and feet show. Off, they hold whatever the performer did.
   */
  asPerformed: z.boolean(),
  /** Figure, feet and hands keep to the ground as the performer's; resting feet keep their place. */
  ground: z.boolean(),
  /** Joints are held back from turning farther than a body's do. */
  limits: z.boolean(),
  /** Raised arms take the figure's collar bones along where the performer has none. */
  girdle: z.boolean(),
  /** How firmly hands keep their place on each other and on the body, 0..1. */
  hands: z.number().min(0).max(1),
  /** How far arms are kept off the body, metres; null lets them be. */
  elbowRoom: z.number().min(0).max(1).nullable(),
} as const

/** Corrections of one take, where they are others than those of all. */
export const takeCorrectionsSchema = z.object(corrections).partial()
export type TakeCorrections = Readonly<z.infer<typeof takeCorrectionsSchema>>

/**
 * How takes are carried over and what is corrected afterwards. The one schema of window, batch, server and command
 * line, so that the same take comes out the same everywhere.
 */
export const transferSettingsSchema = z.object({
  /** `auto` brings the two rest poses together limb by limb; `none` takes them as they are. */
  rest: z.enum(['auto', 'none']).default('auto'),
  asPerformed: corrections.asPerformed.default(true),
  ground: corrections.ground.default(true),
  limits: corrections.limits.default(true),
  girdle: corrections.girdle.default(false),
  hands: corrections.hands.default(1),
  elbowRoom: corrections.elbowRoom.default(0.005),
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
