import type { StoredChange } from '@chiraxis/core/recipe'

/** What was changed but is not yet known to be written. */
export interface JournalEntry {
  readonly project: string
  /** Who changed it, and who brought it back: where somebody else wrote since, it no longer counts. */
  readonly writers: readonly string[]
  readonly at: number
  /** Running number of the note: one that the store knows already is no longer needed, even if it still lies here. */
  readonly note: number
  /** Running number of the first change that gives way. */
  readonly from: number
  readonly changes: readonly StoredChange[]
}

/** As much of `localStorage` as is needed. */
export type JournalStorage = Pick<Storage, 'getItem' | 'setItem' | 'removeItem'>

/** Larger changes are left to the store alone, characters. */
const MOST = 400_000

const keyOf = (project: string): string => `chiraxis:journal:${project}`

/**
 * A note of the last change, written before the store is asked to: a window that closes within the same moment loses
 * nothing. Where there is no room for it the store still keeps everything.
 */
export function writeJournal(storage: JournalStorage | undefined, entry: JournalEntry): void {
  try {
    const text = JSON.stringify(entry)
    if (text.length <= MOST) storage?.setItem(keyOf(entry.project), text)
    else storage?.removeItem(keyOf(entry.project))
  } catch {
    // no room, or not allowed: the store writes it anyway, and an older note must not stand
    clearJournal(storage, entry.project)
  }
}

export function clearJournal(storage: JournalStorage | undefined, project: string): void {
  try {
    storage?.removeItem(keyOf(project))
  } catch {
    // not allowed: then nothing was written either
  }
}

export function readJournal(storage: JournalStorage | undefined, project: string): JournalEntry | undefined {
  try {
    const read = JSON.parse(storage?.getItem(keyOf(project)) ?? 'null') as Partial<JournalEntry> | null
    const sound = read?.project === project && Array.isArray(read.writers) && Array.isArray(read.changes)
    return sound && [read.at, read.from, read.note].every(Number.isSafeInteger) ? (read as JournalEntry) : undefined
  } catch {
    return undefined
  }
}
