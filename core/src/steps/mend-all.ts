import type { WorkOptions } from '../math'
import { findAll, mendOne, RULES, type Finding } from '../findings'
import { applyRemedy, type Recipe } from '../recipe'
import { contextIn } from './context-in'
import type { Derivation } from './derivation'

/** One mending may bring another mismatch to light; a few rounds settle all that can be. */
const ROUNDS = 40

/**
 * Applies every safe remedy, rule by rule in the order in which they build on each other.
 * @returns the mended recipe, the rules that were mended, and what is left
 */
export async function mendAll(
  derivation: Derivation,
  recipe: Recipe,
  work: WorkOptions = {},
): Promise<{ recipe: Recipe; mended: string[]; left: Finding[] }> {
  let current = recipe
  const seen = new Set<string>()
  const tried = new Set<string>()
  const rank = new Map(RULES.map((r, i) => [r.id, i]))
  for (let round = 0; round < ROUNDS; round++) {
    const context = await contextIn(derivation, current, {}, work)
    const found = await findAll(context, { signal: work.signal })
    const next = found
      .filter(f => f.mendable && !tried.has(`${f.rule}:${f.target ?? f.where}`))
      .sort((a, b) => (rank.get(a.rule) ?? 0) - (rank.get(b.rule) ?? 0))[0]
    for (const f of found) if (f.mendable) seen.add(f.rule)
    if (!next) return done(found)
    tried.add(`${next.rule}:${next.target ?? next.where}`)
    const remedy = mendOne(next, context)
    if (!remedy) continue
    current = applyRemedy(current, remedy)
    work.onProgress?.(Math.min(0.95, (round + 1) / ROUNDS))
  }
  return done(await findAll(await contextIn(derivation, current, {}, work)))

  /** One remedy may mend several: what was there and no longer is counts. */
  function done(left: Finding[]): { recipe: Recipe; mended: string[]; left: Finding[] } {
    return {
      recipe: current,
      left,
      mended: RULES.map(r => r.id).filter(id => seen.has(id) && !left.some(f => f.rule === id)),
    }
  }
}
