import type { ChiraxisDb, StoredProject } from './db'
import { clearJournal, type JournalStorage } from './journal'
import { rowsOf } from './rows'

/** Files that nobody names are kept this long, because they may be on their way into a project, milliseconds. */
const GRACE = 10 * 60_000

/** All projects, the one opened last before the others. */
export const listProjects = (db: ChiraxisDb): Promise<StoredProject[]> =>
  db.works.orderBy('openedAt').reverse().toArray()

/** Calls a project something else than its figure. */
export async function retitleProject(db: ChiraxisDb, id: string, title: string): Promise<void> {
  await db.works.update(id, { title: title.trim() || undefined })
}

/** A copy of a project under a title of its own, with its whole history. */
export async function duplicateProject(db: ChiraxisDb, id: string, title: string): Promise<string> {
  const copy = crypto.randomUUID()
  await db.transaction('rw', db.works, db.changes, db.snapshots, async () => {
    const row = await db.works.get(id)
    if (!row) return
    const at = Date.now()
    await db.works.add({
      ...row,
      id: copy,
      title,
      createdAt: at,
      savedAt: at,
      openedAt: at - 1,
      writer: '',
      wroteLast: '',
      untouched: false,
    })
    for (const table of [db.changes, db.snapshots] as const) {
      const rows = await rowsOf(table as typeof db.changes, id).toArray()
      await (table as typeof db.changes).bulkPut(rows.map(r => ({ ...r, project: copy })) as never)
    }
  })
  return copy
}

/** Deletes a project and every file nobody else names. */
export async function removeProject(db: ChiraxisDb, storage: JournalStorage | undefined, id: string): Promise<void> {
  const row = await db.works.get(id)
  await db.transaction('rw', db.works, db.changes, db.snapshots, async () => {
    await db.works.delete(id)
    await rowsOf(db.changes, id).delete()
    await rowsOf(db.snapshots, id).delete()
  })
  clearJournal(storage, id)
  await sweepFiles(db, new Set(row?.files))
}

/**
 * Throws away files that no project and nothing set aside names. Those kept a moment ago stay: they may be on their way
 * into a project.
 * @param surely hashes that were in a project until now, and need no such grace
 * @returns how many went
 */
export async function sweepFiles(
  db: ChiraxisDb,
  surely: ReadonlySet<string> = new Set(),
  now = Date.now(),
): Promise<number> {
  return db.transaction('rw', db.files, db.works, db.aside, async () => {
    const used = new Set<string>()
    await db.works.each(row => row.files.forEach(hash => used.add(hash)))
    await db.aside.each(row => {
      for (const [hash] of JSON.stringify(row.data ?? '').matchAll(/[0-9a-f]{64}/g)) used.add(hash)
    })
    const young = new Set(
      await db.files
        .where('at')
        .above(now - GRACE)
        .primaryKeys(),
    )
    const all = await db.files.toCollection().primaryKeys()
    const gone = all.filter(hash => !used.has(hash) && (!young.has(hash) || surely.has(hash)))
    await db.files.bulkDelete(gone)
    return gone.length
  })
}
