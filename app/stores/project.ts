import { defineStore } from 'pinia'
import {
  applyRemedy,
  currentRecipe,
  emptyRecipe,
  parseRecipe,
  record,
  redo,
  redoName,
  startHistory,
  undo,
  undoName,
  type History,
  type Recipe,
  type TakeRef,
} from '@chiraxis/core/recipe'
import type { Remedy } from '@chiraxis/core/findings'
import { core, unwrap } from '~/workers/client'
import { db, OPEN_PROJECT } from '~/workers/db'

export type SavedState = 'saved' | 'saving' | 'unsaved'

/** The recipe, its named history, and its keeping. */
export const useProject = defineStore('project', () => {
  const history = shallowRef<History>(startHistory(emptyRecipe()))
  const recipe = computed<Recipe>(() => currentRecipe(history.value))
  const undoable = computed(() => undoName(history.value))
  const redoable = computed(() => redoName(history.value))
  const saved = ref<SavedState>('saved')
  const notice = ref('')
  const ready = ref(false)

  let timer: ReturnType<typeof setTimeout> | undefined
  /** Keeps the project soon; many changes in a row are kept once. */
  function keep(): void {
    saved.value = 'saving'
    clearTimeout(timer)
    timer = setTimeout(() => void keepNow(), 250)
  }

  async function keepNow(): Promise<void> {
    clearTimeout(timer)
    const content = JSON.stringify(history.value)
    try {
      await db.transaction('rw', db.projects, () =>
        db.projects.put({ id: OPEN_PROJECT, history: content, savedAt: Date.now() }),
      )
      saved.value = 'saved'
    } catch {
      saved.value = 'unsaved'
      notice.value = 'The browser could not keep the project. Save it to a file.'
    }
  }

  function change(name: string, next: Recipe, joins = false): void {
    history.value = record(history.value, name, next, joins)
    keep()
  }

  function stepBack(): void {
    history.value = undo(history.value)
    keep()
  }

  function stepForward(): void {
    history.value = redo(history.value)
    keep()
  }

  const mend = (name: string, remedy: Remedy): void => change(name, applyRemedy(recipe.value, remedy))

  /** Brings back what was kept; false where there is nothing. */
  async function restore(): Promise<boolean> {
    const stored = await db.projects.get(OPEN_PROJECT)
    if (!stored) return false
    try {
      const read = JSON.parse(stored.history) as History
      const entries = read.entries.map(e => ({ name: String(e.name), recipe: parseRecipe(e.recipe) }))
      if (entries.length === 0) return false
      history.value = { entries, at: Math.min(entries.length - 1, Math.max(0, read.at)) }
      return true
    } catch {
      notice.value = 'The kept project could not be read; the sample figure was opened in its place.'
      return false
    }
  }

  /** Opens a recipe as a new beginning. */
  function open(next: Recipe, name: string): void {
    history.value = startHistory(next, name)
    keep()
  }

  const addTakes = (takes: TakeRef[], name: string): void =>
    change(name, { ...recipe.value, takes: [...recipe.value.takes, ...takes] })

  async function pack(): Promise<Uint8Array> {
    return unwrap(core().pack(toRaw(recipe.value)))
  }

  return {
    history,
    recipe,
    undoable,
    redoable,
    saved,
    notice,
    ready,
    change,
    stepBack,
    stepForward,
    mend,
    restore,
    open,
    addTakes,
    pack,
    keepNow,
  }
})
