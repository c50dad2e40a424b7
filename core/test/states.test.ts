import { describe, expect, it } from 'vitest'
import fc from 'fast-check'
import {
  addState,
  changeRule,
  checkStates,
  createPlayer,
  moveRule,
  parseStates,
  removeState,
  renameState,
  sharesAt,
  standardStates,
  statesJsonSchema,
  tableAtPath,
  takesIn,
  whenWords,
  withTable,
  type Clip,
  type Rule,
  type StatesDocument,
  type Table,
  type Values,
} from '../src/trial'
import { readFileSync } from 'node:fs'
import { findAll } from '../src/findings'

/** A clip of one joint that turns about x by so much over it. */
function clip(name: string, kind: Clip['kind'], speed: number, seconds: number, more: Partial<Clip> = {}): Clip {
  const samples = 30
  const rotations = new Float32Array(4 * samples)
  for (let k = 0; k < samples; k++) {
    const a = 0.4 * Math.sin((2 * Math.PI * k) / samples)
    rotations.set([Math.sin(a / 2), 0, 0, Math.cos(a / 2)], 4 * k)
  }
  return { name, kind, speed, turn: 0, seconds, samples, rotations, translations: new Float32Array(3 * samples), rests: {}, ...more } // prettier-ignore
}
const CLIPS = [
  clip('lookout idle', 'stand', 0, 4),
  clip('walk', 'steps', 1.2, 1.1),
  clip('run', 'steps', 3, 0.7),
  clip('wave', 'once', 0, 2),
  clip('hop', 'once', 0.3, 1.5, { cues: [{ at: 0.5, name: 'apex' }] }),
]
const byName = new Map(CLIPS.map(c => [c.name, c]))
const values = (of: Record<string, number>, more: Partial<Values> = {}): Values => ({
  of,
  ground: true,
  pressed: new Set(),
  held: new Set(),
  ...more,
})
const rule = (from: string, to: string, when: Rule['when'], more: Partial<Rule> = {}): Rule => ({
  from,
  to,
  when,
  blend: 0.2,
  curve: 'even',
  after: 0,
  enters: 'in step',
  ...more,
})
const TABLE: Table = {
  first: 'stands',
  states: [
    { name: 'stands', plays: { take: 'lookout idle' } },
    { name: 'walks', plays: { take: 'walk' } },
    { name: 'runs', plays: { take: 'run' } },
    { name: 'hops', plays: { take: 'hop' } },
  ],
  rules: [
    rule('stands', 'walks', [{ value: 'speed', is: 'over', than: 0.1 }]),
    rule('walks', 'stands', [{ value: 'speed', is: 'under', than: 0.1 }], { enters: 'start' }),
    rule('walks', 'runs', [{ value: 'speed', is: 'over', than: 2 }]),
    rule('runs', 'walks', [{ value: 'speed', is: 'under', than: 1.9 }]),
    rule('*', 'hops', [{ key: 'Space', is: 'pressed' }, { ground: true }], { enters: 'start' }),
    rule('hops', 'stands', [{ left: 0.2 }], { enters: 'start' }),
  ],
}
const doc = (table: Table): StatesDocument => ({
  format: 'chiraxis-states',
  version: 1,
  table,
  actions: [],
  values: [],
})
const faultsOf = (table: Table): string[] => checkStates(doc(table), byName).map(f => f.kind)

describe('the player of states', () => {
  it('takes the first rule that holds, blends over its time, and its shares sum to one', () => {
    const p = createPlayer(TABLE, byName)
    expect(p.step(0.1, values({ speed: 0 })).state).toEqual(['stands'])
    const first = p.step(0.05, values({ speed: 1 }))
    expect(first.state).toEqual(['walks'])
    expect(first.took?.rule.to).toBe('walks')
    expect(first.share).toBeCloseTo(0.25)
    const parts = p.step(0.05, values({ speed: 1 })).parts
    expect(parts.map(x => [x.clip.name, +x.weight.toFixed(3)]).sort()).toEqual([
      ['lookout idle', 0.5],
      ['walk', 0.5],
    ])
    for (let i = 0; i < 5; i++) p.step(0.05, values({ speed: 1 }))
    expect(p.step(0.05, values({ speed: 1 })).parts.map(x => x.clip.name)).toEqual(['walk'])
  })
  it('weights sum to one and never jump, whatever values come, however often it is interrupted', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: 0, max: 4, noNaN: true }), fc.boolean()), { minLength: 20, maxLength: 120 }),
        list => {
          // prettier-ignore
          const p = createPlayer(TABLE, byName)
          let before = new Map<string, number>([['lookout idle', 1]])
          for (const [speed, jumps] of list) {
            const { parts } = p.step(1 / 60, values({ speed }, { pressed: new Set(jumps ? ['Space'] : []) }))
            const now = new Map<string, number>()
            for (const x of parts) now.set(x.clip.name, (now.get(x.clip.name) ?? 0) + x.weight)
            expect(parts.reduce((s, x) => s + x.weight, 0)).toBeCloseTo(1, 3)
            for (const n of new Set([...now.keys(), ...before.keys()]))
              // blends over blends add up, but nothing comes or goes at once
              expect(Math.abs((now.get(n) ?? 0) - (before.get(n) ?? 0))).toBeLessThan((3 * (1 / 60)) / 0.2)
            before = now
          }
        },
      ),
      { numRuns: 60, seed: 5 },
    )
  })
  it('keeps steps together that go on in step, within three hundredths of a cycle', () => {
    const p = createPlayer(TABLE, byName)
    for (let i = 0; i < 47; i++) p.step(1 / 60, values({ speed: 1.2 }))
    for (let i = 0; i < 6; i++) {
      const { parts } = p.step(1 / 60, values({ speed: 2.4 }))
      expect(parts.map(x => x.clip.name)).toContain('run')
      expect(Math.max(...parts.map(x => x.phase)) - Math.min(...parts.map(x => x.phase))).toBeLessThan(0.03)
    }
    // over a stand too
    const q = createPlayer(TABLE, byName)
    for (let i = 0; i < 50; i++) q.step(1 / 60, values({ speed: 1.2 }))
    const left = q.step(1 / 60, values({ speed: 1.2 })).parts[0]!.phase
    for (let i = 0; i < 40; i++) q.step(1 / 60, values({ speed: 0 }))
    const again = q.step(1 / 60, values({ speed: 1.2 })).parts.find(x => x.clip.name === 'walk')!.phase
    expect(Math.abs(again - left)).toBeLessThan(0.3)
  })
  it('begins what is done once from its start, ends it, and leaves on the time left, a moment passed and a share played', () => {
    const p = createPlayer(TABLE, byName)
    p.step(0.1, values({ speed: 0 }))
    p.step(0.1, values({ speed: 0 }, { pressed: new Set(['Space']) }))
    let seconds = 0
    while (p.step(0.05, values({ speed: 0 })).state[0] === 'hops' && seconds < 5) seconds += 0.05
    expect(seconds).toBeGreaterThan(1)
    expect(seconds).toBeLessThan(1.4)
    expect(p.told().list.map(t => t.state)).toEqual(['stands', 'hops', 'stands'])

    for (const [when, from, to] of [
      [{ when: [{ cue: 'apex' }] }, 0.6, 0.88],
      [{ when: [], after: 0.8 }, 1.1, 1.3],
      [{ when: [], after: 1 }, 1.4, 1.6],
    ] as [Partial<Rule>, number, number][]) {
      const t: Table = { ...TABLE, first: 'hops', rules: [rule('hops', 'stands', [], when)] }
      const q = createPlayer(t, byName)
      let s = 0
      while (q.step(0.05, values({ speed: 0 })).state[0] === 'hops' && s < 5) s += 0.05
      expect(s).toBeGreaterThan(from)
      expect(s).toBeLessThan(to)
    }
  })
  it('plays tables in tables, each from its own first state', () => {
    const inner: Table = { ...TABLE, rules: TABLE.rules.slice(0, 4) }
    const t: Table = {
      first: 'afoot',
      states: [
        { name: 'afoot', plays: { table: inner } },
        { name: 'waves', plays: { take: 'wave' } },
      ],
      rules: [rule('afoot', 'waves', [{ key: '1', is: 'held' }]), rule('waves', 'afoot', [{ key: '1', is: 'free' }])],
    }
    const p = createPlayer(t, byName)
    for (let i = 0; i < 60; i++) p.step(1 / 60, values({ speed: 1.2 }))
    expect(p.step(1 / 60, values({ speed: 1.2 })).state).toEqual(['afoot', 'walks'])
    const { parts } = p.step(0.1, values({ speed: 1.2 }, { held: new Set(['1']) }))
    expect(parts.map(x => x.clip.name).sort()).toEqual(['walk', 'wave'])
    for (let i = 0; i < 40; i++) p.step(1 / 60, values({ speed: 0 }, { held: new Set(['1']) }))
    expect(p.step(1 / 60, values({ speed: 0 })).state).toEqual(['afoot', 'stands'])
    expect(takesIn(t)).toEqual(['lookout idle', 'walk', 'run', 'hop', 'wave'])
  })
  it('asks for own values and plays nothing where takes are missing, without an error', () => {
    const t: Table = { ...TABLE, rules: [rule('stands', 'walks', [{ value: 'mood', is: 'over', than: 3 }])] }
    const p = createPlayer(t, new Map())
    expect(p.step(0.1, values({ mood: 2 })).state).toEqual(['stands'])
    const after = p.step(0.1, values({ mood: 4 }))
    expect(after.state).toEqual(['walks'])
    expect(after.parts).toEqual([])
  })
})

describe('shares of places', () => {
  it('sum to one, are one at a place itself, and lie between neighbours on a line', () => {
    expect(sharesAt([[1, 0], [2, 0], [4, 0]], [3, 0])).toEqual([0, 0.5, 0.5]) // prettier-ignore
    expect(sharesAt([[1, 0], [2, 0]], [0.2, 0])).toEqual([1, 0]) // prettier-ignore
    const point = fc.tuple(fc.double({ min: -5, max: 5, noNaN: true }), fc.double({ min: -5, max: 5, noNaN: true }))
    fc.assert(
      fc.property(
        fc.uniqueArray(point, { minLength: 1, maxLength: 8, selector: p => p.map(v => Math.round(v)).join() }),
        point,
        (places, at) => {
          // prettier-ignore
          const shares = sharesAt(places, at)
          expect(shares.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6)
          expect(Math.min(...shares)).toBeGreaterThanOrEqual(0)
          expect(sharesAt(places, places[0]!)[0]).toBeCloseTo(1, 6)
        },
      ),
      { seed: 3 },
    )
  })
})

describe('mistakes in a table', () => {
  it('are none in the one a figure has of itself, and in that of the test', () => {
    expect(checkStates(standardStates(CLIPS), byName)).toEqual([])
    expect(faultsOf(TABLE)).toEqual([])
  })
  it('are found: nothing leads there, nothing leads out, two at once, never, names that mean nothing', () => {
    const without = (i: number): Table => ({ ...TABLE, rules: TABLE.rules.filter((_, k) => k !== i) })
    expect(faultsOf(without(2))).toEqual(['unreachable'])
    expect(faultsOf({ ...without(5), rules: without(5).rules })).toEqual(['dead-end'])
    expect(faultsOf({ ...TABLE, rules: [...TABLE.rules, rule('walks', 'hops', [{ value: 'speed', is: 'over', than: 2.5 }])] })).toEqual(['two-at-once']) // prettier-ignore
    expect(faultsOf({ ...TABLE, rules: [...TABLE.rules, rule('walks', 'hops', [{ value: 'speed', is: 'over', than: 1.5 }])] })).toEqual([]) // prettier-ignore
    expect(faultsOf({ ...TABLE, rules: [...TABLE.rules, rule('walks', 'hops', [{ value: 'speed', is: 'over', than: 5 }, { value: 'speed', is: 'under', than: 4 }])] })).toContain('never') // prettier-ignore
    expect(faultsOf({ ...TABLE, rules: [...TABLE.rules, rule('walks', 'flies', [])] })).toContain('unknown-state')
    expect(faultsOf({ ...TABLE, rules: [...TABLE.rules, rule('walks', 'hops', [{ value: 'mood', is: 'over', than: 5 }])] })).toContain('unknown-value') // prettier-ignore
    expect(checkStates(doc(TABLE), new Map()).filter(f => f.kind === 'no-take')).toHaveLength(4)
    expect(faultsOf({ ...TABLE, first: 'nowhere' })).toContain('unknown-state')
    expect(faultsOf({ ...TABLE, states: [...TABLE.states, TABLE.states[0]!] })).toContain('twice')
  })
})

describe("a table of one's own", () => {
  it('tells its mistakes among the findings, and nothing where there are none', async () => {
    const broken = doc({ ...TABLE, rules: TABLE.rules.filter((_, i) => i !== 2) })
    const found = (await findAll({ states: broken })).filter(f => f.rule === 'states-mistake')
    expect(found.map(f => [f.where, f.message])).toEqual([['runs', 'Nothing leads to runs.']])
    expect((await findAll({ states: doc(TABLE) })).filter(f => f.rule === 'states-mistake')).toEqual([])
  })
  it('changes by edits that keep its rules', () => {
    const renamed = renameState(TABLE, 'walks', 'strolls')
    expect(faultsOf(renamed)).toEqual([])
    expect(renamed.rules.filter(r => r.from === 'strolls' || r.to === 'strolls')).toHaveLength(4)
    expect(() => renameState(TABLE, 'walks', 'runs')).toThrow('already')
    const fewer = removeState(TABLE, 'stands')
    expect(fewer.first).toBe('walks')
    expect(fewer.rules.some(r => r.from === 'stands' || r.to === 'stands')).toBe(false)
    expect(() => removeState({ ...TABLE, states: TABLE.states.slice(0, 1) }, 'stands')).toThrow('one state')
    expect(moveRule(TABLE, 0, -1)).toBe(TABLE)
    expect(
      moveRule(TABLE, 1, -1)
        .rules.map(r => r.to)
        .slice(0, 2),
    ).toEqual(['stands', 'walks'])
    const twice = addState(addState(TABLE, 'waits', { take: 'wave' }).table, 'waits', { take: 'wave' })
    expect(twice.name).toBe('waits 2')
    // a table in a table
    const nested = doc({ first: 'afoot', states: [{ name: 'afoot', plays: { table: TABLE } }], rules: [] })
    const edited = withTable(nested, ['afoot'], t => changeRule(t, 0, { blend: 1 }))
    expect(tableAtPath(edited, ['afoot'])!.rules[0]!.blend).toBe(1)
    expect(tableAtPath(nested, ['afoot', 'walks'])).toBeUndefined()
  })
  it('tells rules in words', () => {
    expect(whenWords(rule('a', 'b', [{ value: 'speed', is: 'over', than: 2 }, { ground: false }]))).toBe('speed over 2 m/s and in the air') // prettier-ignore
    expect(whenWords(rule('a', 'b', [{ key: 'q', is: 'pressed' }, { left: 0.2 }, { cue: 'apex' }], { after: 0.5 }))).toBe('after 50 % and Q pressed and 0.2 s left and apex passed') // prettier-ignore
    expect(whenWords(rule('a', 'b', [], { after: 1 }))).toBe('at its end')
    expect(whenWords(rule('a', 'b', [{ value: 'bearing', is: 'under', than: -20 }]))).toBe('way to turn under -20°')
  })
  it('a blend by speed and turn comes of takes that turn', () => {
    const turning = [...CLIPS, clip('walk left', 'steps', 1.1, 1.1, { turn: 0.8 }), clip('walk right', 'steps', 1.1, 1.1, { turn: -0.8 })] // prettier-ignore
    const own = standardStates(turning)
    const goes = own.table.states.find(s => s.name === 'goes')!.plays
    expect('by' in goes && goes.by).toBe('speed and turn')
    const p = createPlayer(own.table, new Map(turning.map(c => [c.name, c])))
    let parts = p.step(0.1, values({ speed: 1.15, wish: 1, turn: 0 })).parts
    const play = (turn: number): Record<string, number> => {
      for (let i = 0; i < 40; i++) parts = p.step(1 / 60, values({ speed: 1.15, wish: 1, turn })).parts
      return Object.fromEntries(parts.map(x => [x.clip.name, +x.weight.toFixed(2)]))
    }
    expect(play(46)['walk left']).toBeGreaterThan(0.8)
    expect(play(-46)['walk right']).toBeGreaterThan(0.8)
    const even = play(0)
    expect(even['walk']).toBeGreaterThan(0.5)
    expect(Math.abs((even['walk left'] ?? 0) - (even['walk right'] ?? 0))).toBeLessThan(0.05)
  })
})

describe('the document', () => {
  it('is read as it was written, and refused in words where it is newer, broken or something else', () => {
    const own = standardStates(CLIPS)
    expect(parseStates(JSON.parse(JSON.stringify(own)))).toEqual(own)
    expect(() => parseStates({ format: 'chiraxis-states', version: 2 })).toThrow('newer')
    expect(() => parseStates({ hello: 1 })).toThrow('no table of states')
    expect(() => parseStates(null)).toThrow('no table of states')
    expect(() => parseStates({ ...own, table: { ...own.table, rules: [{ from: 'a' }] } })).toThrow('table.rules')
  })
  it('is described in docs as it is read', () => {
    expect(JSON.parse(readFileSync('docs/states.schema.json', 'utf8'))).toEqual(JSON.parse(JSON.stringify(statesJsonSchema()))) // prettier-ignore
  })
})
