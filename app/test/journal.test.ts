import { describe, expect, it } from 'vitest'
import { clearJournal, readJournal, writeJournal, type JournalEntry, type JournalStorage } from '~/keeping/journal'

const entry: JournalEntry = {
  project: 'p',
  writers: ['w'],
  at: 4,
  note: 1,
  from: 4,
  changes: [{ seq: 4, name: 'Rename', patches: [{ op: 'replace', path: ['name'], value: 'x' }] }],
}
function storageOf(full = false): JournalStorage & { held: Map<string, string> } {
  const held = new Map<string, string>()
  return {
    held,
    getItem: k => held.get(k) ?? null,
    setItem: (k, v) => {
      if (full) throw new DOMException('full', 'QuotaExceededError')
      held.set(k, v)
    },
    removeItem: k => void held.delete(k),
  }
}

describe('the journal', () => {
  it('comes back as it was written, each project for itself', () => {
    const storage = storageOf()
    writeJournal(storage, entry)
    writeJournal(storage, { ...entry, project: 'q', at: 9 })
    expect(readJournal(storage, 'p')).toEqual(entry)
    expect(readJournal(storage, 'q')!.at).toBe(9)
    clearJournal(storage, 'p')
    expect(readJournal(storage, 'p')).toBeUndefined()
    expect(readJournal(storage, 'q')).toBeDefined()
  })
  it('never leaves an older note standing where there is no room for the newer', () => {
    const storage = storageOf()
    writeJournal(storage, entry)
    const huge = { ...entry, changes: [{ ...entry.changes[0]!, name: 'x'.repeat(500_000) }] }
    writeJournal(storage, huge)
    expect(readJournal(storage, 'p')).toBeUndefined()
    const full = storageOf(true)
    full.held.set('chiraxis:journal:p', JSON.stringify(entry))
    writeJournal(full, { ...entry, at: 5 })
    expect(readJournal(full, 'p')).toBeUndefined()
  })
  it.each([
    ['nothing', ''],
    ['no JSON', '{"project":"p"'],
    ['a list', '[]'],
    ['null', 'null'],
    ['another project', JSON.stringify({ ...entry, project: 'q' })],
    ['no writers', JSON.stringify({ ...entry, writers: undefined })],
    ['no numbers', JSON.stringify({ ...entry, at: 'four' })],
    ['changes that are none', JSON.stringify({ ...entry, changes: 'x' })],
  ])('holding %s is no journal', (_, text) => {
    const storage = storageOf()
    storage.held.set('chiraxis:journal:p', text)
    expect(readJournal(storage, 'p')).toBeUndefined()
  })
  it('is done without where storage is not allowed', () => {
    expect(() => writeJournal(undefined, entry)).not.toThrow()
    expect(readJournal(undefined, 'p')).toBeUndefined()
  })
})
