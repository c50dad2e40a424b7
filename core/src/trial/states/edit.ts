import { ChiraxisError } from '../../math'
import type { Rule, State, StatesDocument, Table } from './document'

/** The table that lies so deep: states by their names, from the outermost in. */
export function tableAtPath(doc: StatesDocument, path: readonly string[]): Table | undefined {
  let table: Table | undefined = doc.table
  for (const name of path) {
    const plays: State['plays'] | undefined = table?.states.find(s => s.name === name)?.plays
    table = plays && 'table' in plays ? plays.table : undefined
  }
  return table
}

/** The document with a table of it changed. */
export function withTable(doc: StatesDocument, path: readonly string[], change: (t: Table) => Table): StatesDocument {
  const within = (table: Table, rest: readonly string[]): Table =>
    rest.length === 0
      ? change(table)
      : {
          ...table,
          states: table.states.map(s =>
            s.name === rest[0] && 'table' in s.plays
              ? { ...s, plays: { table: within(s.plays.table, rest.slice(1)) } }
              : s,
          ),
        }
  return { ...doc, table: within(doc.table, path) }
}

/** A state by another name, in all rules too. @throws ChiraxisError where there is one of that name */
export function renameState(table: Table, from: string, to: string): Table {
  const name = to.trim()
  if (name === '' || name === from) return table
  if (table.states.some(s => s.name === name))
    throw new ChiraxisError('bad-settings', `There is a state ${name} already.`)
  const now = (n: string): string => (n === from ? name : n)
  return {
    first: now(table.first),
    states: table.states.map(s => (s.name === from ? { ...s, name } : s)),
    rules: table.rules.map(r => ({ ...r, from: now(r.from), to: now(r.to) })),
  }
}

/** Without a state and the rules that lead to it or from it. @throws ChiraxisError for the only one */
export function removeState(table: Table, name: string): Table {
  const states = table.states.filter(s => s.name !== name)
  if (states.length === 0) throw new ChiraxisError('bad-settings', 'A table has one state at least.')
  return {
    first: table.first === name ? states[0].name : table.first,
    states,
    rules: table.rules.filter(r => r.from !== name && r.to !== name),
  }
}

/** With a state more, under a name that is free. */
export function addState(table: Table, wish: string, plays: State['plays']): { table: Table; name: string } {
  let name = wish
  for (let i = 2; table.states.some(s => s.name === name); i++) name = `${wish} ${i}`
  return { table: { ...table, states: [...table.states, { name, plays }] }, name }
}

export const NEW_RULE: Omit<Rule, 'from' | 'to'> = { when: [], blend: 0.25, curve: 'soft', after: 1, enters: 'in step' }
/** With a rule more, the last of all: those before it go before it. It is taken at the end of what plays, until conditions are told. */
export const addRule = (table: Table, from: string, to: string): Table => ({
  ...table,
  rules: [...table.rules, { ...NEW_RULE, from, to }],
})
export const changeRule = (table: Table, at: number, part: Partial<Rule>): Table => ({
  ...table,
  rules: table.rules.map((r, i) => (i === at ? { ...r, ...part } : r)),
})
export const removeRule = (table: Table, at: number): Table => ({
  ...table,
  rules: table.rules.filter((_, i) => i !== at),
})
/** A rule earlier or later among all: of two that hold, the earlier one is taken. */
export function moveRule(table: Table, at: number, by: -1 | 1): Table {
  const to = at + by
  if (to < 0 || to >= table.rules.length) return table
  const rules = [...table.rules]
  ;[rules[at], rules[to]] = [rules[to], rules[at]]
  return { ...table, rules }
}
