import { checkStates } from '../trial'
import type { Rule } from './finding'

/** Mistakes in a table of states of one's own: states nobody gets to or out of, rules that hold at once or never. */
export const statesMistake: Rule = {
  id: 'states-mistake',
  detect: ({ states }) =>
    (states ? checkStates(states) : []).map(f => ({
      rule: 'states-mistake',
      severity: f.kind === 'unknown-state' || f.kind === 'unknown-value' ? 'warning' : 'note',
      value: 1,
      unit: 'rule',
      where: f.state ?? 'states',
      message: f.text,
      mendable: false,
      target: 'states',
    })),
}
