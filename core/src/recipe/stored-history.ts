import { z } from 'zod'
import { ChiraxisError } from '../math'
import { HISTORY_LENGTH, type History, type HistoryEntry } from './history'
import { applyRecipePatches, graft, patchSchema } from './patches'
import { checkRecipe, parseRecipe, RECIPE_VERSION, type Recipe } from './recipe'

/** A change as it is kept: how it follows from the one before it. */
export const storedChangeSchema = z.object({
  seq: z.number().int().nonnegative(),
  name: z.string().max(1000),
  patches: z.array(patchSchema).max(1_000_000),
})
export type StoredChange = z.infer<typeof storedChangeSchema>

/** A whole recipe, kept now and then. */
export interface StoredSnapshot {
  readonly seq: number
  readonly name: string
  readonly recipe: unknown
}

/** What could not be read of a kept history, as it was found, and why. */
export interface Unreadable {
  readonly seq: number
  readonly reason: string
  readonly data: unknown
}

export interface Restored {
  /** As much as could be read; undefined where nothing could. */
  readonly history?: History
  readonly unreadable: readonly Unreadable[]
}

/**
 * Rebuilds a history change by change from what was kept. A change that cannot be read, and those after it that build
 * on it, are told and left out; the history goes on from the next snapshot. Nothing that can be read is dropped.
 * @param at running number of the change one stood at
 */
export function restoreHistory(
  snapshots: readonly StoredSnapshot[],
  changes: readonly unknown[],
  at: number,
): Restored {
  const unreadable: Unreadable[] = []
  const numbered = (item: unknown): number => {
    const seq = (item as { seq?: unknown } | null)?.seq
    return typeof seq === 'number' ? seq : -1
  }
  const steps = [
    ...snapshots.map(data => ({ seq: data.seq, whole: true, data: data as unknown })),
    ...changes.map(data => ({ seq: numbered(data), whole: false, data })),
  ].sort((a, b) => a.seq - b.seq || Number(a.whole) - Number(b.whole))
  let entries: (HistoryEntry & { seq: number })[] = []
  // changes are told against the recipe as it was written, which may be of an older version
  let written: Recipe | undefined
  let broken = true
  for (const { seq, whole, data } of steps) {
    const last = entries[entries.length - 1]
    try {
      if (whole) {
        // a snapshot of what is there already tells nothing new
        if (!broken && last?.seq === seq) continue
        const { name, recipe } = data as StoredSnapshot
        const read = parseRecipe(recipe)
        written = isCurrent(recipe) ? read : (recipe as Recipe)
        // what lies between could not be read: the step over the gap is told as one change
        entries.push({ seq, name: String(name), ...(last ? graft(last.recipe, read) : { recipe: read, patches: [] }) })
        broken = false
      } else if (broken || seq !== last.seq + 1) {
        // the change a snapshot was made of
        if (!broken && seq <= last.seq) continue
        broken = true
        unreadable.push({ seq, data, reason: 'The change before it could not be read.' })
      } else {
        const { name, patches } = storedChangeSchema.parse(data)
        const next = applyRecipePatches(written!, patches)
        if (isCurrent(next)) {
          checkRecipe(next)
          entries.push({ seq, name, patches, recipe: next })
        } else entries.push({ seq, name, ...graft(last.recipe, parseRecipe(next)) })
        written = next
      }
    } catch (error) {
      if (!whole) broken = true
      const reason = error instanceof ChiraxisError ? error.message : 'It is damaged.'
      unreadable.push({ seq, data, reason })
    }
  }
  if (entries.length === 0) return { unreadable }
  const stood = Math.max(
    0,
    entries.findLastIndex(e => e.seq <= at),
  )
  // what was undone long ago, or done before anybody would take it back, is let go
  const gone = Math.max(0, Math.min(stood, entries.length - HISTORY_LENGTH))
  entries = entries.slice(gone)
  const first = entries[0].seq
  return {
    history: {
      first,
      at: stood - gone,
      entries: entries.map(({ name, recipe, patches }) => ({ name, recipe, patches })),
    },
    unreadable,
  }
}

const isCurrent = (recipe: unknown): boolean => (recipe as { version?: unknown } | null)?.version === RECIPE_VERSION

/** A history of an older version, kept as whole recipes: every one that can be read, as changes. */
export function historyOfRecipes(list: readonly { name?: unknown; recipe?: unknown }[], at: number): Restored {
  const unreadable: Unreadable[] = []
  const entries: HistoryEntry[] = []
  let index = 0
  list.forEach((item, i) => {
    try {
      const read = parseRecipe(item?.recipe)
      const last = entries[entries.length - 1]
      const made: { recipe: Recipe; patches: HistoryEntry['patches'] } = last
        ? graft(last.recipe, read)
        : { recipe: read, patches: [] }
      entries.push({ name: String(item.name ?? 'Change').slice(0, 1000), ...made })
      if (i <= at) index = entries.length - 1
    } catch (error) {
      unreadable.push({ seq: i, data: item, reason: error instanceof Error ? error.message : String(error) })
    }
  })
  return entries.length === 0 ? { unreadable } : { history: { first: 0, at: index, entries }, unreadable }
}
