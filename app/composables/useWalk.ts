import { createSharedComposable } from '@vueuse/core'
import { createRecorder, createWalkabout, type Footfall, type Lead, type Played, type Walkabout, type Walking } from '@chiraxis/core/trial' // prettier-ignore
import { core, RefusedError, tell, unwrap } from '~/workers/client'

/** Seconds it goes on after nothing is asked any more: it comes to stand and sets its feet. */
const GOES_ON = 2.5
/** What slow motion is, share of the pace. */
const SLOW = 0.25
/** The longest step at once, seconds. */
const STEP = 1 / 30
/** Where the eye is. */
export type Eye = 'still' | 'behind' | 'beside' | 'around'

const now = shallowRef<Walking>()
const lead = shallowRef<Lead>({})
const hurry = ref(false)
const slow = ref(false)
const paused = ref(false)
const eye = ref<Eye>('still')
const held = reactive(new Set<string>())
const values = ref<Record<string, number>>({})
const recording = ref(false)
const recordedSeconds = ref(0)
const told = shallowRef<{ time: number; list: readonly Played[] }>({ time: 0, list: [] })
let pressed: string[] = []
let walkabout: Walkabout | undefined
let frame: number | undefined
let before = 0
let asked = 0
let clock = 0
const recorder = createRecorder()
let onFalls: (falls: readonly Footfall[], speed: number) => void = () => undefined

/** The figure led over the ground by keys and pointer, as its states say, with what it did kept where it is recorded. */
export const useWalk = createSharedComposable(() => {
  const trial = useTrial()
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const on = computed(() => view.step === 'walkabout' || view.step === 'states')
  const ready = computed(() => trial.goes.value && trial.stands.value && walkabout !== undefined && now.value !== undefined) // prettier-ignore
  const walks = computed(() => trial.clips.value.filter(c => c.kind === 'steps').sort((a, b) => a.speed - b.speed))

  /** Begins anew where what it is made of changed; it stays where it was. */
  function begin(): void {
    stop()
    const m = trial.made.value,
      s = trial.skeleton.value,
      states = trial.states.value
    if (!m || !s || !states || !trial.goes.value || !trial.stands.value) {
      walkabout = undefined
      now.value = undefined
      return
    }
    const at = now.value
    walkabout = createWalkabout({ ...m, skeleton: toRaw(s), clips: trial.clips.value, states: toRaw(states), floor: trial.floor.value }) // prettier-ignore
    if (at) walkabout.place(...at.place, at.heading)
    values.value = Object.fromEntries(states.values.map(v => [v.name, values.value[v.name] ?? v.value]))
    now.value = walkabout.step(1 / 60, {})
  }
  watch([trial.made, trial.guest, trial.states, trial.floor, trial.skeleton], begin, { immediate: true })
  watch(on, yes => {
    if (!yes) stop()
  })

  function advance(seconds: number): void {
    if (!walkabout || seconds < 1e-6) return
    const steps = Math.ceil(seconds / STEP - 1e-6)
    const done = Array.from({ length: steps }, () => once(seconds / steps))
    const falls = done.flatMap(w => w.footfalls)
    if (falls.length > 0) onFalls(falls, done[0]!.speed)
    told.value = walkabout.told()
    now.value = {
      ...done.at(-1)!,
      footfalls: falls,
      took: done.findLast(w => w.took)?.took,
      slide: done.reduce((s, w) => s + w.slide, 0) / steps,
    }
  }
  function once(seconds: number): Walking {
    const w = walkabout!.step(seconds, {
      ...lead.value,
      speed: speedWished(),
      pressed,
      held: [...held],
      values: values.value,
    })
    pressed = []
    clock += seconds
    if (recording.value) {
      recorder.add(clock, w)
      recordedSeconds.value = recorder.seconds()
    }
    return w
  }
  function tick(at: number): void {
    frame = undefined
    if (!walkabout || !on.value || paused.value) return
    // where pictures come seldom, what lies between them is gone through all the same
    const left = Math.min(0.4, Math.max(0, (at - before) / 1000)) * (slow.value ? SLOW : 1)
    before = at
    advance(left)
    const w = now.value
    if (lead.value.to || held.size > 0 || (w && !atRest(w)) || recording.value) asked = at
    if (at - asked < 1000 * GOES_ON) frame = requestAnimationFrame(tick)
  }
  /** Whether nothing is left to be seen through: it stands, and does nothing else. */
  const atRest = (w: Walking): boolean =>
    w.grounded &&
    w.doing.length === 0 &&
    w.speed === 0 &&
    w.share === 1 &&
    w.shares.every(s => trial.clips.value.find(c => c.name === s.name)?.kind === 'stand')
  /** The slowest gait, or the fastest where it is to hurry. */
  const speedWished = (): number | undefined => walks.value.at(hurry.value ? -1 : 0)?.speed
  function wake(): void {
    asked = performance.now()
    if (frame !== undefined || !walkabout || paused.value) return
    before = asked
    frame = requestAnimationFrame(tick)
  }
  /** @param to across and ahead on the ground; nothing to stand @param share of the speed it is led with */
  function go(to: readonly [number, number] | undefined): void {
    lead.value = to ? { to } : {}
    wake()
  }
  /** A key that rules and actions ask for. */
  function key(name: string, down: boolean): void {
    if (down && !held.has(name)) pressed.push(name)
    if (down) held.add(name)
    else held.delete(name)
    wake()
  }
  /** A key pressed once, by a press in the window. */
  function tap(name: string): void {
    pressed.push(name)
    wake()
  }
  /** Whether a key means something to the figure. */
  const means = (name: string): boolean => {
    const s = trial.states.value
    if (!s) return false
    const asks = (t: typeof s.table): boolean =>
      t.rules.some(r => r.when.some(c => 'key' in c && c.key === name)) ||
      t.states.some(x => 'table' in x.plays && asks(x.plays.table))
    return s.jump?.key === name || s.actions.some(a => a.key === name) || asks(s.table)
  }
  function stop(): void {
    lead.value = {}
    held.clear()
    pressed = []
    if (frame !== undefined) cancelAnimationFrame(frame)
    frame = undefined
  }
  function letGo(): void {
    lead.value = {}
    held.clear()
    wake()
  }
  /** Back to where it began, standing: whatever it was about is over. */
  function home(): void {
    now.value = undefined
    begin()
  }
  watch(paused, yes => {
    if (!yes) wake()
  })
  const stepOnce = (): void => advance(STEP)

  // --- kept as a take ---
  const canRecord = computed(() => !trial.guest.value)
  function record(): void {
    recorder.clear()
    recordedSeconds.value = 0
    recording.value = true
    wake()
  }
  async function keep(): Promise<void> {
    recording.value = false
    const take = recorder.take(`run of ${new Date().toLocaleTimeString('en-GB').replace(/:/g, '.')}`)
    recorder.clear()
    if (!take) return
    try {
      const recipe = toRaw(project.recipe)
      const made = await unwrap(core().keepRun(tell(recipe), take))
      const now = toRaw(project.recipe)
      // what leads the figure stays what it was
      const trialNow = { ...now.trial, takes: [...trial.wanted.value] }
      project.change(`Keep ${made.name}`, { ...now, trial: trialNow, takes: [...now.takes, { ...made, kind: derived.kind }] }) // prettier-ignore
      project.notice = {
        text: `${made.name} is kept as a take of ${now.name}, ${Math.round(take.frames / take.fps)} s long.`,
        action: {
          label: 'Show it',
          run: () => {
            project.notice = undefined
            view.go('takes')
            void derived.showTake(made.id)
          },
        },
      }
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
      project.notice = { text: error.message }
    }
  }
  function drop(): void {
    recording.value = false
    recorder.clear()
  }
  const onFootfalls = (run: typeof onFalls): void => {
    onFalls = run
  }
  return { walks, ready, now, hurry, slow, paused, eye, held, values, told, go, key, tap, means, stop, letGo, home, stepOnce, recording, recordedSeconds, canRecord, record, keep, drop, onFootfalls } // prettier-ignore
})
