import {
  currentRecipe,
  filesOf,
  historyOfRecipes,
  restoreHistory,
  type FileRef,
  type History,
  type Recipe,
  type StoredChange,
  type Unreadable,
} from '@chiraxis/core/recipe'
import type { ChiraxisDb, StoredProject } from './db'
import { clearJournal, readJournal, writeJournal, type JournalStorage } from './journal'
import { readRows, rowsOf } from './rows'

/** Another window took the project over: nothing more is written from here. */
export class TakenOverError extends Error {
  constructor() {
    super('Another window edits this project now.')
    this.name = 'TakenOverError'
  }
}

export interface Opened {
  readonly id: string
  readonly history: History
  /** How many records could not be read and were set aside. */
  readonly aside: number
}

/** Sizes of the files of a recipe by hash; worked out once for each. */
const named = new WeakMap<Recipe, ReadonlyMap<string, number>>()
function filesIn(recipe: Recipe): ReadonlyMap<string, number> {
  const known = named.get(recipe)
  if (known) return known
  const made = new Map(filesOf(recipe).map((f: FileRef) => [f.hash, f.size]))
  named.set(recipe, made)
  return made
}

/**
 * Keeps one project in the browser, change by change. Writes follow each other; what was changed meanwhile is written
 * with the next one. What is told as written is what the store confirmed, never what it was asked.
 */
export class Keeper {
  private readonly writer: string
  private project: string | undefined
  /** What the store holds, as far as it confirmed. */
  private written: History | undefined
  private wanted: History | undefined
  private revision = 0
  /** Number of the last note in the journal, and of the last that goes with what is being written. */
  private noted = 0
  private writing = 0
  private running: Promise<void> | undefined
  private files = new Map<string, number>()
  private untouched = false

  constructor(
    private readonly db: ChiraxisDb,
    private readonly storage: JournalStorage | undefined,
    private readonly now: () => number = Date.now,
  ) {
    this.writer = crypto.randomUUID()
  }

  get id(): string | undefined {
    return this.project
  }

  /** Whether the store confirmed just this history. */
  isWritten(history: History): boolean {
    return this.written === history
  }

  /** Begins a project with a history and makes it the one that is written. */
  async create(history: History, untouched = false): Promise<string> {
    const id = crypto.randomUUID()
    const at = this.now()
    this.adopt(id, undefined, 0)
    this.untouched = untouched
    for (const entry of history.entries) this.note(entry.recipe)
    await this.db.works.add({ ...this.row(id, history), createdAt: at, openedAt: at })
    await this.keep(history)
    return id
  }

  /**
   * Reads a project and makes it the one that is written. What cannot be read is set aside first, so that nothing is
   * written over it.
   * @returns undefined where there is no such project, or nothing of it could be read
   */
  async open(id: string): Promise<Opened | undefined> {
    const { db } = this
    const read = await db.transaction('rw', db.works, db.changes, db.snapshots, async () => {
      const { row, changes, snapshots } = await readRows(db, id)
      if (!row) return undefined
      const noted = readJournal(this.storage, id)
      const knows = noted?.writers.some(w => w === row.writer || w === row.wroteLast)
      // the browser may have lost that a note was thrown away
      const journal = knows && noted!.note > (row.noted ?? 0) ? noted : undefined
      if (journal) writeJournal(this.storage, { ...journal, writers: [...journal.writers.slice(-3), this.writer] })
      // from here on an earlier writer is refused, so what is read now is the last there will be
      await db.works.update(id, { writer: this.writer, openedAt: this.now() })
      return { row, changes, snapshots, journal }
    })
    if (!read) return undefined
    const { row, journal } = read
    const behind = journal !== undefined
    const changes = behind ? [...read.changes.filter(c => c.seq < journal.from), ...journal.changes] : read.changes
    const { history, unreadable } = restoreHistory(read.snapshots, changes, behind ? journal.at : row.at)
    if (unreadable.length > 0) await this.setAside(id, row.name, unreadable)
    if (!history) return undefined
    this.adopt(id, behind || unreadable.length > 0 ? undefined : history, row.revision)
    this.noted = Math.max(row.noted ?? 0, journal?.note ?? 0)
    this.untouched = row.untouched
    for (const entry of history.entries) this.note(entry.recipe)
    // numbered anew where records are missing; what the journal brought is written now
    if (behind || unreadable.length > 0) await this.keep(history)
    return { id, history, aside: unreadable.length }
  }

  /** Reads a project that another window writes: nothing is changed, not even what is damaged. */
  async look(id: string): Promise<Opened | undefined> {
    const { db } = this
    const read = await db.transaction('r', db.works, db.changes, db.snapshots, () => readRows(db, id))
    if (!read.row) return undefined
    const { history } = restoreHistory(read.snapshots, read.changes, read.row.at)
    this.release()
    return history && { id, history, aside: 0 }
  }

  /**
   * Takes the one project of version 1 over, entry by entry.
   * @returns its id, or undefined where there is none or nothing of it could be read
   */
  async takeOver(): Promise<{ id: string; aside: number } | undefined> {
    const { db } = this
    const old = await db.projects.toCollection().first()
    if (!old) return undefined
    let text: { entries?: { name?: unknown; recipe?: unknown }[]; at?: number } = {}
    try {
      text = JSON.parse(old.history) as typeof text
    } catch {
      text = {}
    }
    const list = Array.isArray(text.entries) ? text.entries : []
    const { history, unreadable } = historyOfRecipes(list, Number(text.at ?? list.length))
    const lost: Unreadable[] = history
      ? [...unreadable]
      : [{ seq: 0, reason: 'Nothing of it could be read.', data: old.history }]
    if (lost.length > 0) await this.setAside('', 'The project of an earlier version', lost)
    const id = history && (await this.create(history))
    await db.projects.delete(old.id)
    return id ? { id, aside: lost.length } : undefined
  }

  /**
   * Writes a history soon: at once where nothing is being written, else right after.
   * @returns when the store holds it, or something newer
   * @throws TakenOverError; or what the store says, for example that there is no room
   */
  keep(history: History): Promise<void> {
    this.wanted = history
    if (!this.project || this.written === history) return Promise.resolve()
    this.untouched &&= history.entries.length === 1
    this.noteInJournal(history)
    this.running ??= this.drain().finally(() => {
      this.running = undefined
    })
    return this.running
  }

  private async drain(): Promise<void> {
    while (this.wanted && this.written !== this.wanted) {
      const history = this.wanted
      this.writing = this.noted
      try {
        await this.write(history)
      } catch (error) {
        // what somebody else goes on from must not be changed by what was refused here
        if (error instanceof TakenOverError) clearJournal(this.storage, this.project!)
        throw error
      }
      if (this.wanted === history) clearJournal(this.storage, this.project!)
    }
  }

  /** How many changes at the beginning the store holds already, and from which number on others give way. */
  private common(history: History): number {
    const { written } = this
    if (!written) return history.first
    let seq = Math.max(history.first, written.first)
    const at = (h: History): History['entries'][number] | undefined => h.entries[seq - h.first]
    while (at(history) && at(history) === at(written)) seq++
    return seq
  }

  private changesFrom(history: History, from: number): StoredChange[] {
    return history.entries
      .map(({ name, patches }, i) => ({ seq: history.first + i, name, patches: patches as StoredChange['patches'] }))
      .slice(Math.max(0, from - history.first))
  }

  private noteInJournal(history: History): void {
    const { project, written } = this
    if (!project || !written) return
    const from = this.common(history)
    writeJournal(this.storage, {
      project,
      writers: [this.writer],
      at: history.first + history.at,
      note: ++this.noted,
      from,
      changes: this.changesFrom(history, from),
    })
  }

  private async write(history: History): Promise<void> {
    const { db, project } = this
    const id = project!
    const from = this.common(history)
    // a history that has nothing in common with what is there is written whole
    const begins = !this.written || from <= history.first
    const changes = this.changesFrom(history, from).filter(c => c.seq > history.first || !begins)
    for (const entry of history.entries.slice(Math.max(0, from - history.first))) this.note(entry.recipe)
    await db.transaction('rw', db.works, db.changes, db.snapshots, async () => {
      const row = await db.works.get(id)
      if (!row || row.writer !== this.writer) throw new TakenOverError()
      await rowsOf(db.changes, id, begins ? -1 : from).delete()
      await rowsOf(db.snapshots, id, begins ? -1 : from).delete()
      if (begins) {
        const { name, recipe } = history.entries[0]!
        await db.snapshots.put({ project: id, seq: history.first, name, recipe })
      }
      await db.changes.bulkPut(changes.map(change => ({ ...change, project: id })))
      const { createdAt, openedAt, picture, title } = row
      await db.works.put({
        ...this.row(id, history),
        createdAt,
        openedAt,
        picture,
        title,
        revision: this.revision + 1,
        wroteLast: this.writer,
      })
    })
    this.revision++
    this.written = history
  }

  private row(id: string, history: History): StoredProject {
    return {
      id,
      name: currentRecipe(history).name,
      createdAt: 0,
      openedAt: 0,
      savedAt: this.now(),
      at: history.first + history.at,
      revision: this.revision,
      writer: this.writer,
      wroteLast: '',
      noted: this.writing,
      files: [...this.files.keys()],
      fileBytes: [...this.files.values()].reduce((sum, size) => sum + size, 0),
      untouched: this.untouched,
    }
  }

  private note(recipe: Recipe): void {
    for (const [hash, size] of filesIn(recipe)) this.files.set(hash, size)
  }

  private adopt(id: string, history: History | undefined, revision: number): void {
    this.project = id
    this.written = this.wanted = history
    this.revision = revision
    this.noted = this.writing = 0
    this.files = new Map()
  }

  /** Gives up the project without writing anything more. */
  release(): void {
    this.project = this.written = this.wanted = undefined
  }

  private async setAside(project: string, name: string, list: readonly Unreadable[]): Promise<void> {
    const { db } = this
    const known = await db.aside.where('project').equals(project).toArray()
    const texts = new Set(known.map(k => JSON.stringify(k.data)))
    const fresh = list.filter(u => !texts.has(JSON.stringify(u.data)))
    await db.aside.bulkAdd(fresh.map(({ reason, data }) => ({ project, name, reason, data, at: this.now() })))
  }

  async setPicture(picture: string): Promise<void> {
    if (this.project) await this.db.works.update(this.project, { picture })
  }
}
