import { z } from 'zod'
import { ChiraxisError, fromEuler, type Quat } from '../math'
import { readingChoiceSchema, type Skeleton } from '../skeleton'

const degrees = z.number().min(-360).max(360)

/** What was settled about a performer by hand, kept for every take on the same skeleton. */
export const performerNoteSchema = z.object({
  /** Joint name by role, in place of what is recognised; an empty name leaves the role to nobody. */
  map: z.record(z.string().max(60), z.string().max(300)),
  /** Turns of the performer's limbs onto the figure's rest pose, by role: degrees about left-to-right, up and ahead. */
  restTurns: z.record(z.string().max(60), z.tuple([degrees, degrees, degrees])),
  /** How its skeleton is to be read, where somebody said so: legs, left and right, right as it is. */
  reading: readingChoiceSchema.optional(),
  /** Where its rest pose comes from: as found, the file, or a frame of the take. */
  restFrom: z.union([z.literal('auto'), z.literal('file'), z.number().int().min(0)]),
})
export type PerformerNote = z.infer<typeof performerNoteSchema>
export const EMPTY_NOTE: PerformerNote = { map: {}, restTurns: {}, restFrom: 'auto' }

const fileSchema = performerNoteSchema.extend({ chiraxisPerformer: z.literal(1), name: z.string().max(200) })

/** Knows a performer again by its joints' names and how they hang, whatever the take. */
export const performerKey = (skeleton: Skeleton): string => {
  // FNV-1a over names and parents
  let h = 0x811c9dc5
  for (const c of skeleton.names.map((n, j) => `${n} ${skeleton.parents[j]}`).join('|'))
    h = Math.imul(h ^ c.codePointAt(0)!, 0x01000193) >>> 0
  return `${skeleton.names.length}-${h.toString(16)}`
}

export const restTurnsOf = (note: PerformerNote): Record<string, Quat> =>
  Object.fromEntries(
    Object.entries(note.restTurns).map(([role, [x, y, z]]) => [
      role,
      fromEuler((x * Math.PI) / 180, (y * Math.PI) / 180, (z * Math.PI) / 180, 'YXZ'),
    ]),
  )

export const writePerformerNote = (name: string, note: PerformerNote): Uint8Array =>
  new TextEncoder().encode(`${JSON.stringify({ chiraxisPerformer: 1, name, ...note }, null, 1)}\n`)

/** Reads a performer's role map and rest match from data of a JSON file. @throws ChiraxisError `bad-syntax` */
export function parsePerformerNote(data: unknown): PerformerNote {
  const parsed = fileSchema.safeParse(data)
  if (!parsed.success)
    throw new ChiraxisError('bad-syntax', 'The file does not hold the role map and rest match of a performer.')
  const { chiraxisPerformer: _, name: __, ...note } = parsed.data
  return note
}
