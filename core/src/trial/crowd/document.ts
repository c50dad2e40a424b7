import { z } from 'zod'
import { ChiraxisError } from '../../math'

const pair = z.tuple([z.number(), z.number()])

/** What a crowd is made of; placed anew from these, it is the same crowd. */
export const crowdSettingsSchema = z.strictObject({
  agents: z.number().int().min(1).max(2000).default(60),
  /** Share of them that walks along ways; the others stand about. */
  walking: z.number().min(0).max(1).default(0.4),
  /** Metres across the place they are on. */
  across: z.number().min(4).max(200).default(16),
  /** How much they differ: in height, share to either side; in pace, likewise; in colour, 0 to 1. */
  heights: z.number().min(0).max(0.3).default(0.06),
  paces: z.number().min(0).max(0.3).default(0.1),
  tints: z.number().min(0).max(1).default(0.5),
  seed: z
    .number()
    .int()
    .min(0)
    .max(2 ** 31)
    .default(1),
})
export type CrowdSettings = Readonly<z.infer<typeof crowdSettingsSchema>>
export const CROWD_DEFAULTS: CrowdSettings = crowdSettingsSchema.parse({})

const clipSchema = z.strictObject({
  /** The name agents call it by, and that of the animation in the file. */
  name: z.string().min(1).max(300),
  take: z.string().max(300),
  loops: z.boolean(),
  /** Metres a second it carries; 0 on the spot. */
  speed: z.number().min(0),
  seconds: z.number().positive(),
  /** Share of it at which the first foot lands, for steps. */
  phase: z.number().min(0).max(1).default(0),
})
const agentSchema = z.strictObject({
  kind: z.number().int().min(0),
  clip: z.string().min(1).max(300),
  /** Metres, across and ahead; heading in radians to the left of ahead. */
  at: pair,
  heading: z.number(),
  /** Scale of the whole figure. */
  height: z.number().positive(),
  /** Linear, multiplied with its own colours. */
  tint: z.tuple([z.number(), z.number(), z.number()]),
  /** How fast it plays its clip, and where in it it begins, share. */
  pace: z.number().positive(),
  offset: z.number().min(0).max(1),
  /** The way it walks, and how far along it it is, metres. */
  way: z.number().int().min(0).optional(),
  along: z.number().optional(),
})
export type Agent = Readonly<z.infer<typeof agentSchema>>

/** A way without an end: two straight lines side by side and a half round at either end of them. */
const waySchema = z.strictObject({ from: pair, to: pair, radius: z.number().positive() })
export type Way = Readonly<z.infer<typeof waySchema>>

export const CROWD_VERSION = 1
/** A crowd as a file beside the GLB of its figures. See docs/crowd.schema.json. */
export const crowdSchema = z.strictObject({
  format: z.literal('chiraxis-crowd'),
  version: z.literal(CROWD_VERSION),
  kinds: z.array(z.strictObject({ name: z.string(), file: z.string(), clips: z.array(clipSchema).max(500) })).max(100),
  ways: z.array(waySchema).max(500),
  agents: z.array(agentSchema).max(20_000),
})
export type CrowdDocument = Readonly<z.infer<typeof crowdSchema>>

/** @throws ChiraxisError `bad-version` for a newer one, `bad-syntax` telling what does not fit */
export function parseCrowd(data: unknown): CrowdDocument {
  const told = data as { format?: unknown; version?: unknown } | null
  if (typeof told !== 'object' || told?.format !== 'chiraxis-crowd')
    throw new ChiraxisError('bad-syntax', 'This file holds no crowd.')
  if (typeof told.version === 'number' && told.version > CROWD_VERSION)
    throw new ChiraxisError('bad-version', 'This crowd was written by a newer Chiraxis.')
  const parsed = crowdSchema.safeParse(data)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]
    throw new ChiraxisError('bad-syntax', `This crowd cannot be read: ${path.join('.')} – ${message}.`)
  }
  const crowd = parsed.data
  const lost = crowd.agents.findIndex(
    a =>
      !crowd.kinds[a.kind]?.clips.some(c => c.name === a.clip) ||
      (a.way !== undefined && crowd.ways[a.way] === undefined),
  )
  if (lost >= 0)
    throw new ChiraxisError('bad-syntax', `Agent ${lost} of this crowd plays a clip or walks a way that is not in it.`)
  return crowd
}

/** The open description of the document, made of what reads it. */
export const crowdJsonSchema = (): Record<string, unknown> => ({
  ...z.toJSONSchema(crowdSchema, { io: 'input' }),
  title: 'A crowd: agents with named takes, where they stand and walk',
})
