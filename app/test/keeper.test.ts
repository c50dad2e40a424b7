import 'fake-indexeddb/auto'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import {
  currentRecipe,
  emptyRecipe,
  record,
  startHistory,
  undo,
  type FileRef,
  type History,
  type Recipe,
} from '@chiraxis/core/recipe'
import { seededRandom } from '@chiraxis/core/math'
import { openDb, type ChiraxisDb } from '~/keeping/db'
import type { JournalStorage } from '~/keeping/journal'
import { compact, SNAPSHOT_EVERY } from '~/keeping/compact'
import { Keeper, TakenOverError } from '~/keeping/keeper'
import { duplicateProject, removeProject, sweepFiles } from '~/keeping/project-list'

let db: ChiraxisDb
let names = 0
beforeEach(() => {
  db = openDb(`test-${names++}`)
})
afterEach(() => db.delete())

const storageOf = (): JournalStorage & { readonly held: Map<string, string> } => {
  const held = new Map<string, string>()
  return {
    held,
    getItem: k => held.get(k) ?? null,
    setItem: (k, v) => void held.set(k, v),
    removeItem: k => void held.delete(k),
  }
}
const named = (h: History, name: string): History => record(h, `Call it ${name}`, { ...currentRecipe(h), name })
const file = (letter: string, size = 10): FileRef => ({ name: `${letter}.glb`, hash: letter.repeat(64), size })
const withBody = (body: FileRef): Recipe => ({ ...emptyRecipe('figure'), body })
const put = (f: FileRef, at: number): Promise<unknown> =>
  db.files.put({ hash: f.hash, name: f.name, bytes: new Uint8Array(f.size), at })

describe('keeping a project', () => {
  it('writes each change by itself and brings the whole line back', async () => {
    const keeper = new Keeper(db, undefined)
    let h = startHistory(emptyRecipe('zero'))
    const id = await keeper.create(h)
    for (let i = 1; i < 30; i++) {
      h = named(h, `name ${i}`)
      await keeper.keep(h)
      expect(keeper.isWritten(h)).toBe(true)
    }
    expect(await db.changes.count()).toBe(29)
    h = undo(undo(h))
    await keeper.keep(h)
    const back = await new Keeper(db, undefined).open(id)
    expect(back!.history.entries.map(e => e.recipe)).toEqual(h.entries.map(e => e.recipe))
    expect(back!.history.at).toBe(h.at)
    expect(back!.aside).toBe(0)
  })
  it('lets what was undone go when something else is done', async () => {
    const keeper = new Keeper(db, undefined)
    let h = named(named(startHistory(emptyRecipe('zero')), 'one'), 'two')
    const id = await keeper.create(h)
    h = named(undo(h), 'other')
    await keeper.keep(h)
    const back = await new Keeper(db, undefined).open(id)
    expect(back!.history.entries.map(e => e.recipe.name)).toEqual(['zero', 'one', 'other'])
  })
  it('tells a change made while an older one is being written as written only when it is', async () => {
    const keeper = new Keeper(db, undefined)
    const first = startHistory(emptyRecipe('zero'))
    await keeper.create(first)
    const one = named(first, 'one')
    const two = named(one, 'two')
    const writing = keeper.keep(one)
    void keeper.keep(two)
    expect(keeper.isWritten(two)).toBe(false)
    await writing
    expect(keeper.isWritten(two)).toBe(true)
  })
  it('writes nothing where nothing was changed', async () => {
    const keeper = new Keeper(db, undefined)
    const h = startHistory(emptyRecipe('zero'))
    const id = await keeper.create(h)
    const before = await db.works.get(id)
    await keeper.keep(h)
    expect(await db.works.get(id)).toEqual(before)
  })
  it('keeps a whole recipe now and then, and starts from there when the beginning is damaged', async () => {
    const keeper = new Keeper(db, undefined)
    let h = startHistory(emptyRecipe('zero'))
    const id = await keeper.create(h)
    for (let i = 1; i <= SNAPSHOT_EVERY + 5; i++) h = named(h, `name ${i}`)
    await keeper.keep(h)
    await compact(db, id)
    expect(await db.snapshots.count()).toBe(2)
    h = named(h, 'the last')
    await keeper.keep(h)
    await db.snapshots.put({ project: id, seq: 0, name: 'Start', recipe: { version: 4 } })
    const back = await new Keeper(db, undefined).open(id)
    expect(currentRecipe(back!.history).name).toBe('the last')
    expect(await db.aside.count()).toBe(back!.aside)
  })
})

describe('damage', () => {
  it('is set aside and never written over; the rest is opened and goes on being kept', async () => {
    const keeper = new Keeper(db, undefined)
    let h = startHistory(emptyRecipe('zero'))
    for (let i = 1; i < 6; i++) h = named(h, `name ${i}`)
    const id = await keeper.create(h)
    const bad = { project: id, seq: 4, name: 'Damaged', patches: 'what was here is of value' }
    await db.changes.put(bad as never)
    const next = new Keeper(db, undefined)
    const back = (await next.open(id))!
    expect(currentRecipe(back.history).name).toBe('name 3')
    expect(back.aside).toBe(2)
    const aside = await db.aside.toArray()
    expect(aside.map(a => a.data)).toContainEqual(bad)
    await next.keep(named(back.history, 'after'))
    const again = (await new Keeper(db, undefined).open(id))!
    expect(again.aside).toBe(0)
    expect(again.history.entries.map(e => e.recipe.name)).toEqual(['zero', 'name 1', 'name 2', 'name 3', 'after'])
    expect(await db.aside.count()).toBe(2)
  })
  it('of a newer version is left as it is', async () => {
    const id = await new Keeper(db, undefined).create(startHistory(emptyRecipe('zero')))
    const newer = { project: id, seq: 0, name: 'Start', recipe: { ...emptyRecipe('newer'), version: 99 } }
    await db.snapshots.put(newer)
    expect(await new Keeper(db, undefined).open(id)).toBeUndefined()
    expect(await new Keeper(db, undefined).open(id)).toBeUndefined()
    expect(await db.snapshots.get([id, 0])).toEqual(newer)
    expect(await db.aside.count()).toBe(1)
  })
  it('does not keep a project of the older form from being taken over', async () => {
    const h = named(startHistory(emptyRecipe('zero')), 'one')
    const entries: unknown[] = h.entries.map(e => ({ name: e.name, recipe: e.recipe }))
    entries.push({ name: 'Broken', recipe: { ...emptyRecipe(), name: 'x'.repeat(5000) } })
    await db.projects.put({ id: 'open', history: JSON.stringify({ entries, at: 2 }), savedAt: 1 })
    const keeper = new Keeper(db, undefined)
    const taken = (await keeper.takeOver())!
    expect(taken.aside).toBe(1)
    expect(await db.projects.count()).toBe(0)
    expect(currentRecipe((await keeper.open(taken.id))!.history).name).toBe('one')
    await db.projects.put({ id: 'open', history: '{"entries":[{"na', savedAt: 1 })
    expect(await keeper.takeOver()).toBeUndefined()
    expect((await db.aside.toArray()).map(a => a.data)).toContain('{"entries":[{"na')
  })
})

describe('two windows', () => {
  it('one takes over, and the other can no longer write', async () => {
    const first = new Keeper(db, undefined)
    const h = startHistory(emptyRecipe('zero'))
    const id = await first.create(h)
    const mine = named(h, 'first window')
    await first.keep(mine)
    const second = new Keeper(db, undefined)
    const opened = (await second.open(id))!
    expect(currentRecipe(opened.history).name).toBe('first window')
    await expect(first.keep(named(mine, 'too late'))).rejects.toBeInstanceOf(TakenOverError)
    await second.keep(named(opened.history, 'second window'))
    expect(currentRecipe((await new Keeper(db, undefined).open(id))!.history).name).toBe('second window')
  })
  it('a window that writes while another takes over loses nothing that was told as written', async () => {
    for (let turn = 0; turn < 20; turn++) {
      const first = new Keeper(db, undefined)
      let h = startHistory(emptyRecipe('zero'))
      const id = await first.create(h)
      let told = 'zero'
      const writing = (async () => {
        for (let i = 0; i < 10; i++) {
          h = named(h, `name ${i}`)
          await first.keep(h)
          told = `name ${i}`
        }
      })().catch(error => expect(error).toBeInstanceOf(TakenOverError))
      for (let i = 0; i < turn; i++) await new Promise(done => setTimeout(done, 0))
      const second = new Keeper(db, undefined)
      const opened = (await second.open(id))!
      await writing
      expect(currentRecipe(opened.history).name).toBe(told)
    }
  })
})

describe('no room', () => {
  it('is told, and what was changed is written as soon as there is room again', async () => {
    const keeper = new Keeper(db, undefined)
    let h = startHistory(emptyRecipe('zero'))
    const id = await keeper.create(h)
    let full = true
    db.changes.hook('creating', () => {
      if (full) throw new DOMException('full', 'QuotaExceededError')
    })
    h = named(h, 'one')
    await expect(keeper.keep(h)).rejects.toBeDefined()
    expect(keeper.isWritten(h)).toBe(false)
    full = false
    h = named(h, 'two')
    await keeper.keep(h)
    expect((await new Keeper(db, undefined).open(id))!.history.entries.map(e => e.recipe.name)).toEqual([
      'zero',
      'one',
      'two',
    ])
  })
})

describe('200 kills while editing', () => {
  it('always bring the last acknowledged change back, and with the journal the very last one', async () => {
    const random = seededRandom(7)
    const storage = storageOf()
    let id: string | undefined
    let acknowledged = 'zero'
    let kills = 0
    let fuse = Infinity
    const burn = (): void => {
      if (--fuse < 0) throw new Error('killed')
    }
    db.changes.hook('creating', burn)
    db.works.hook('updating', burn)
    for (let run = 0; kills < 200; run++) {
      fuse = Infinity
      const keeper = new Keeper(db, storage)
      let h: History
      if (id) {
        const opened = (await keeper.open(id))!
        h = opened.history
        expect(opened.aside).toBe(0)
        // what was acknowledged is there, and never something older
        const names = h.entries.map(e => e.recipe.name)
        expect(names).toContain(acknowledged)
      } else {
        h = startHistory(emptyRecipe('zero'))
        id = await keeper.create(h)
      }
      let last = currentRecipe(h).name
      const edits = 1 + Math.floor(6 * random())
      // the window dies in the middle of a write, or between two
      fuse = random() < 0.7 ? Math.floor(2 * edits * random()) : Infinity
      try {
        for (let i = 0; i < edits; i++) {
          h = random() < 0.2 && h.at > 0 ? undo(h) : named(h, `run ${run} edit ${i}`)
          last = currentRecipe(h).name
          const written = keeper.keep(h)
          if (random() < 0.3) continue
          await written
          acknowledged = last
        }
        if (fuse === Infinity && random() < 0.5) await compact(db, id)
      } catch {
        // killed
      }
      kills++
      // what was under way ends one way or the other
      await keeper.keep(h).catch(() => undefined)
      keeper.release()
      fuse = Infinity
      const seen = (await new Keeper(db, storage).open(id))!
      expect(currentRecipe(seen.history).name).toBe(last)
      acknowledged = last
    }
    expect(kills).toBe(200)
  }, 120_000)
  it('never let a note that the browser forgot to throw away take back what was acknowledged', async () => {
    const random = seededRandom(23)
    let stale = 0
    for (let line = 0; line < 30; line++) {
      // what the window wrote reaches the browser's own store some time later, or never
      const disk = new Map<string, string>()
      const id = await new Keeper(db, undefined).create(startHistory(emptyRecipe('zero')))
      let acknowledged = 'zero'
      for (let run = 0; run < 6; run++) {
        const held = new Map(disk)
        const flush = (): void => {
          if (random() < 0.5) return
          disk.clear()
          for (const [k, v] of held) disk.set(k, v)
        }
        const storage: JournalStorage = {
          getItem: k => held.get(k) ?? null,
          setItem: (k, v) => (held.set(k, v), flush()),
          removeItem: k => (held.delete(k), flush()),
        }
        if (disk.size > 0) stale++
        const keeper = new Keeper(db, storage)
        let h = (await keeper.open(id))!.history
        expect(currentRecipe(h).name).toBe(acknowledged)
        const edits = Math.floor(4 * random())
        for (let i = 0; i < edits; i++) {
          h = named(h, `line ${line} run ${run} edit ${i}`)
          await keeper.keep(h)
          acknowledged = currentRecipe(h).name
        }
        // the window dies here: nothing more is told
        keeper.release()
      }
    }
    expect(stale).toBeGreaterThan(20)
  }, 60_000)
  it('without a journal lose at most what was not acknowledged', async () => {
    const random = seededRandom(11)
    for (let run = 0; run < 60; run++) {
      const keeper = new Keeper(db, undefined)
      let h = startHistory(emptyRecipe('zero'))
      const id = await keeper.create(h)
      let acknowledged = 0
      let fuse = Math.floor(14 * random())
      const burn = (): void => {
        if (--fuse < 0) throw new Error('killed')
      }
      db.changes.hook('creating', burn)
      try {
        for (let i = 1; i <= 12; i++) {
          h = named(h, `edit ${i}`)
          await keeper.keep(h)
          acknowledged = i
        }
      } catch {
        // killed
      }
      db.changes.hook('creating').unsubscribe(burn)
      const back = (await new Keeper(db, undefined).open(id))!
      expect(back.history.entries.length - 1).toBe(acknowledged)
    }
  }, 60_000)
})

describe('files', () => {
  const OLD = 1000
  const later = (): number => OLD + 3_600_000
  it('stay while any project, or anything a project can go back to, names them', async () => {
    const [a, b, c] = [file('a'), file('b'), file('c')]
    for (const f of [a, b, c]) await put(f, OLD)
    const keeper = new Keeper(db, undefined, later)
    const h = record(startHistory(withBody(a)), 'Bring in b', withBody(b))
    const id = await keeper.create(h)
    expect((await db.works.get(id))!.fileBytes).toBe(20)
    expect(await sweepFiles(db, new Set(), later())).toBe(1)
    expect((await db.files.toCollection().primaryKeys()).sort()).toEqual([a.hash, b.hash])
    const copy = await duplicateProject(db, id, 'Copy')
    await removeProject(db, undefined, id)
    expect(await db.files.count()).toBe(2)
    const back = (await new Keeper(db, undefined).open(copy))!
    expect(back.history.entries).toHaveLength(2)
    expect((await db.works.get(copy))!.title).toBe('Copy')
    await removeProject(db, undefined, copy)
    expect(await db.files.count()).toBe(0)
    expect([await db.changes.count(), await db.snapshots.count()]).toEqual([0, 0])
  })
  it('on their way into a project are not swept', async () => {
    await put(file('d'), later() - 1000)
    expect(await sweepFiles(db, new Set(), later())).toBe(0)
  })
  it('named by what was set aside are not swept', async () => {
    const e = file('e')
    await put(e, OLD)
    await db.aside.add({ project: 'x', name: 'x', at: 1, reason: 'damaged', data: { body: e } })
    expect(await sweepFiles(db, new Set(), later())).toBe(0)
  })
})
