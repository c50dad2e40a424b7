import Dexie, { type EntityTable } from 'dexie'
import type { TransferJobResult } from '@chiraxis/core/batch'

/** What came of one job of a batch, without its bytes. */
export type JobReport = Omit<TransferJobResult, 'bytes' | 'beside'>

interface DoneRow {
  /** What it was made of, in short. */
  key: string
  project: string
  report: JobReport
  bytes: number
  /** When it was made, milliseconds. */
  at: number
}
interface FilesRow {
  key: string
  bytes: Uint8Array<ArrayBuffer>
  beside: NonNullable<TransferJobResult['beside']>
}
type BatchDb = Dexie & { done: EntityTable<DoneRow, 'key'>; files: EntityTable<FilesRow, 'key'> }

/** Room that files of batches may take, bytes; those made first give way. */
export const BATCH_BUDGET = 1024 * 2 ** 20

/** Files of batches, kept until their project is gone, so that a batch goes on where it ended after a reload. */
export interface BatchStore {
  /** What is done of a project, by key. */
  reports(project: string): Promise<Map<string, JobReport>>
  put(project: string, key: string, result: TransferJobResult): Promise<void>
  /** Files of a job; nothing where they are no more. */
  files(key: string): Promise<Pick<TransferJobResult, 'bytes' | 'beside'> | undefined>
  /** Throws out what is of a project and of none of these keys. */
  keepOnly(project: string, keys: ReadonlySet<string>): Promise<void>
}

export function openBatchStore({ name = 'chiraxis-batch', budget = BATCH_BUDGET } = {}): BatchStore {
  const db = new Dexie(name) as BatchDb
  db.version(1).stores({ done: 'key, project, at', files: 'key' })

  const drop = (keys: readonly string[]): Promise<void> =>
    db.transaction('rw', db.done, db.files, async () => {
      await db.done.bulkDelete([...keys])
      await db.files.bulkDelete([...keys])
    })
  async function makeRoom(newest: string): Promise<void> {
    let held = 0
    const gone: string[] = []
    // the newest first: what does not fit any more is the oldest
    await db.done
      .orderBy('at')
      .reverse()
      .each(row => {
        held += row.bytes
        if (held > budget && row.key !== newest) gone.push(row.key)
      })
    if (gone.length > 0) await drop(gone)
  }

  return {
    async reports(project) {
      const rows = await db.done.where('project').equals(project).toArray()
      return new Map(rows.map(r => [r.key, r.report]))
    },
    async put(project, key, { bytes, beside = [], ...report }) {
      const size = [...beside, { bytes }].reduce((n, f) => n + f.bytes.length, 0)
      await db.transaction('rw', db.done, db.files, async () => {
        await db.done.put({ key, project, report, bytes: size, at: Date.now() })
        await db.files.put({ key, bytes, beside })
      })
      await makeRoom(key)
    },
    async files(key) {
      return db.files.get(key)
    },
    async keepOnly(project, keys) {
      const all = await db.done.where('project').equals(project).primaryKeys()
      await drop(all.filter(k => !keys.has(k)))
    },
  }
}
