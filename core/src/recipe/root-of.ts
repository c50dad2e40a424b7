import { spotted, type RootSettings } from '../root-motion'
import type { Recipe } from './recipe'

/** How a take travels, by its id: what was told of it alone, else of all. */
export function rootOf(
  { takes, ownRoot, root }: Pick<Recipe, 'takes' | 'ownRoot' | 'root'>,
  id: string,
): RootSettings | undefined {
  const take = takes.find(t => t.id === id)
  return spotted((take ? take.root : ownRoot?.[id]) ?? root, take?.adjust?.onTheSpot)
}
