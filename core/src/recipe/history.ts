import { graft, type RecipePatch } from './patches'
import { checkRecipe, type Recipe } from './recipe'

/** One named change: the recipe after it, and how it follows from the one before. */
export interface HistoryEntry {
  readonly name: string
  readonly recipe: Recipe
  /** From the entry before; none for the beginning. */
  readonly patches: readonly RecipePatch[]
}

/** A line of named changes with a place on it. Entry 0 is the beginning. */
export interface History {
  readonly entries: readonly HistoryEntry[]
  readonly at: number
  /** Running number of entry 0; grows as the oldest changes are let go. */
  readonly first: number
}

/** As many changes can be taken back. */
export const HISTORY_LENGTH = 300

export const startHistory = (recipe: Recipe, name = 'Start'): History => ({
  entries: [{ name, recipe, patches: [] }],
  at: 0,
  first: 0,
})

export const currentRecipe = (history: History): Recipe => history.entries[history.at].recipe

/**
 * Adds a change after the present place; what was undone before it is gone. Nothing is added where nothing changed.
 * @param joins a change that goes on the one before when both carry the same name, as steps of one drag do
 * @throws ChiraxisError `bad-settings` where the recipe could not be read again: nothing is recorded then
 */
export function record(history: History, name: string, next: Recipe, joins = false): History {
  const kept = history.entries.slice(0, history.at + 1)
  if (joins && kept.length > 1 && kept[kept.length - 1].name === name) kept.pop()
  const { recipe, patches } = graft(kept[kept.length - 1].recipe, next)
  // a drag that ended where it began is no change
  if (patches.length === 0) return { ...history, entries: kept, at: kept.length - 1 }
  checkRecipe(recipe)
  const entries = [...kept, { name, recipe, patches }]
  const over = Math.max(0, entries.length - HISTORY_LENGTH)
  return { entries: entries.slice(over), at: entries.length - 1 - over, first: history.first + over }
}

/** Stands at any moment of what was done. @param at its place in the list, brought within it */
export const goTo = (history: History, at: number): History => ({
  ...history,
  at: Math.min(history.entries.length - 1, Math.max(0, Math.round(at))),
})
export const undo = (history: History): History => goTo(history, history.at - 1)
export const redo = (history: History): History => goTo(history, history.at + 1)

/** What undo and redo would take back or bring back, by name. */
export const undoName = (history: History): string | undefined =>
  history.at > 0 ? history.entries[history.at].name : undefined
export const redoName = (history: History): string | undefined => history.entries[history.at + 1]?.name
