import { defineStore } from 'pinia'
import {
  applyRemedy,
  currentRecipe,
  emptyRecipe,
  record,
  redo,
  goTo,
  redoName,
  startHistory,
  undo,
  undoName,
  type History,
  type Recipe,
} from '@chiraxis/core/recipe'
import type { Remedy } from '@chiraxis/core/findings'
import { core, tell, unwrap } from '~/workers/client'
import { isGoingOn } from '~/composables/gesture'
import { db, type StoredProject } from '~/keeping/db'
import { SNAPSHOT_EVERY } from '~/keeping/compact'
import { Keeper, TakenOverError } from '~/keeping/keeper'
import { duplicateProject, listProjects, removeProject, retitleProject, sweepFiles } from '~/keeping/project-list'

export type SavedState = 'saved' | 'saving' | 'unsaved' | 'read only'

/** Why something is told above the work. */
export interface Notice {
  readonly text: string
  /** What can be done about it. */
  readonly action?: { readonly label: string; readonly run: () => void }
}

/** How long another window is waited for before the project is only looked at, milliseconds. */
const LETTING_GO = [150, 450]
const LAST = 'chiraxis:project'
const lockOf = (id: string): string => `chiraxis:project:${id}`

/** The recipe, its named history, and its keeping. */
export const useProject = defineStore('project', () => {
  const history = shallowRef<History>(startHistory(emptyRecipe()))
  const recipe = computed<Recipe>(() => currentRecipe(history.value))
  const undoable = computed(() => undoName(history.value))
  const redoable = computed(() => redoName(history.value))
  const saved = ref<SavedState>('saved')
  const notice = shallowRef<Notice>()
  const ready = ref(false)
  const id = ref<string>()
  /** Another window edits this project; here it can only be looked at. */
  const readOnly = ref(false)

  const keeper = new Keeper(db, globalThis.localStorage)
  /** Ends when the project is given up; the lock is held as long. */
  let letGo: (() => void) | undefined
  let sinceCompacted = 0

  /** Writes what was changed; told as saved only when the store confirmed just this. */
  async function keep(again = false): Promise<void> {
    const wanted = history.value
    if (readOnly.value || !id.value) return
    saved.value = 'saving'
    try {
      await keeper.keep(wanted)
      if (history.value !== wanted) return
      saved.value = keeper.isWritten(wanted) ? 'saved' : 'unsaved'
      if (++sinceCompacted > SNAPSHOT_EVERY) {
        sinceCompacted = 0
        void core().compact(id.value)
      }
    } catch (error) {
      if (error instanceof TakenOverError) return becomeReadOnly()
      saved.value = 'unsaved'
      const full = error instanceof Error && /quota/i.test(`${error.name} ${error.message}`)
      // what can be worked out again gives way first, once
      if (full && !again) {
        await core().clearResults()
        return keep(true)
      }
      notice.value = {
        text: full
          ? 'The browser has no room left: the last changes are only in this window. Save the project to a file, or delete other projects.'
          : `The browser did not keep the last changes (${error instanceof Error ? error.name : 'refused'}): they are only in this window. Save the project to a file.`,
        action: { label: 'Try again', run: () => void keep() },
      }
    }
  }

  function becomeReadOnly(): void {
    readOnly.value = true
    saved.value = 'read only'
  }

  /** Records a change; one that is refused changes nothing, and it is told why. */
  function change(name: string, next: Recipe, joins = false): void {
    if (readOnly.value) {
      notice.value = { text: 'Another window edits this project, so nothing was changed.', action: takeOverAction }
      return
    }
    const begun = performance.now()
    try {
      const after = record(history.value, name, next, joins || isGoingOn())
      if (after.entries === history.value.entries) return
      history.value = after
    } catch (error) {
      notice.value = { text: error instanceof Error ? error.message : String(error) }
      return
    }
    void keep()
    // what recording and keeping a change costs the window, to be looked at in a trace
    performance.measure('chiraxis:keep', { start: begun, end: performance.now() })
  }

  function step(after: History): void {
    if (readOnly.value) return
    history.value = after
    void keep()
  }
  const stepBack = (): void => step(undo(history.value))
  const stepForward = (): void => step(redo(history.value))
  /** All that was done, oldest first, and where one stands in it. */
  const done = computed(() => ({ names: history.value.entries.map(e => e.name), at: history.value.at }))
  const stepTo = (at: number): void => step(goTo(history.value, at))

  const mend = (name: string, remedy: Remedy): void => change(name, applyRemedy(recipe.value, remedy))

  /** Takes the right to edit a project, where the browser knows locks. @returns false where another window has it */
  async function claim(project: string, steal = false): Promise<boolean> {
    letGo?.()
    letGo = undefined
    const locks = globalThis.navigator?.locks
    if (!locks) return true
    return new Promise(resolve => {
      const held = new Promise<void>(done => {
        letGo = done
      })
      locks
        .request(lockOf(project), steal ? { steal: true } : { ifAvailable: true }, lock => {
          resolve(lock !== null)
          return lock ? held : undefined
        })
        .catch(() => {
          // another window took the project over
          if (id.value === project) becomeReadOnly()
        })
    })
  }

  /** Opens a kept project. @returns false where it could not be read; the open one stays then */
  async function openKept(project: string, steal = false): Promise<boolean> {
    let mine = await claim(project, steal)
    // a window that was closed or died a moment ago may still be letting go
    for (const wait of LETTING_GO) {
      if (mine) break
      await new Promise(done => setTimeout(done, wait))
      mine = await claim(project)
    }
    const opened = await (mine ? keeper.open(project) : keeper.look(project))
    if (!opened) {
      letGo?.()
      if (id.value) await claim(id.value)
      return false
    }
    id.value = project
    readOnly.value = !mine
    saved.value = mine ? 'saved' : 'read only'
    history.value = opened.history
    remember(project)
    if (opened.aside > 0)
      notice.value = {
        text: `${opened.aside === 1 ? 'One change' : `${opened.aside} changes`} of this project could not be read. They were set aside and can be saved from the list of projects.`,
      }
    if (!mine)
      notice.value = {
        text: 'This project is open in another window. It can be looked at here.',
        action: takeOverAction,
      }
    return true
  }
  const takeOverAction = { label: 'Edit it here', run: (): void => void takeOver() }
  async function takeOver(): Promise<void> {
    if (!id.value) return
    notice.value = undefined
    await openKept(id.value, true)
  }

  function remember(project: string): void {
    try {
      sessionStorage.setItem(LAST, project)
    } catch {
      // not allowed: the project opened last is found by its date
    }
  }

  /** What was on its way into a project when a window died is thrown away, where no other window may still want it. */
  async function sweepUnnamed(): Promise<void> {
    const open = await globalThis.navigator?.locks?.query().catch(() => undefined)
    if (open?.held?.length === 0) await sweepFiles(db).catch(() => undefined)
  }

  /** Brings back what was open; false where there is nothing. */
  async function restore(): Promise<boolean> {
    try {
      const older = await keeper.takeOver()
      if (older) return await openKept(older.id)
      const list = await listProjects(db)
      const here = sessionStorage.getItem(LAST)
      void sweepUnnamed()
      const order = [...list.filter(p => p.id === here), ...list.filter(p => p.id !== here)]
      for (const project of order.slice(0, 3)) if (await openKept(project.id)) return true
      if (order.length > 0)
        notice.value = {
          text: 'The project that was open could not be read. It was left as it is and can be saved from the list of projects.',
        }
    } catch (error) {
      notice.value = {
        text: `The browser does not let anything be kept here (${error instanceof Error ? error.name : 'refused'}). Work goes on, but only in this window: save it to a file.`,
      }
      saved.value = 'unsaved'
    }
    return false
  }

  /**
   * Opens a recipe as a project of its own. The one that was open stays in the list as it was; only a sample that nobody
   * changed gives way.
   */
  async function open(next: Recipe, name: string, untouched = false): Promise<void> {
    const before = id.value
    const stale = before !== undefined && !readOnly.value && (await isUntouched(before))
    const made = startHistory(next, name)
    try {
      const project = await keeper.create(made, untouched)
      await claim(project)
      id.value = project
      readOnly.value = false
      saved.value = 'saved'
      remember(project)
      if (stale && before) await remove(before)
    } catch (error) {
      // the browser keeps nothing: the project lives in this window
      saved.value = 'unsaved'
      notice.value = {
        text: `The browser could not keep this project (${error instanceof Error ? error.name : 'refused'}): it is only in this window. Save it to a file.`,
      }
    }
    history.value = made
  }
  const isUntouched = async (project: string): Promise<boolean> => (await db.works.get(project))?.untouched === true
  /** Whether what is open is a sample that nobody changed. */
  const isSample = async (): Promise<boolean> => id.value !== undefined && (await isUntouched(id.value))

  async function pack(): Promise<Uint8Array> {
    return unwrap(core().pack(tell(recipe.value)))
  }

  /** All projects the browser keeps, the one opened last first. */
  const list = (): Promise<StoredProject[]> => listProjects(db)
  /** What another project was last, read without opening it. */
  async function recipeOf(project: string): Promise<Recipe> {
    const looked = await keeper.look(project)
    if (!looked) throw new Error('That project could not be read.')
    return currentRecipe(looked.history)
  }
  const retitle = (project: string, title: string): Promise<void> => retitleProject(db, project, title)
  const duplicate = (project: string, title: string): Promise<string> => duplicateProject(db, project, title)
  const remove = (project: string): Promise<void> => removeProject(db, globalThis.localStorage, project)
  const setPicture = (picture: string): Promise<void> => keeper.setPicture(picture)

  return {
    history,
    recipeOf,
    isSample,
    recipe,
    undoable,
    redoable,
    saved,
    notice,
    ready,
    id,
    readOnly,
    change,
    stepBack,
    stepForward,
    done,
    stepTo,
    mend,
    restore,
    open,
    openKept,
    takeOver,
    pack,
    list,
    retitle,
    duplicate,
    remove,
    setPicture,
  }
})
