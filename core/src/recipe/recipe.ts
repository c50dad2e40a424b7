import { z } from 'zod'
import type { Remedy } from '../findings'
import { ChiraxisError, type Vec3 } from '../math'

const vec3 = z.tuple([z.number(), z.number(), z.number()])
const axis = z.enum(['+x', '-x', '+y', '-y', '+z', '-z'])

/** A file as received, known by the hash of its bytes. */
export const fileRefSchema = z.object({ name: z.string().max(300), hash: z.string().regex(/^[0-9a-f]{64}$/), size: z.number().int().nonnegative() })
export type FileRef = z.infer<typeof fileRefSchema>

export const takeRefSchema = z.object({
  id: z.string().max(80), name: z.string().max(200), performer: z.string().max(200), file: fileRefSchema,
  /** Which take of the file. */
  index: z.number().int().nonnegative(),
})
export type TakeRef = z.infer<typeof takeRefSchema>

export const RECIPE_VERSION = 1

/** Everything that was decided about a figure. All else is derived from it and from the files it names. */
export const recipeSchema = z.object({
  version: z.literal(RECIPE_VERSION),
  name: z.string().max(120),
  body: fileRefSchema.nullable(),
  straighten: z.object({ up: axis.optional(), facing: axis.optional(), unit: z.enum(['m', 'cm', 'mm']).optional() }),
  landmarks: z.object({ edits: z.record(z.string(), vec3) }),
  skin: z.object({ influences: z.number().int().min(1).max(8), firmness: z.number().min(0.1).max(10) }),
  takes: z.array(takeRefSchema).max(2000),
  transfer: z.object({ rest: z.enum(['auto', 'none']), ground: z.boolean() }),
})
export type Recipe = z.infer<typeof recipeSchema>

export const emptyRecipe = (name = 'Untitled figure'): Recipe => ({
  version: RECIPE_VERSION, name, body: null, straighten: {}, landmarks: { edits: {} },
  skin: { influences: 4, firmness: 1 }, takes: [], transfer: { rest: 'auto', ground: true },
})

/**
 * Reads a stored recipe of this or an older version.
 * @throws ChiraxisError `bad-version` for newer ones, `bad-syntax` for what is none
 */
export function parseRecipe(data: unknown): Recipe {
  const version = typeof data === 'object' && data !== null ? (data as { version?: unknown }).version : undefined
  if (typeof version === 'number' && version > RECIPE_VERSION) {
    throw new ChiraxisError('bad-version', 'This project was saved by a newer Chiraxis and cannot be opened by this one.')
  }
  const parsed = recipeSchema.safeParse(data)
  if (!parsed.success) {
    throw new ChiraxisError('bad-syntax', 'The project file does not hold a readable recipe.', { issues: parsed.error.issues.slice(0, 5) })
  }
  return parsed.data
}

/** The recipe with a finding's remedy in it. */
export function applyRemedy(recipe: Recipe, remedy: Remedy): Recipe {
  return {
    ...recipe,
    landmarks: remedy.edits ? { edits: { ...(remedy.edits as Record<string, Vec3>) } } : recipe.landmarks,
    transfer: remedy.ground === undefined ? recipe.transfer : { ...recipe.transfer, ground: remedy.ground },
  }
}
