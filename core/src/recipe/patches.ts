import { applyPatches, enablePatches, produceWithPatches, type Patch } from 'immer'
import { z } from 'zod'
import { digest } from './digest'
import type { Recipe } from './recipe'

enablePatches()

/** One step from a recipe to the next: a place in it, and what is there afterwards. */
export const patchSchema = z.object({
  op: z.enum(['add', 'replace', 'remove']),
  path: z.array(z.union([z.string().max(400), z.number().int().nonnegative()])).max(40),
  value: z.unknown().optional(),
})
export type RecipePatch = z.infer<typeof patchSchema>

/**
 * The recipe `next`, sharing every part with `base` in which they are alike, and the patches that lead there. However
 * the next recipe was made, what did not change stays the same object, so that it is neither written nor worked out
 * again.
 */
export function graft(base: Recipe, next: Recipe): { recipe: Recipe; patches: RecipePatch[] } {
  const [recipe, patches] = produceWithPatches(base, draft => {
    bring(draft as Plain, base as unknown as Plain, next as unknown as Plain)
  })
  return { recipe, patches: patches as RecipePatch[] }
}

/** Follows patches. What they do not touch stays the same object. */
export const applyRecipePatches = (base: Recipe, patches: readonly RecipePatch[]): Recipe =>
  applyPatches(base, patches as Patch[])

type Plain = Record<string, unknown>
const isPlain = (value: unknown): value is Plain => typeof value === 'object' && value !== null && !Array.isArray(value)
const isList = (value: unknown): value is unknown[] => Array.isArray(value) && value.every(isPlain)
const alike = (a: unknown, b: unknown): boolean => a === b || digest(a) === digest(b)

function bring(draft: Plain, base: Plain, next: Plain): void {
  for (const key of Object.keys(base)) if (next[key] === undefined && base[key] !== undefined) delete draft[key]
  for (const [key, to] of Object.entries(next)) {
    const from = base[key]
    if (to === undefined || from === to) continue
    if (isPlain(from) && isPlain(to)) bring(draft[key] as Plain, from, to)
    else if (isList(from) && isList(to)) bringList(draft[key] as unknown[], from, to)
    else if (!alike(from, to)) draft[key] = to
  }
}

/** Lists of records: what both begin and end with stays; one record changed in place is changed within. */
function bringList(draft: unknown[], base: readonly unknown[], next: readonly unknown[]): void {
  const least = Math.min(base.length, next.length)
  let head = 0
  while (head < least && alike(base[head], next[head])) head++
  let tail = 0
  while (tail < least - head && alike(base[base.length - 1 - tail], next[next.length - 1 - tail])) tail++
  const gone = base.length - head - tail
  const come = next.length - head - tail
  if (gone === come) {
    for (let i = head; i < head + gone; i++)
      if (!alike(base[i], next[i])) bring(draft[i] as Plain, base[i] as Plain, next[i] as Plain)
  } else draft.splice(head, gone, ...next.slice(head, head + come))
}
