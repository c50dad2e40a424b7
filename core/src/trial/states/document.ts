import { z } from 'zod'
import { ChiraxisError } from '../../math'

const name = z.string().min(1).max(120)

/** One thing that must hold: a value beside a number, the ground, a key, the time left of what plays, a moment passed in it. */
export const conditionSchema = z.union([
  z.strictObject({ value: name, is: z.enum(['over', 'under']), than: z.number() }),
  z.strictObject({ ground: z.boolean() }),
  z.strictObject({ key: name, is: z.enum(['pressed', 'held', 'free']) }),
  /** Seconds left of what plays, at the most. */
  z.strictObject({ left: z.number().min(0).max(60) }),
  z.strictObject({ cue: name }),
])
export type Condition = Readonly<z.infer<typeof conditionSchema>>

export const CURVES = ['even', 'soft', 'early'] as const
/** A rule from any state at all. */
export const ANY = '*'

export const ruleSchema = z.strictObject({
  /** A state, or `*` for every one. */
  from: name,
  to: name,
  /** All of them must hold; none always do. */
  when: z.array(conditionSchema).max(12),
  /** Seconds one goes over into the other. */
  blend: z.number().min(0).max(5),
  curve: z.enum(CURVES).default('soft'),
  /** Share of what plays that must have played: 0 at any time, 1 at its end. */
  after: z.number().min(0).max(1).default(0),
  /** Steps go on where the others were, or what is played begins from its start. */
  enters: z.enum(['in step', 'start']).default('in step'),
})
export type Rule = Readonly<z.infer<typeof ruleSchema>>

const takeSchema = z.strictObject({ take: name })
const blendSchema = z.strictObject({
  by: z.enum(['speed', 'speed and turn']),
  takes: z
    .array(
      z.strictObject({
        take: name,
        /** Metres a second it was measured at. */
        speed: z.number(),
        /** Radians a second it turns to the left. */
        turn: z.number().default(0),
      }),
    )
    .min(1)
    .max(40),
})

export interface State {
  readonly name: string
  readonly plays: z.infer<typeof takeSchema> | z.infer<typeof blendSchema> | { readonly table: Table }
}
/** States and the rules by which one follows another; earlier rules before later ones. */
export interface Table {
  readonly first: string
  readonly states: readonly State[]
  readonly rules: readonly Rule[]
}
/** Tables in tables, at most so many deep. */
export const DEEPEST = 4
const tableAt = (deep: number): z.ZodType<Table> =>
  z.strictObject({
    first: name,
    states: z
      .array(
        z.strictObject({
          name,
          plays: z.union([
            takeSchema,
            blendSchema,
            ...(deep < DEEPEST ? [z.strictObject({ table: tableAt(deep + 1) })] : []),
          ]),
        }),
      )
      .min(1)
      .max(200),
    rules: z.array(ruleSchema).max(2000),
  }) as z.ZodType<Table>
export const tableSchema = tableAt(1)

/** Something done on a key over whatever else plays. */
export const actionSchema = z.strictObject({
  key: name,
  take: name,
  /** Once, from beginning to end; or as long as the key is held, held in its middle. */
  how: z.enum(['once', 'held']),
  part: z.enum(['whole', 'upper']),
  blend: z.number().min(0).max(2).default(0.2),
})
export type Action = Readonly<z.infer<typeof actionSchema>>

/** A value of one's own that rules ask for. */
export const ownValueSchema = z.strictObject({ name, value: z.number() })

export const STATES_VERSION = 1
/** How a figure behaves, as a file a game can read. See docs/states.schema.json. */
export const statesSchema = z.strictObject({
  format: z.literal('chiraxis-states'),
  version: z.literal(STATES_VERSION),
  table: tableSchema,
  actions: z.array(actionSchema).max(60).default([]),
  /** The take of a jump; left out, one is made from a crouch. */
  jump: z.strictObject({ key: name, take: name.optional() }).optional(),
  values: z.array(ownValueSchema).max(60).default([]),
})
export type StatesDocument = Readonly<z.infer<typeof statesSchema>>

/** Values every figure has. */
export const VALUES = {
  speed: { label: 'Speed', unit: 'm/s' },
  wish: { label: 'Wished speed', unit: 'm/s' },
  turn: { label: 'Turn to the left', unit: '°/s' },
  bearing: { label: 'Way to turn', unit: '°' },
  height: { label: 'Over the ground', unit: 'm' },
} as const
export type ValueName = keyof typeof VALUES

/**
 * @throws ChiraxisError `bad-version` for a newer document, `bad-syntax` telling what does not fit
 */
export function parseStates(data: unknown): StatesDocument {
  const told = data as { format?: unknown; version?: unknown } | null
  if (typeof told !== 'object' || told?.format !== 'chiraxis-states')
    throw new ChiraxisError('bad-syntax', 'This file holds no table of states.')
  if (typeof told.version === 'number' && told.version > STATES_VERSION)
    throw new ChiraxisError('bad-version', 'This table of states was written by a newer Chiraxis.')
  const parsed = statesSchema.safeParse(data)
  if (parsed.success) return parsed.data
  const { path, message } = parsed.error.issues[0]
  throw new ChiraxisError('bad-syntax', `This table of states cannot be read: ${path.join('.')} – ${message}.`)
}

/** The open description of the document, made of what reads it. */
export const statesJsonSchema = (): Record<string, unknown> => ({
  ...z.toJSONSchema(statesSchema, { io: 'input', reused: 'ref' }),
  title: 'How a figure behaves: states, rules, actions',
})

/** Every take a table names, tables in it included. */
export const takesIn = (table: Table): string[] => [
  ...new Set(
    table.states.flatMap(({ plays }) =>
      'table' in plays ? takesIn(plays.table) : 'take' in plays ? [plays.take] : plays.takes.map(t => t.take),
    ),
  ),
]
