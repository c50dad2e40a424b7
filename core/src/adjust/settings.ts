import { z } from 'zod'

/** Limits of each setting, least and most. */
export const ADJUST_LIMITS = {
  pace: [0.1, 10],
  stepLength: [0.3, 2],
  vigour: [0, 3],
  loopBlend: [0, 5],
  fps: [1, 240],
  frames: 500_000,
} as const

const between = ([least, most]: readonly [number, number]): z.ZodNumber => z.number().min(least).max(most)

/** What a person changes about a take before and after it is carried over. */
export const adjustSchema = z.object({
  /** Seconds of the recording that are kept; left out keeps all. */
  trim: z.tuple([z.number().min(0), z.number().min(0)]).optional(),
  /** Left and right exchanged. */
  mirror: z.boolean(),
  /** How many times faster. */
  pace: between(ADJUST_LIMITS.pace),
  /** Length of steps and travel as a multiple of the performer's. */
  stepLength: between(ADJUST_LIMITS.stepLength),
  /** How far trunk, head and arms go from their mean pose, as a multiple of the performer's. */
  vigour: between(ADJUST_LIMITS.vigour),
  /** Seconds over which the end is led into the beginning; 0 leaves both as they are. */
  loopBlend: between(ADJUST_LIMITS.loopBlend),
  /** Without travel over the ground: what the root settings of a take say in full, as older projects have it. */
  onTheSpot: z.boolean(),
  /** Frames a second of the result; left out keeps the recording's. */
  fps: between(ADJUST_LIMITS.fps).optional(),
})
export type AdjustSettings = Readonly<z.infer<typeof adjustSchema>>

export const ADJUST_DEFAULTS: AdjustSettings = {
  mirror: false,
  pace: 1,
  stepLength: 1,
  vigour: 1,
  loopBlend: 0,
  onTheSpot: false,
}

/** Rates offered; any within the limits can be asked for. */
export const FRAME_RATES = [24, 25, 30, 48, 50, 60] as const
