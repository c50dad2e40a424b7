import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  applyRecipePatches,
  checkRecipe,
  currentRecipe,
  emptyRecipe,
  goTo,
  graft,
  historyOfRecipes,
  HISTORY_LENGTH,
  parseRecipe,
  record,
  restoreHistory,
  startHistory,
  undo,
  type History,
  type Recipe,
  type StoredChange,
  type StoredSnapshot,
} from '../src/recipe'

type SkinEdits = Recipe['skin']['edits']
const stroke = (seed: number, dabs = 60): SkinEdits[number] => ({
  kind: 'stroke',
  tool: 'add',
  joint: 'hips',
  dabs: Array.from({ length: dabs }, (_, i) => [seed, i / 100, 0.2, 0, 0, 1, 1]),
  radius: 0.04,
  strength: 0.4,
  value: 1,
  falloff: 0.4,
  mirror: true,
  through: false,
  locked: [],
})
const painted = (recipe: Recipe, seed: number): Recipe => ({
  ...recipe,
  skin: { ...recipe.skin, edits: [...recipe.skin.edits, stroke(seed)] },
})
const named = (recipe: Recipe, name: string): Recipe => ({ ...recipe, name })

/** What a store would hold of a history. */
function stored(history: History): { snapshots: StoredSnapshot[]; changes: StoredChange[] } {
  const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
  return plain({
    snapshots: [{ seq: history.first, name: history.entries[0]!.name, recipe: history.entries[0]!.recipe }],
    changes: history.entries
      .map(({ name, patches }, i) => ({ seq: history.first + i, name, patches: [...patches] }))
      .slice(1),
  })
}
const line = (count: number): History => {
  let h = startHistory(emptyRecipe('zero'))
  for (let i = 1; i <= count; i++) h = record(h, `Change ${i}`, named(currentRecipe(h), `name ${i}`))
  return h
}

describe('patches', () => {
  const anyRecipe = fc.record({
    name: fc.string({ maxLength: 12 }),
    hidden: fc.dictionary(fc.constantFrom('coat', 'hat', 'boots'), fc.boolean()),
    maps: fc.array(fc.constantFrom('a', 'b', 'c'), { maxLength: 3 }),
    strokes: fc.array(fc.integer({ min: 0, max: 5 }), { maxLength: 6 }),
    radius: fc.double({ min: 0.1, max: 1, noNaN: true }),
    fingers: fc.option(fc.integer({ min: 0, max: 5 }), { nil: undefined }),
    unit: fc.option(fc.constantFrom('m' as const, 'cm' as const), { nil: undefined }),
  })
  const built = (x: {
    name: string
    hidden: Record<string, boolean>
    maps: string[]
    strokes: number[]
    radius: number
    fingers?: number
    unit?: 'm' | 'cm'
  }): Recipe => {
    const fresh = emptyRecipe(x.name)
    return {
      ...fresh,
      straighten: x.unit ? { unit: x.unit } : {},
      normalMaps: x.maps,
      pieces: Object.fromEntries(Object.entries(x.hidden).map(([k, hidden]) => [k, { role: 'body', hidden }])),
      bones: { ...fresh.bones, plan: { ...fresh.bones.plan, fingers: { left: x.fingers ?? 'auto', right: 'auto' } } },
      skin: { ...fresh.skin, edits: x.strokes.map(s => ({ ...stroke(s, 2), radius: x.radius }) as SkinEdits[number]) },
    }
  }
  it('lead from any recipe to any other', () => {
    fc.assert(
      fc.property(anyRecipe, anyRecipe, (a, b) => {
        const [from, to] = [built(a), built(b)]
        const { recipe, patches } = graft(from, to)
        expect(recipe).toEqual(to)
        expect(applyRecipePatches(from, JSON.parse(JSON.stringify(patches)) as typeof patches)).toEqual(to)
        expect(graft(recipe, JSON.parse(JSON.stringify(to)) as Recipe).patches).toEqual([])
      }),
    )
  })
  it('share what is alike, even where the next recipe came as text', () => {
    const from = painted(painted(emptyRecipe(), 1), 2)
    const to = JSON.parse(JSON.stringify(painted(from, 3))) as Recipe
    const { recipe, patches } = graft(from, to)
    expect(recipe.skin.edits[1]).toBe(from.skin.edits[1])
    expect(recipe.takes).toBe(from.takes)
    expect(recipe.transfer).toBe(from.transfer)
    expect(patches).toHaveLength(1)
  })
  it('of a stroke hold no more than the stroke, however many there are before it', () => {
    let h = startHistory(emptyRecipe())
    for (let i = 0; i < 300; i++) h = record(h, 'Add hips', painted(currentRecipe(h), i))
    const size = (value: unknown): number => JSON.stringify(value).length
    const last = h.entries[h.entries.length - 1]!.patches
    expect(size(last)).toBeLessThan(size(stroke(299)) + 200)
    expect(size(currentRecipe(h))).toBeGreaterThan(200 * size(last))
  })
})

describe('a recorded change', () => {
  it('is refused in words where it could not be read again, and leaves everything as it was', () => {
    const h = line(3)
    const long = named(currentRecipe(h), 'x'.repeat(400))
    expect(() => record(h, 'Rename', long)).toThrow(/name/)
    const many = { ...currentRecipe(h), skin: { ...currentRecipe(h).skin, influences: 20 } }
    expect(() => record(h, 'Influences', many)).toThrow(/skin.influences/)
    expect(currentRecipe(h).name).toBe('name 3')
  })
  it('is none where nothing changed', () => {
    const h = line(2)
    expect(record(h, 'Again', { ...currentRecipe(h) }).entries).toHaveLength(3)
  })
  it('of a drag that ends where it began leaves no step to take back', () => {
    let h = line(2)
    h = record(h, 'Drag', named(currentRecipe(h), 'dragged'), true)
    h = record(h, 'Drag', named(currentRecipe(h), 'name 2'), true)
    expect(h.entries.map(e => e.name)).toEqual(['Start', 'Change 1', 'Change 2'])
  })
  it('is checked without looking at what was checked before', () => {
    let recipe = emptyRecipe()
    for (let i = 0; i < 200; i++) recipe = painted(recipe, i)
    checkRecipe(recipe)
    const start = performance.now()
    for (let i = 0; i < 20; i++) checkRecipe(painted(recipe, 1000 + i))
    expect((performance.now() - start) / 20).toBeLessThan(20)
  })
})

describe('a kept history', () => {
  it('comes back as it was, whatever was taken back', () => {
    const h = undo(undo(line(9)))
    const { snapshots, changes } = stored(h)
    const back = restoreHistory(snapshots, changes, h.first + h.at)
    expect(back.unreadable).toEqual([])
    expect(back.history!.at).toBe(h.at)
    expect(back.history!.entries.map(e => [e.name, e.recipe])).toEqual(h.entries.map(e => [e.name, e.recipe]))
  })
  it('shares its parts again, so that nothing is worked out twice', () => {
    let h = startHistory(emptyRecipe())
    for (let i = 0; i < 5; i++) h = record(h, 'Add hips', painted(currentRecipe(h), i))
    const { snapshots, changes } = stored(h)
    const { entries } = restoreHistory(snapshots, changes, 5).history!
    expect(entries[5]!.recipe.skin.edits[0]).toBe(entries[1]!.recipe.skin.edits[0])
  })
  it('stands at any moment that is asked for, and within what was done', () => {
    let history = startHistory(emptyRecipe('0'))
    for (let i = 1; i <= 9; i++) history = record(history, `to ${i}`, { ...currentRecipe(history), name: `${i}` })
    fc.assert(
      fc.property(fc.array(fc.integer({ min: -3, max: 14 }), { minLength: 1 }), moments => {
        const there = moments.reduce(goTo, history)
        const last = Math.min(9, Math.max(0, moments[moments.length - 1]))
        expect(currentRecipe(there).name).toBe(`${last}`)
        expect(there.entries).toBe(history.entries)
      }),
    )
    // what is done after going back takes the place of what was undone
    const on = record(goTo(history, 4), 'other', { ...currentRecipe(goTo(history, 4)), name: 'other' })
    expect(on.entries.map(e => e.name)).toEqual(['Start', 'to 1', 'to 2', 'to 3', 'to 4', 'other'])
  })

  it('lets go of what nobody can take back any more, and keeps its numbers', () => {
    const h = line(HISTORY_LENGTH + 20)
    expect(h.entries).toHaveLength(HISTORY_LENGTH)
    expect(h.first).toBe(21)
    expect(undo(h).at).toBe(HISTORY_LENGTH - 2)
  })
  it.each([
    ['patches that lead nowhere', { patches: [{ op: 'replace', path: ['skin', 'nothing', 4, 'there'], value: 1 }] }],
    ['patches that break the recipe', { patches: [{ op: 'replace', path: ['skin', 'influences'], value: 'many' }] }],
    ['no patches at all', { patches: 'gone' }],
    ['a patch of an unknown kind', { patches: [{ op: 'move', path: [], value: 1 }] }],
    ['nothing', undefined],
  ])('tells %s, and keeps everything before it', (_, damage) => {
    const { snapshots, changes } = stored(line(6))
    const bad = changes.map((c, i) => (i === 3 ? (damage ? { ...c, ...damage } : null) : c))
    const back = restoreHistory(snapshots, bad, 6)
    expect(currentRecipe(back.history!).name).toBe('name 3')
    expect(back.unreadable.length).toBeGreaterThanOrEqual(3)
    // what was set aside is there to be read by somebody else
    expect(JSON.stringify(back.unreadable)).toContain('name 5')
  })
  it('goes on from the next snapshot after a damaged change', () => {
    const h = line(8)
    const { snapshots, changes } = stored(h)
    snapshots.push({ seq: 6, name: 'Change 6', recipe: JSON.parse(JSON.stringify(h.entries[6]!.recipe)) })
    const back = restoreHistory(
      snapshots,
      changes.filter(c => c.seq !== 4),
      8,
    )
    expect(back.history!.entries.map(e => e.recipe.name)).toEqual([
      'zero',
      'name 1',
      'name 2',
      'name 3',
      'name 6',
      'name 7',
      'name 8',
    ])
    expect(currentRecipe(back.history!).name).toBe('name 8')
    expect(back.unreadable.map(u => u.seq)).toEqual([5, 6])
  })
  it('begins at a later snapshot where the first is damaged', () => {
    const h = line(5)
    const { snapshots, changes } = stored(h)
    const back = restoreHistory(
      [
        { ...snapshots[0]!, recipe: { version: 4, name: 7 } },
        { seq: 3, name: 'Change 3', recipe: h.entries[3]!.recipe },
      ],
      changes,
      5,
    )
    expect(currentRecipe(back.history!).name).toBe('name 5')
    expect(back.history!.first).toBe(3)
  })
  it('of a newer version is set aside whole', () => {
    const { changes } = stored(line(2))
    const back = restoreHistory([{ seq: 0, name: 'Start', recipe: { ...emptyRecipe(), version: 99 } }], changes, 2)
    expect(back.history).toBeUndefined()
    expect(back.unreadable).toHaveLength(3)
    expect(back.unreadable[0]!.reason).toMatch(/newer/)
  })
  it('survives any damage to any record: no exception, nothing made up', () => {
    const h = line(12)
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(12), fc.jsonValue()), { maxLength: 4 }), damages => {
        const { snapshots, changes } = stored(h)
        const all: unknown[] = [...changes]
        for (const [i, value] of damages) if (i < all.length) all[i] = value
        const back = restoreHistory(snapshots, all, 12)
        const names = back.history!.entries.map(e => e.recipe.name)
        // every recipe that comes back is one that was there, in its order
        const order = names.map(n => h.entries.findIndex(e => e.recipe.name === n))
        expect(order.every((n, i) => n >= 0 && (i === 0 || n > order[i - 1]!))).toBe(true)
        expect(names.length + back.unreadable.length).toBeGreaterThanOrEqual(1 + changes.length)
      }),
    )
  })
  it('of the older form is taken over, entry by entry', () => {
    const h = line(4)
    const old = h.entries.map(({ name, recipe }) => ({ name, recipe: JSON.parse(JSON.stringify(recipe)) as unknown }))
    const back = historyOfRecipes(old, 3)
    expect(back.history!.entries.map(e => e.recipe)).toEqual(h.entries.map(e => e.recipe))
    expect(back.history!.at).toBe(3)
    old[2] = { name: 'Broken', recipe: { version: 4, name: 'x'.repeat(5000) } }
    const partly = historyOfRecipes(old, 4)
    expect(partly.history!.entries).toHaveLength(4)
    expect(partly.unreadable).toHaveLength(1)
    expect(currentRecipe(partly.history!).name).toBe('name 4')
  })
  it('of the first version is brought up to date on the way', () => {
    const { version: _, performers: __, ...rest } = emptyRecipe('old')
    const back = historyOfRecipes([{ name: 'Start', recipe: { ...rest, version: 1 } }], 0)
    expect(parseRecipe(back.history!.entries[0]!.recipe).name).toBe('old')
  })
})
