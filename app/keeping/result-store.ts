import Dexie, { type EntityTable } from 'dexie'
import type { ResultStore } from '@chiraxis/core/steps'

interface KeptResult {
  /** Program and key of the result. */
  key: string
  value: unknown
  bytes: number
  /** When it was last asked for, milliseconds. */
  at: number
}
type ResultDb = Dexie & { results: EntityTable<KeptResult, 'key'> }

/** Room they may take, bytes. */
export const RESULT_BUDGET = 256 * 2 ** 20
/** One result beyond this is worked out faster than the rest of the store is worth. */
const MOST = RESULT_BUDGET / 8

/**
 * Worked-out results kept over a reload, so that a project that is opened again is there at once. Nothing of it is
 * anybody's work: whatever is missing, of another program or damaged is worked out again, and it gives way first when
 * the browser has no room.
 */
export interface KeptResults extends ResultStore {
  /** Throws everything out. */
  clear(): Promise<void>
}

/**
 * @param program what the results were worked out by; those of another program are thrown out
 * @param options another name, room in bytes, and how long a result waits for a newer one of its step, milliseconds
 */
export function openResultStore(
  program: string,
  { name = 'chiraxis-results', budget = RESULT_BUDGET, delay = 1200 } = {},
): KeptResults {
  const db = new Dexie(name) as ResultDb
  db.version(1).stores({ results: 'key, at, bytes' })
  const own = `${program} `
  const latest = new Map<string, symbol>()
  let swept: Promise<unknown> | undefined
  const sweep = (): Promise<unknown> =>
    (swept ??= db.results
      .where('key')
      .below(own)
      .or('key')
      .above(`${own}\uffff`)
      .delete()
      .catch(() => undefined))

  async function makeRoom(): Promise<void> {
    let held = 0
    // sizes alone, without reading a result
    await db.results.orderBy('bytes').eachKey(bytes => {
      held += bytes as number
    })
    if (held <= budget) return
    for (const key of await db.results.orderBy('at').primaryKeys()) {
      const old = await db.results.get(key)
      await db.results.delete(key)
      held -= old?.bytes ?? 0
      if (held <= budget) return
    }
  }

  return {
    async find(key) {
      try {
        await sweep()
        const found = await db.results.get(own + key)
        if (found) void db.results.update(own + key, { at: Date.now() }).catch(() => undefined)
        return found?.value
      } catch {
        return undefined
      }
    },
    async put(key, value, bytes) {
      if (bytes > MOST) return
      // of a step that is worked out again and again only the last result is written
      const step = key.replace(/:.*$/, '')
      const mine = Symbol(key)
      latest.set(step, mine)
      if (delay > 0) await new Promise(done => setTimeout(done, delay))
      if (latest.get(step) !== mine) return
      latest.delete(step)
      try {
        await sweep()
        await db.results.put({ key: own + key, value, bytes, at: Date.now() })
        await makeRoom()
      } catch {
        // no room, or no store at all: nothing of it is missed
        await db.results.clear().catch(() => undefined)
      }
    },
    clear: () => db.results.clear().catch(() => undefined),
  }
}
