import { createSharedComposable } from '@vueuse/core'
import { createWalkabout, type Lead, type Walker, type Walking } from '@chiraxis/core/trial'
import type { TrialGaits } from '@chiraxis/core/steps'

/** A take that may be led with, by its name. */
export interface LedTake {
  readonly id: string
  readonly name: string
  readonly performer: string
}
/** Names that tell a take to stand or go, and those that tell it to do something else on the way. */
const GOES = /(^|[^\p{L}])(idle|stand|wait|walk|run|jog|trot|sprint|pace|gallop)([^\p{L}]|$)/iu
const ELSE = /(sit|crouch|stumble|turn|stop|start|back|fall|carry|treadmill|climb|limp)/iu
/** Most takes of one performer that are made ready by themselves. */
const READY = 8
/** Seconds it goes on after nothing is asked any more: it comes to stand and sets its feet. */
const GOES_ON = 2.5

const made = shallowRef<TrialGaits>()
const chosen = shallowRef<readonly string[]>()
const performer = ref<string>()
const now = shallowRef<Walking>()
const lead = shallowRef<Lead>({})
const hurry = ref(false)
let walkabout: ReturnType<typeof createWalkabout> | undefined
let walker: Walker | undefined
let frame: number | undefined
let before = 0
let turn = 0
let asked = 0

/** The figure led over the ground by keys and pointer, by gaits made of its takes. */
export const useWalk = createSharedComposable(() => {
  const derived = useDerived()
  const project = useProject()
  const view = useView()

  const takes = computed<readonly LedTake[]>(() => [
    ...(derived.rig?.takes ?? []).map(t => ({ ...t, performer: 'Came with the body' })),
    ...derived.fittingTakes.map(({ id, name, performer: by }) => ({ id, name, performer: by })),
  ])
  const performers = computed(() => [...new Set(takes.value.filter(t => GOES.test(t.name)).map(t => t.performer))])
  const by = computed(() => performer.value ?? performers.value[0])
  const offered = computed(() => takes.value.filter(t => t.performer === by.value))
  const wanted = computed<readonly string[]>(
    () =>
      chosen.value ??
      offered.value
        .filter(t => GOES.test(t.name) && !ELSE.test(t.name))
        .slice(0, READY)
        .map(t => t.id),
  )
  const walks = computed(() => [...(made.value?.gaits ?? [])].sort((a, b) => a.gait.speed - b.gait.speed))
  const stands = computed(() => made.value?.stands ?? [])
  const idle = computed(() => stands.value.find(s => /idle/i.test(s.gait.name)) ?? stands.value[0])
  const ready = computed(() => walks.value.length > 0 && idle.value !== undefined)

  async function prepare(): Promise<void> {
    stop()
    made.value = undefined
    now.value = undefined
    walkabout = undefined
    if (view.step !== 'walkabout' || !derived.skeleton || wanted.value.length === 0) return
    const mine = ++turn
    try {
      const found = await derived.trialGaits([...wanted.value])
      // what was asked for since is on its way
      if (mine !== turn) return
      made.value = found
    } catch {
      // the step tells its own refusal
      return
    }
    begin()
  }
  function begin(): void {
    const m = made.value,
      s = derived.skeleton
    if (!m || !s || !idle.value || m.gaits.length === 0) return
    walker = { ...m, skeleton: s, gaits: m.gaits.map(g => g.gait), idle: idle.value.gait }
    walkabout = createWalkabout(walker)
    now.value = walkabout.step(1 / 60, {})
  }
  // what the figure is, or which takes it is led with, is made ready anew
  watch([() => view.step === 'walkabout', () => project.recipe, wanted], () => void prepare(), { immediate: true })

  function tick(at: number): void {
    frame = undefined
    if (!walkabout || view.step !== 'walkabout') return
    const seconds = Math.min(0.1, Math.max(0, (at - before) / 1000))
    before = at
    const going = lead.value.to !== undefined
    if (going) asked = at
    now.value = walkabout.step(seconds, { ...lead.value, speed: speedWished() })
    if (going || at - asked < 1000 * GOES_ON) frame = requestAnimationFrame(tick)
  }
  /** The slowest gait, or the fastest where it is to hurry. */
  const speedWished = (): number | undefined => walks.value.at(hurry.value ? -1 : 0)?.gait.speed
  /** @param to across and ahead on the ground; nothing to stand */
  function go(to: readonly [number, number] | undefined): void {
    lead.value = to ? { to } : {}
    if (frame === undefined && walkabout && (to || now.value)) {
      before = performance.now()
      asked = before
      frame = requestAnimationFrame(tick)
    }
  }
  function stop(): void {
    lead.value = {}
    if (frame !== undefined) cancelAnimationFrame(frame)
    frame = undefined
  }
  /** Back to where it began. */
  function home(): void {
    walkabout?.place(0, 0, 0)
    if (walkabout) now.value = walkabout.step(1 / 60, {})
  }
  const choose = (id: string, on: boolean): void => {
    chosen.value = on ? [...wanted.value, id] : wanted.value.filter(w => w !== id)
  }
  function choosePerformer(name: string): void {
    performer.value = name
    chosen.value = undefined
  }
  return { takes: offered, performers, by, choosePerformer, wanted, choose, walks, stands, idle, ready, made, now, hurry, go, stop, home } // prettier-ignore
})
