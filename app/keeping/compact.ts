import { restoreHistory } from '@chiraxis/core/recipe'
import type { ChiraxisDb } from './db'
import { readRows, rowsOf } from './rows'

/** Changes after which another whole recipe is kept, and as many as stay before the oldest one. */
export const SNAPSHOT_EVERY = 60
const KEPT_CHANGES = 600

/**
 * Keeps a whole recipe after many changes, and lets go of those nobody can take back any more. Runs beside the window,
 * on what the store holds.
 */
export async function compact(db: ChiraxisDb, id: string): Promise<void> {
  await db.transaction('rw', db.works, db.changes, db.snapshots, async () => {
    const { row, changes, snapshots } = await readRows(db, id)
    const last = snapshots[snapshots.length - 1]
    const tip = changes[changes.length - 1]?.seq ?? -1
    if (!row || !last || tip - last.seq < SNAPSHOT_EVERY) return
    const { history, unreadable } = restoreHistory(snapshots, changes, tip)
    // where something is damaged, everything stays as it is until the project is opened
    if (!history || unreadable.length > 0) return
    const { name, recipe } = history.entries[history.entries.length - 1]!
    await db.snapshots.put({ project: id, seq: tip, name, recipe })
    const base = snapshots.findLast(s => s.seq <= tip - KEPT_CHANGES)
    if (!base) return
    await rowsOf(db.changes, id, -1, base.seq + 1).delete()
    await rowsOf(db.snapshots, id, -1, base.seq).delete()
  })
}
