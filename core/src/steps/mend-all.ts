import type { WorkOptions } from '../math'
import { findAll, mendOne, RULES, type Finding, type FindingContext } from '../findings'
import { applyRemedy, type Recipe } from '../recipe'
import { contextIn } from './context-in'
import type { Derivation } from './derivation'

/** One mending may bring another mismatch to light; a few rounds settle all that can be. */
const ROUNDS = 40

/** How much a finding of each severity weighs when a remedy is judged. */
const WEIGHT = { error: 9, warning: 3, note: 1 } as const
const burden = (found: readonly Finding[]): number => found.reduce((s, f) => s + WEIGHT[f.severity], 0)

/**
 * What is wrong more often than before, or at all more: nothing where a remedy only helped.
 * @param mendable what can be mended in turn does not count
 */
function grown(before: readonly Finding[], after: readonly Finding[], mendable = false): string[] {
  const serious = (found: readonly Finding[], rule: string): number =>
    found.filter(f => f.rule === rule && f.severity !== 'note').length
  const known = new Set(before.map(f => `${f.rule}:${f.where}`))
  const more = after.filter(
    f =>
      f.severity !== 'note' &&
      !(mendable && f.mendable) &&
      serious(after, f.rule) > serious(before, f.rule) &&
      !known.has(`${f.rule}:${f.where}`),
  )
  if (more.length > 0) return more.map(f => f.message)
  return burden(after) > burden(before) ? after.filter(f => !known.has(`${f.rule}:${f.where}`)).map(f => f.message) : []
}

export interface Mending {
  readonly recipe: Recipe
  /** Rules that were mended. */
  readonly mended: string[]
  /** What was found at first, and what is left. */
  readonly before: readonly Finding[]
  readonly left: Finding[]
  /** Remedies that were taken back, because more was wrong after them. */
  readonly takenBack: readonly { readonly rule: string; readonly where: string; readonly worse: readonly string[] }[]
}

/**
 * Applies every safe remedy, rule by rule in the order in which they build on each other. Each is looked at afterwards and taken
 * back where more is wrong than before.
 */
export async function mendAll(derivation: Derivation, recipe: Recipe, work: WorkOptions = {}): Promise<Mending> {
  // one mending may bring to light what the next one mends; where that ends badly, nothing new is let in at all
  const mending = await attempt(derivation, recipe, false, work)
  return grown(mending.before, mending.left).length === 0 ? mending : attempt(derivation, recipe, true, work)
}

async function attempt(derivation: Derivation, recipe: Recipe, strict: boolean, work: WorkOptions): Promise<Mending> {
  const look = async (r: Recipe): Promise<{ context: FindingContext; found: Finding[] }> => {
    const context = await contextIn(derivation, r, {}, work)
    return { context, found: await findAll(context, { signal: work.signal }) }
  }
  let current = recipe
  let now = await look(current)
  const before = now.found
  const seen = new Set<string>()
  const tried = new Set<string>()
  const takenBack: Mending['takenBack'][number][] = []
  const rank = new Map(RULES.map((r, i) => [r.id, i]))
  for (let round = 0; round < ROUNDS; round++) {
    const { context, found } = now
    const next = found
      .filter(f => f.mendable && !tried.has(`${f.rule}:${f.target ?? f.where}`))
      .sort((a, b) => (rank.get(a.rule) ?? 0) - (rank.get(b.rule) ?? 0))[0]
    for (const f of found) if (f.mendable) seen.add(f.rule)
    if (!next) break
    tried.add(`${next.rule}:${next.target ?? next.where}`)
    const remedy = mendOne(next, context)
    if (!remedy) continue
    const mended = applyRemedy(current, remedy)
    const after = await look(mended)
    work.onProgress?.(Math.min(0.95, (round + 1) / ROUNDS))
    const worse = grown(found, after.found, !strict)
    if (worse.length > 0) {
      takenBack.push({ rule: next.rule, where: next.where, worse })
      continue
    }
    current = mended
    now = after
  }
  // one remedy may mend several: what was there and no longer is counts
  const left = now.found
  const mended = RULES.map(r => r.id).filter(id => seen.has(id) && !left.some(f => f.rule === id))
  return { recipe: current, mended, before, left, takenBack }
}
