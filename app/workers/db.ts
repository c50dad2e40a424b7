import Dexie, { type EntityTable } from 'dexie'

/** A received file, by the hash of its bytes. */
export interface StoredFile {
  hash: string
  name: string
  bytes: Uint8Array
}
/** The open project: its whole history, as plain JSON. */
export interface StoredProject {
  id: string
  history: string
  savedAt: number
}

/** What the browser keeps: shared by the window and its worker. */
export const db = new Dexie('chiraxis') as Dexie & {
  files: EntityTable<StoredFile, 'hash'>
  projects: EntityTable<StoredProject, 'id'>
}
db.version(1).stores({ files: 'hash', projects: 'id' })

export const OPEN_PROJECT = 'open'
