import type { Table } from 'dexie'
import type { ChiraxisDb } from './db'

/** Rows of a project from one running number up to, but without, another. */
export const rowsOf = <T>(
  table: Table<T, [string, number]>,
  project: string,
  from = -1,
  to = Number.MAX_SAFE_INTEGER,
) => table.where('[project+seq]').between([project, from], [project, to])

/** A project's own row, its changes and its whole recipes, as they lie. */
export async function readRows(db: ChiraxisDb, id: string) {
  return {
    row: await db.works.get(id),
    changes: await rowsOf(db.changes, id).toArray(),
    snapshots: await rowsOf(db.snapshots, id).toArray(),
  }
}
