import Dexie, { type EntityTable, type Table } from 'dexie'
import type { StoredChange, StoredSnapshot } from '@chiraxis/core/recipe'

/** A received file, by the hash of its bytes. */
export interface StoredFile {
  hash: string
  name: string
  bytes: Uint8Array
  /** When it was kept, milliseconds; what was kept by older versions has none. */
  at?: number
}

/** A project as the list shows it, and where its history stands. */
export interface StoredProject {
  id: string
  /** The figure's name. */
  name: string
  /** What the project was called otherwise. */
  title?: string
  /** A small picture of the figure, as an address that holds it. */
  picture?: string
  createdAt: number
  savedAt: number
  openedAt: number
  /** Running number of the change one stands at. */
  at: number
  /** Grows with every write. */
  revision: number
  /** Who writes it now: a later one takes over, and the earlier one is refused. */
  writer: string
  /** Who wrote it last. */
  wroteLast: string
  /** Number of the last note in the journal that is written here; older rows have none. */
  noted?: number
  /** Hashes of the files its history names. */
  files: string[]
  /** Their sizes together, bytes. */
  fileBytes: number
  /** A sample that nobody changed: it gives way to the next project. */
  untouched: boolean
}

export interface ChangeRow extends StoredChange {
  project: string
}
export interface SnapshotRow extends StoredSnapshot {
  project: string
}

/** What could not be read, as it was found: kept until the person throws it away. */
export interface AsideRow {
  id?: number
  project: string
  name: string
  at: number
  reason: string
  data: unknown
}

/** The one open project of version 1: its whole history as text. */
interface OldProject {
  id: string
  history: string
  savedAt: number
}

/** What the browser keeps: shared by the window and its worker. */
export type ChiraxisDb = Dexie & {
  files: EntityTable<StoredFile, 'hash'>
  /** Of version 1; what is there is taken over once. */
  projects: EntityTable<OldProject, 'id'>
  works: EntityTable<StoredProject, 'id'>
  changes: Table<ChangeRow, [string, number]>
  snapshots: Table<SnapshotRow, [string, number]>
  aside: EntityTable<AsideRow, 'id'>
}

/** @param name another one for tests */
export function openDb(name = 'chiraxis'): ChiraxisDb {
  const made = new Dexie(name) as ChiraxisDb
  made.version(1).stores({ files: 'hash', projects: 'id' })
  made.version(2).stores({
    files: 'hash, at',
    projects: 'id',
    works: 'id, openedAt',
    changes: '[project+seq]',
    snapshots: '[project+seq]',
    aside: '++id, project',
  })
  return made
}

export const db = openDb()
