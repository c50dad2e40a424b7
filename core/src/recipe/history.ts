import type { Recipe } from './recipe'

/** One named change: the recipe after it. */
export interface HistoryEntry {
  readonly name: string
  readonly recipe: Recipe
}

/** A line of named changes with a place on it. Entry 0 is the beginning. */
export interface History {
  readonly entries: readonly HistoryEntry[]
  readonly at: number
}

const MOST = 300

export const startHistory = (recipe: Recipe, name = 'Start'): History => ({ entries: [{ name, recipe }], at: 0 })

export const currentRecipe = (history: History): Recipe => history.entries[history.at].recipe

/**
 * Adds a change after the present place; what was undone before it is gone.
 * @param joins a change that goes on the one before when both carry the same name, as steps of one drag do
 */
export function record(history: History, name: string, recipe: Recipe, joins = false): History {
  const kept = history.entries.slice(0, history.at + 1)
  if (joins && kept.length > 1 && kept[kept.length - 1].name === name) kept.pop()
  const entries = [...kept, { name, recipe }].slice(-MOST)
  return { entries, at: entries.length - 1 }
}

export const undo = (history: History): History => ({ ...history, at: Math.max(0, history.at - 1) })
export const redo = (history: History): History => ({
  ...history,
  at: Math.min(history.entries.length - 1, history.at + 1),
})

/** What undo and redo would take back or bring back, by name. */
export const undoName = (history: History): string | undefined =>
  history.at > 0 ? history.entries[history.at].name : undefined
export const redoName = (history: History): string | undefined => history.entries[history.at + 1]?.name
