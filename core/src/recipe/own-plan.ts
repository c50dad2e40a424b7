import { z } from 'zod'
import { ChiraxisError } from '../math'
import { rigEditSchema } from '../rig'
import { planSchema, type Recipe } from './recipe'

/** A skeleton layout to use on other bodies: the plan it grew from and what was made of it by hand. */
export const ownPlanSchema = z.object({
  chiraxisPlan: z.literal(1),
  name: z.string().min(1).max(120),
  plan: planSchema,
  edits: z.array(rigEditSchema).max(2000),
})
export type OwnPlan = z.infer<typeof ownPlanSchema>

/** The layout of a figure built by a plan. Landmark places stay with the body; all edits go along. */
export const planOfRecipe = (recipe: Recipe, name: string): OwnPlan => ({
  chiraxisPlan: 1,
  name,
  plan: recipe.bones.plan,
  edits: recipe.bones.edits,
})

/** A recipe laid out by a plan; joint edits made before give way to those of the plan. */
export const withPlan = (recipe: Recipe, own: OwnPlan): Recipe => ({
  ...recipe,
  bones: { source: 'plan', plan: own.plan, edits: own.edits },
})

/** @throws ChiraxisError `bad-syntax`, `bad-version` */
export function parseOwnPlan(data: unknown): OwnPlan {
  const version = (data as { chiraxisPlan?: unknown } | null)?.chiraxisPlan
  if (typeof version === 'number' && version > 1)
    throw new ChiraxisError('bad-version', 'This plan was saved by a newer Chiraxis and cannot be read by this one.')
  const parsed = ownPlanSchema.safeParse(data)
  if (!parsed.success) throw new ChiraxisError('bad-syntax', 'This file does not hold a skeleton plan.')
  return parsed.data
}
