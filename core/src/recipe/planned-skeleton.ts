import type { Hands, Landmark } from '../landmarks'
import { applyRigEdits } from '../rig'
import { buildPlan, type PlanKind, type Skeleton } from '../skeleton'
import type { Recipe } from './recipe'

/** The skeleton of the recipe's plan on a body's landmarks, before any edit. */
export const planFor = (
  recipe: Pick<Recipe, 'bones'>,
  plan: PlanKind,
  placed: readonly Landmark[],
  hands: Pick<Hands, 'fingers'>,
): Skeleton => buildPlan(plan, placed, { ...recipe.bones.plan, found: hands.fingers })

/**
 * The same with every joint edit made: what a dragged landmark leads to, without body, skin or takes.
 * @param height of the figure, metres
 */
export async function plannedSkeleton(
  recipe: Pick<Recipe, 'bones'>,
  plan: PlanKind,
  placed: readonly Landmark[],
  hands: Pick<Hands, 'fingers'>,
  height: number,
): Promise<Skeleton> {
  const skeleton = planFor(recipe, plan, placed, hands)
  const { rig } = await applyRigEdits({ skeleton, takes: [] }, recipe.bones.edits, height)
  return rig.skeleton
}
