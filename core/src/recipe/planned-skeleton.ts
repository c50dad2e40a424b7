import type { Hands, Landmark } from '../landmarks'
import { applyRigEdits, fitGiven } from '../rig'
import { buildPlan, type PlanKind, type RoleReading, type Skeleton } from '../skeleton'
import type { Recipe } from './recipe'

/** A skeleton of another file, as it was read. */
export interface GivenSkeleton {
  readonly skeleton: Skeleton
  readonly reading: RoleReading
}

/** The skeleton on a body's landmarks before any edit: the recipe's plan, or a given skeleton laid on it. */
export function planFor(
  recipe: Pick<Recipe, 'bones'>,
  plan: PlanKind,
  placed: readonly Landmark[],
  hands: Pick<Hands, 'fingers'>,
  given?: GivenSkeleton,
): Skeleton {
  if (!given) return buildPlan(plan, placed, { ...recipe.bones.plan, found: hands.fingers })
  // joints between two others lie on the plainest way
  const bare = buildPlan(plan, placed, { ...recipe.bones.plan, flex: 0, found: hands.fingers })
  return fitGiven(given.skeleton, given.reading, bare)
}

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
  given?: GivenSkeleton,
): Promise<Skeleton> {
  const skeleton = planFor(recipe, plan, placed, hands, given)
  const { rig } = await applyRigEdits({ skeleton, takes: [] }, recipe.bones.edits, height)
  return rig.skeleton
}
