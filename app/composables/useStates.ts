import { createSharedComposable } from '@vueuse/core'
import {
  addRule,
  addState,
  ANY,
  changeRule,
  checkStates,
  moveRule,
  parseStates,
  removeRule,
  removeState,
  renameState,
  stateWord,
  tableAtPath,
  withTable,
  type Rule,
  type State,
  type StatesDocument,
  type Table,
} from '@chiraxis/core/trial'
import { saveAs } from './useFiles'

const path = ref<readonly string[]>([])
const rule = ref<number>()
const state = ref<string>()

/** The table of states: what is chosen in it, and every change to it as a step to take back. */
export const useStates = createSharedComposable(() => {
  const trial = useTrial()
  const project = useProject()
  const doc = trial.states
  const table = computed<Table | undefined>(() => doc.value && (tableAtPath(doc.value, path.value) ?? doc.value.table))
  watch(doc, d => {
    if (d && !tableAtPath(d, path.value)) path.value = []
    if (rule.value !== undefined && !table.value?.rules[rule.value]) rule.value = undefined
    if (state.value && !table.value?.states.some(s => s.name === state.value)) state.value = undefined
  })
  const faults = computed(() => (doc.value ? checkStates(doc.value, new Map(trial.clips.value.map(c => [c.name, c]))) : [])) // prettier-ignore
  const own = computed(() => trial.told.value?.states !== undefined)

  function set(name: string, next: StatesDocument): void {
    trial.change(name, { states: next })
  }
  function edit(name: string, run: (t: Table) => Table): void {
    if (!doc.value) return
    try {
      set(name, withTable(doc.value, path.value, run))
    } catch (error) {
      project.notice = { text: error instanceof Error ? error.message : String(error) }
    }
  }
  const nameOf = (r: Rule): string => `${stateWord(r.from)} to ${stateWord(r.to)}`
  const setRule = (at: number, part: Partial<Rule>, what: string): void =>
    edit(`${what} of ${nameOf(table.value!.rules[at]!)}`, t => changeRule(t, at, part))
  function newRule(from: string, to: string): void {
    edit(`Let ${stateWord(to)} follow ${stateWord(from)}`, t => addRule(t, from, to))
    choose(table.value!.rules.length - 1)
  }
  function dropRule(at: number): void {
    edit(`No longer ${nameOf(table.value!.rules[at]!)}`, t => removeRule(t, at))
    rule.value = undefined
  }
  const shift = (at: number, by: -1 | 1): void => {
    edit(`${nameOf(table.value!.rules[at]!)} ${by < 0 ? 'earlier' : 'later'}`, t => moveRule(t, at, by))
    rule.value = Math.min(table.value!.rules.length - 1, Math.max(0, at + by))
  }
  function newState(): void {
    const take = trial.clips.value[0]?.name
    if (!take || !table.value) return
    const made = addState(table.value, 'new state', { take })
    edit('Add a state', () => made.table)
    pick(made.name)
  }
  const rename = (from: string, to: string): void => {
    edit(`Call ${from} ${to}`, t => renameState(t, from, to))
    if (table.value?.states.some(s => s.name === to.trim())) state.value = to.trim()
  }
  function drop(name: string): void {
    edit(`Remove the state ${name}`, t => removeState(t, name))
    state.value = undefined
  }
  const setState = (name: string, part: Partial<State>, what: string): void =>
    edit(`${what} of ${name}`, t => ({ ...t, states: t.states.map(s => (s.name === name ? { ...s, ...part } : s)) }))
  const first = (name: string): void => edit(`Begin with ${name}`, t => ({ ...t, first: name }))
  const setValues = (name: string, values: StatesDocument['values']): void => set(name, { ...doc.value!, values })

  function choose(at: number | undefined): void {
    rule.value = at
    state.value = undefined
  }
  function pick(name: string | undefined): void {
    state.value = name === ANY ? undefined : name
    rule.value = undefined
  }
  function enter(to: readonly string[]): void {
    path.value = to
    rule.value = state.value = undefined
  }
  function save(): void {
    if (doc.value)
      saveAs(`${project.recipe.name}.states.json`, new TextEncoder().encode(JSON.stringify(doc.value, null, 2)), 'application/json') // prettier-ignore
  }
  async function load(file: File): Promise<void> {
    try {
      set(`Behave as in ${file.name}`, parseStates(JSON.parse(await file.text())))
    } catch (error) {
      project.notice = {
        text: `${error instanceof SyntaxError ? `${file.name} is no JSON.` : error instanceof Error ? error.message : String(error)} Your project is unchanged.`, // prettier-ignore
      }
    }
  }
  const asOfItself = (): void => trial.change('Behave as of itself', { states: undefined })
  return { doc, table, path, enter, rule, choose, state, pick, faults, own, setRule, newRule, dropRule, shift, newState, rename, drop, setState, first, setValues, save, load, asOfItself } // prettier-ignore
})
