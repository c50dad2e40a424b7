import type { Clip } from '../clip'
import { ANY, takesIn, VALUES, type Condition, type Rule, type StatesDocument, type Table } from './document'

/** What is wrong with a table of states, and where. */
export interface TableFault {
  readonly kind: 'unreachable' | 'dead-end' | 'two-at-once' | 'never' | 'unknown-state' | 'unknown-value' | 'no-take' | 'twice' // prettier-ignore
  /** In words of the window. */
  readonly text: string
  readonly state?: string
  /** Place of the rule in its table. */
  readonly rule?: number
}

/** States nobody gets to, states nobody gets out of, rules that hold at once or never, and names that mean nothing. */
export function checkStates(doc: StatesDocument, clips?: ReadonlyMap<string, Pick<Clip, 'kind'>>): TableFault[] {
  const known = new Set([...Object.keys(VALUES), ...doc.values.map(v => v.name)])
  const missing = clips
    ? [...new Set([...takesIn(doc.table), ...doc.actions.map(a => a.take), ...(doc.jump?.take ? [doc.jump.take] : [])])].filter(t => !clips.has(t)) // prettier-ignore
    : []
  return [
    ...missing.map((t): TableFault => ({ kind: 'no-take', text: `The take ${t} is not among those made ready.` })),
    ...checkTable(doc.table, known, clips),
  ]
}

function checkTable(
  { first, states, rules }: Table,
  values: ReadonlySet<string>,
  clips?: ReadonlyMap<string, Pick<Clip, 'kind'>>,
): TableFault[] {
  const faults: TableFault[] = []
  const names = states.map(s => s.name)
  names.forEach((n, i) => {
    if (names.indexOf(n) < i) faults.push({ kind: 'twice', state: n, text: `Two states are called ${n}.` })
  })
  if (!names.includes(first))
    faults.push({ kind: 'unknown-state', state: first, text: `It is to begin with ${first}, which is no state.` })
  rules.forEach((r, i) => {
    for (const n of [r.from, r.to])
      if (n !== ANY && !names.includes(n))
        faults.push({ kind: 'unknown-state', rule: i, text: `A rule names ${n}, which is no state.` })
    for (const c of r.when)
      if ('value' in c && !values.has(c.value))
        faults.push({ kind: 'unknown-value', rule: i, text: `${r.from} to ${r.to} asks for ${c.value}, which is no value.` }) // prettier-ignore
    if (neverHolds(r.when))
      faults.push({ kind: 'never', rule: i, text: `${r.from} to ${r.to} can never hold: its conditions exclude each other.` }) // prettier-ignore
  })
  const usable = rules.filter(r => !neverHolds(r.when))
  const reached = new Set<string>()
  const queue = [names.includes(first) ? first : names[0]]
  while (queue.length > 0) {
    const at = queue.pop()!
    if (reached.has(at)) continue
    reached.add(at)
    for (const r of usable) if (r.from === at || r.from === ANY) queue.push(r.to)
  }
  for (const n of names)
    if (!reached.has(n)) faults.push({ kind: 'unreachable', state: n, text: `Nothing leads to ${n}.` })
  if (names.length > 1)
    for (const s of states) {
      if (usable.some(r => (r.from === s.name || r.from === ANY) && r.to !== s.name)) continue
      const ends = 'take' in s.plays && clips?.get(s.plays.take)?.kind === 'once'
      faults.push({
        kind: 'dead-end',
        state: s.name,
        text: ends ? `${s.name} ends and nothing follows it.` : `Nothing leads out of ${s.name}.`,
      })
    }
  // of two rules that hold at once, the first is always taken: the other never, where it asks for no less
  rules.forEach((late, i) => {
    const early = rules
      .slice(0, i)
      .find(r => covers(r, late) && r.when.every(c => late.when.some(d => implies(d, c))) && r.after <= late.after)
    if (early && early.to !== late.to)
      faults.push({
        kind: 'two-at-once',
        rule: i,
        state: late.from,
        text: `${late.from} to ${late.to} never comes about: whenever it holds, ${early.from === ANY ? 'any state' : early.from} to ${early.to} does, which stands before it.`,
      })
  })
  for (const s of states) if ('table' in s.plays) faults.push(...checkTable(s.plays.table, values, clips))
  return faults
}

const covers = (a: Rule, b: Rule): boolean => a.from === b.from || (a.from === ANY && a.to !== b.from)

/** Whether one condition holds whenever another does. */
function implies(given: Condition, asked: Condition): boolean {
  if ('value' in given && 'value' in asked)
    return (
      given.value === asked.value &&
      given.is === asked.is &&
      (given.is === 'over' ? given.than >= asked.than : given.than <= asked.than)
    )
  if ('left' in given && 'left' in asked) return given.left <= asked.left
  if ('key' in given && 'key' in asked)
    return given.key === asked.key && (given.is === asked.is || (given.is === 'pressed' && asked.is === 'held'))
  return JSON.stringify(given) === JSON.stringify(asked)
}

/** Whether conditions exclude each other. */
function neverHolds(when: readonly Condition[]): boolean {
  return when.some((a, i) =>
    when.slice(i + 1).some(b => {
      if ('value' in a && 'value' in b && a.value === b.value && a.is !== b.is) {
        const over = a.is === 'over' ? a.than : b.than,
          under = a.is === 'under' ? a.than : b.than
        return over >= under
      }
      if ('ground' in a && 'ground' in b) return a.ground !== b.ground
      if ('key' in a && 'key' in b) return a.key === b.key && (a.is === 'free') !== (b.is === 'free')
      return false
    }),
  )
}
