import { z } from 'zod'

/** Kinds of moments that are found by themselves. */
export const FOUND_CUES = ['footstep', 'crossing', 'touch', 'apex'] as const
export type FoundCue = (typeof FOUND_CUES)[number]
/** Curves that are worked out by themselves. */
export const FOUND_CURVES = ['way', 'speed'] as const
export type FoundCurve = (typeof FOUND_CURVES)[number]

export const MOST_CUES = 1000,
  MOST_CURVES = 40,
  MOST_CURVE_KEYS = 2000

/** Numbers, words and switches that go along with a moment. */
export const cueDataSchema = z.record(
  z.string().min(1).max(60),
  z.union([z.string().max(200), z.number(), z.boolean()]),
)
export type CueData = Readonly<z.infer<typeof cueDataSchema>>

/** What is found in every take, and written with it. */
export const cueSettingsSchema = z.object({
  find: z.array(z.enum(FOUND_CUES)).max(FOUND_CUES.length).optional(),
  curves: z.array(z.enum(FOUND_CURVES)).max(FOUND_CURVES.length).optional(),
  /** What the feet step on. */
  surface: z.string().max(60).optional(),
})
export type CueSettings = Readonly<z.infer<typeof cueSettingsSchema>>

/** What is found in takes that are carried over, where nothing is told; takes that came with a body stay as they came. */
export const CUE_DEFAULTS: CueSettings = { find: [...FOUND_CUES] }

/** A moment a person told of a recording, or one that was found and is not wanted. */
export const toldCueSchema = z.object({
  id: z.string().min(1).max(80),
  /** Seconds of the recording. */
  at: z.number().min(0),
  name: z.string().min(1).max(120),
  data: cueDataSchema.optional(),
  /** A found one of this name near this moment is left out. */
  without: z.boolean().optional(),
})
export type ToldCue = Readonly<z.infer<typeof toldCueSchema>>

/** A curve of one's own over a recording: straight from key to key, held before the first and after the last. */
export const toldCurveSchema = z.object({
  name: z.string().min(1).max(120),
  keys: z.array(z.object({ at: z.number().min(0), value: z.number() })).max(MOST_CURVE_KEYS),
})
export type ToldCurve = Readonly<z.infer<typeof toldCurveSchema>>

/** Everything told of the moments and curves of one take. */
export const takeCuesSchema = z.object({
  cues: z.array(toldCueSchema).max(MOST_CUES).optional(),
  curves: z.array(toldCurveSchema).max(MOST_CURVES).optional(),
  /** What the feet of this take step on, where that is another ground. */
  surface: z.string().max(60).optional(),
})
export type TakeCues = Readonly<z.infer<typeof takeCuesSchema>>
