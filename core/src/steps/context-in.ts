import type { WorkOptions } from '../math'
import type { FindingContext } from '../findings'
import type { Recipe } from '../recipe'
import { contextOf, type ContextOptions } from './context'
import type { Derivation } from './derivation'
import type { StepContext, StepName } from './types'

/** What the rules look at, for callers outside of the table. */
export const contextIn = (
  derivation: Derivation,
  recipe: Recipe,
  options: ContextOptions = {},
  work: WorkOptions = {},
): Promise<FindingContext> => {
  const get = (step: StepName, of?: string): Promise<unknown> =>
    derivation.get(step as 'take', recipe, { ...work, of: of! })
  return contextOf(recipe, get as StepContext['get'], options)
}
