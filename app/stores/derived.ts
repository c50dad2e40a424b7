import { defineStore } from 'pinia'
import type { FileSet } from '@chiraxis/core/steps'
import {
  keepsReceived,
  ownTakeAt,
  type AttachChoice,
  type FileRef,
  type Recipe,
  type TakeRef,
} from '@chiraxis/core/recipe'
import { jointIds, type PlanKind, type Skeleton } from '@chiraxis/core/skeleton'
import { type BodyKind } from '@chiraxis/core/body'
import type { Profile } from '@chiraxis/core/delivery'
import type { Guest, TrialClips } from '@chiraxis/core/steps'
import { NO_SHAPES } from '@chiraxis/core/corrective'
import { core, onWorkerLost, progressOf, RefusedError, tell, unwrap } from '~/workers/client'
import type { ShallowRef } from 'vue'
import type {
  Ask,
  DeliveryAnswer,
  Keyed,
  ReceivedFile,
  TakeAnswer,
  ViewName,
  Views,
  VoiceAnswer,
} from '~/workers/core-api'
import type { LostWorker } from '~/workers/supervise'
import { useProject } from './project'

/** What is worked out and can be looked at, and the jobs that are no steps of the derivation. */
export type StepName = ViewName | 'mend' | 'deliver' | 'receive' | 'trial' | 'listen'
export interface StepState {
  state: 'idle' | 'working' | 'done' | 'refused' | 'stopped'
  progress: number
  message: string
}

const NO_FAULTS: Views['faults'] = { rims: [], faces: [] }

const NO_EXPRESSIONS: Views['expressions'] = { binds: {}, shapes: [], told: [] }

const idle = (): StepState => ({ state: 'idle', progress: 0, message: '' })
const STEPS: readonly StepName[] = [
  'shape',
  'check',
  'faults',
  'asymmetry',
  'landmarks',
  'rig',
  'pieces',
  'skin',
  'openSkin',
  'correctives',
  'expressions',
  'face',
  'light',
  'strain',
  'handles',
  'props',
  'take',
  'findings',
  'mend',
  'deliver',
  'trial',
  'listen',
  'receive',
]
/** What hangs on the skin and on the joints it was made for. */
const SKINNED = [
  'skin',
  'openSkin',
  'correctives',
  'expressions',
  'light',
  'strain',
  'handles',
  'props',
  'take',
] as const
/** Results of each step that stay at hand, so that undo and redo bring nothing over again. */
const AT_HAND = 3

/** A result as it is shown, and what it is known by. */
interface Shown<T> {
  readonly key: string
  readonly value: T
}

/** Everything worked out from the recipe, in step with it. What a change does not touch stays the same object. */
export const useDerived = defineStore('derived', () => {
  const project = useProject()
  const shown = {
    shape: shallowRef<Shown<Views['shape']>>(),
    check: shallowRef<Shown<Views['check']>>(),
    faults: shallowRef<Shown<Views['faults']>>(),
    asymmetry: shallowRef<Shown<Views['asymmetry']>>(),
    landmarks: shallowRef<Shown<Views['landmarks']>>(),
    rig: shallowRef<Shown<Views['rig']>>(),
    pieces: shallowRef<Shown<Views['pieces']>>(),
    skin: shallowRef<Shown<Views['skin']>>(),
    openSkin: shallowRef<Shown<Views['openSkin']>>(),
    correctives: shallowRef<Shown<Views['correctives']>>(),
    expressions: shallowRef<Shown<Views['expressions']>>(),
    face: shallowRef<Shown<Views['face']>>(),
    light: shallowRef<Shown<Views['light']>>(),
    strain: shallowRef<Shown<Views['strain']>>(),
    handles: shallowRef<Shown<Views['handles']>>(),
    props: shallowRef<Shown<Views['props']>>(),
    take: shallowRef<Shown<Views['take']>>(),
    findings: shallowRef<Shown<Views['findings']>>(),
  }
  const steps = reactive(Object.fromEntries(STEPS.map(s => [s, idle()])) as Record<StepName, StepState>)
  /** The take that is looked at. */
  const wantedTake = ref<string>()
  /** Steps that are worked out only while somebody looks at them. */
  const looked = reactive(new Set<ViewName>())

  const shape = computed(() => shown.shape.value?.value)
  const rig = computed(() => shown.rig.value?.value)
  const check = computed(() => shown.check.value?.value)
  const faults = computed(() => shown.faults.value?.value ?? NO_FAULTS)
  const asymmetry = computed(() => shown.asymmetry.value?.value)
  const skeleton = computed<Skeleton | undefined>(() => rig.value?.skeleton)
  const guesses = computed(() => shown.pieces.value?.value ?? [])
  /** Whether the skin that came with the body is the figure's. */
  const ownSkin = computed(() => rig.value?.skinned === true && project.recipe.skin.source === 'auto')
  const skin = computed(() => shown.skin.value?.value.skin)
  const lostSkin = computed(() => shown.skin.value?.value.lost ?? [])
  const openSkin = computed(() => shown.openSkin.value?.value)
  const correctives = computed(() => shown.correctives.value?.value ?? NO_SHAPES)
  const expressions = computed(() => shown.expressions.value?.value ?? NO_EXPRESSIONS)
  const face = computed(() => shown.face.value?.value)
  const light = computed(() => shown.light.value?.value)
  const strain = computed(() => shown.strain.value?.value)
  const handles = computed(() => shown.handles.value?.value)
  const props = computed(() => shown.props.value?.value)
  const landmarks = computed(() => shown.landmarks.value?.value.placed)
  const found = computed(() => shown.landmarks.value?.value.found)
  const hands = computed(() => shown.landmarks.value?.value.hands)
  const findings = computed(() => shown.findings.value?.value ?? [])
  /** The take as it was carried over, by its id. */
  const performed = shallowRef<{ id: string; answer: TakeAnswer }>()
  /** Whether the take that is shown came with the body. */
  const ownShown = computed(() => performed.value !== undefined && ownTakeAt(performed.value.id))
  /** Whether the skeleton that came with the body is the figure's. */
  const kept = computed(() => keepsHere(project.recipe, shape.value))
  const keepsHere = (recipe: Recipe, body: Views['shape'] | undefined): boolean =>
    body?.joints !== undefined && keepsReceived(recipe, { skeleton: { names: { length: body.joints } as string[] } })
  /** The plan the body asks for. */
  const plan = ref<PlanKind>('biped')
  watch(shown.landmarks, l => {
    if (l) plan.value = l.value.plan
  })
  /** How the body stands: as its own skeleton tells, else as its shape does. */
  const kind = computed<BodyKind>(() =>
    kept.value || plan.value === 'drawn'
      ? skeleton.value?.roles.some(r => r?.endsWith('HindUpperLeg'))
        ? 'fourleg'
        : 'biped'
      : plan.value,
  )
  /** Whether a take was recorded on as many legs as the body stands on. */
  const fits = (take: TakeRef): boolean => take.kind === undefined || take.kind === kind.value
  const fittingTakes = computed(() => project.recipe.takes.filter(fits))
  /** The take to begin with: somebody going somewhere. */
  const firstTake = computed(
    () =>
      fittingTakes.value.find(t => t.name === 'walk') ??
      fittingTakes.value.find(t => t.tags?.includes('gait')) ??
      fittingTakes.value[0],
  )
  /** The joint in play, by its identity: whatever is split, added or renamed, it stays the same one. */
  const chosenJoint = ref('leftUpperArm')
  const ids = computed(() => (skeleton.value ? jointIds(skeleton.value) : []))
  /** Where the joint in play is among the joints; the root where it is no longer there. */
  const joint = computed<number>({
    get: () => Math.max(0, ids.value.indexOf(chosenJoint.value)),
    set: j => {
      const id = ids.value[j]
      if (id !== undefined) chosenJoint.value = id
    },
  })

  let run = 0
  /** Whether a change is still being followed. */
  const deriving = ref(false)
  /** Results the person stopped: not begun again by themselves. */
  const halted = new Set<string>()
  const jobs = new Map<string, StepName>()
  const atHand = new Map<ViewName, Shown<unknown>[]>()
  const underway = new Map<string, Promise<Keyed<unknown>>>()

  /** Runs a job that can be stopped, and tells how far it is. */
  async function work<T>(
    step: StepName,
    call: (job: string, progress: (share: number) => void) => Promise<T>,
    current: () => boolean = () => true,
  ): Promise<T> {
    const job = `${step}-${crypto.randomUUID()}`
    jobs.set(job, step)
    Object.assign(steps[step], { state: 'working', progress: 0, message: '' })
    const report = progressOf(share => {
      if (current()) steps[step].progress = share
    })
    try {
      const value = await call(job, report)
      if (current()) Object.assign(steps[step], { state: 'done', progress: 1, message: '' })
      return value
    } catch (error) {
      if (current()) Object.assign(steps[step], refusalState(error))
      throw error
    } finally {
      jobs.delete(job)
    }
  }
  const refusalState = (error: unknown): Partial<StepState> => ({
    state: error instanceof RefusedError && error.stopped ? 'stopped' : 'refused',
    message: error instanceof Error ? error.message : String(error),
  })

  /** Brings one step up to date. @returns its result, or undefined where a newer change came in between */
  async function bring<N extends ViewName>(turn: number, rev: number, ask: Ask<N>, key: string): Promise<boolean> {
    const { step } = ask
    const place = shown[step] as ShallowRef<Shown<Views[N]> | undefined>
    const current = (): boolean => turn === run
    const near = (atHand.get(step) ?? []) as Shown<Views[N]>[]
    const known = place.value?.key === key ? place.value : near.find(s => s.key === key)
    if (known) {
      if (place.value !== known) place.value = known
      Object.assign(steps[step], { state: 'done', progress: 1, message: '' })
      return true
    }
    if (halted.has(key)) {
      Object.assign(steps[step], { state: 'stopped', progress: 0, message: 'The work was stopped.' })
      throw new RefusedError({ code: 'stopped', message: 'The work was stopped.' })
    }
    // what an earlier turn began for the same result is waited for, not begun again
    asked.set(step, key)
    const begun =
      (underway.get(key) as Promise<Keyed<Views[N]>> | undefined) ??
      work(
        step,
        (job, progress) => unwrap(core().step(rev, ask, job, progress)) as Promise<Keyed<Views[N]>>,
        () => asked.get(step) === key,
      ).finally(() => underway.delete(key))
    underway.set(key, begun)
    const answer = await begun
    if (!current()) return false
    const made: Shown<Views[N]> = { key, value: answer.value }
    atHand.set(step, [made, ...near].slice(0, AT_HAND))
    place.value = made
    Object.assign(steps[step], { state: 'done', progress: 1, message: '' })
    return true
  }
  /** The result each step was asked for last. */
  const asked = new Map<StepName, string>()

  function clear(...names: ViewName[]): void {
    for (const name of names) {
      shown[name].value = undefined
      Object.assign(steps[name], idle())
    }
    if (names.includes('take')) performed.value = undefined
  }

  const sameJoints = (a: Skeleton | undefined, b: Skeleton): boolean =>
    a !== undefined && a.names.length === b.names.length && a.parents.every((p, j) => p === b.parents[j])

  /** Works out whatever the recipe changed, what is looked at first. */
  async function derive(): Promise<void> {
    const turn = ++run
    deriving.value = true
    try {
      await deriveTurn(turn)
    } finally {
      if (turn === run) deriving.value = false
    }
  }

  async function deriveTurn(turn: number): Promise<void> {
    const current = (): boolean => turn === run
    const recipe = toRaw(project.recipe)
    if (!recipe.body) {
      clear(...(Object.keys(shown) as ViewName[]))
      return
    }
    const rev = tell(recipe)
    const keyOf = async (ask: Ask): Promise<string> => (await unwrap(core().keys(rev, [ask])))[0]!
    try {
      const shapeKey = await keyOf({ step: 'shape' })
      if (!current()) return
      if (shown.shape.value && shown.shape.value.key !== shapeKey) {
        // nothing of one body is ever drawn on another
        clear('check', 'faults', 'asymmetry', 'landmarks', 'rig', 'pieces', 'face', ...SKINNED)
        looked.delete('check')
        looked.delete('faults')
        looked.delete('asymmetry')
      }
      if (!(await bring(turn, rev, { step: 'shape' }, shapeKey))) return
      const keepsIts = keepsHere(recipe, shape.value)
      if (keepsIts) clear('landmarks')
      const take = takeWanted(recipe)
      const later: Ask[] = [
        ...(['check', 'faults', 'asymmetry'] as const).filter(s => looked.has(s)).map(step => ({ step })),
        ...(keepsIts ? [] : [{ step: 'landmarks' as const }]),
        { step: 'rig' },
        { step: 'pieces' },
        { step: 'skin' },
        { step: 'correctives' },
        ...(recipe.face || shape.value?.mesh.morphs?.length ? [{ step: 'expressions' as const }] : []),
        ...(['openSkin', 'strain', 'handles', 'face'] as const).filter(s => looked.has(s)).map(step => ({ step })),
        ...(recipe.props?.length ? [{ step: 'props' as const }] : []),
        ...(take ? [{ step: 'take' as const, of: take }] : []),
        ...(recipe.light && looked.has('light') ? [{ step: 'light' as const }] : []),
        { step: 'findings', of: takesForRules(take) },
      ]
      const keys = await unwrap(core().keys(rev, later))
      if (!current()) return
      for (const step of ['strain', 'openSkin', 'handles', 'face'] as const) if (!looked.has(step)) clear(step)
      if (!take) clear('take')
      if (!recipe.props?.length) clear('props')
      if (!recipe.light) clear('light')
      await bringAll(turn, rev, later, keys)
    } catch (error) {
      if (!current()) return
      if (!(error instanceof RefusedError)) throw error
      if (!error.stopped && steps.shape.state !== 'done') clear('landmarks', 'rig', 'pieces', ...SKINNED, 'findings')
    }
  }

  /** Steps one after another; one that is refused keeps only those from being worked out that build on it. */
  async function bringAll(turn: number, rev: number, asks: readonly Ask[], keys: readonly string[]): Promise<void> {
    let broken = false
    for (const [i, ask] of asks.entries()) {
      if (broken && ask.step !== 'findings') continue
      const before = skeleton.value
      try {
        if (!(await bring(turn, rev, ask, keys[i]!))) return
        if (ask.step === 'rig' && !sameJoints(before, skeleton.value!)) clear(...SKINNED)
        if (ask.step === 'take') show(ask.of as string, shown.take.value!.value)
      } catch (error) {
        if (turn !== run) return
        if (!(error instanceof RefusedError)) throw error
        if (error.stopped) return
        // what was worked out for an earlier choice no longer belongs to this one
        if (ask.step === 'landmarks') clear('rig', 'pieces', ...SKINNED)
        if (ask.step === 'landmarks' || ask.step === 'rig' || ask.step === 'skin') broken = true
        const message = steps[ask.step].message
        if (ask.step === 'rig') clear('pieces', ...SKINNED)
        shown[ask.step].value = undefined
        if (ask.step === 'take') performed.value = undefined
        Object.assign(steps[ask.step], { state: 'refused', message })
      }
    }
  }

  /** Takes the rules look at: what came with the body is not for us to change. */
  const takesForRules = (take = wantedTake.value): string[] => (take && !ownTakeAt(take) ? [take] : [])
  /** The same take stays the same object, so that nobody who follows it begins again. */
  function show(id: string, answer: TakeAnswer): void {
    if (performed.value?.id !== id || performed.value.answer !== answer) performed.value = { id, answer }
  }

  /** The take to work out, where there still is one. */
  function takeWanted(recipe: Recipe): string | undefined {
    const id = wantedTake.value
    if (!id) return undefined
    return ownTakeAt(id) || recipe.takes.some(t => t.id === id) ? id : undefined
  }

  /** Chooses the take to see; an earlier one that is still being carried over is given up. */
  async function showTake(id: string | undefined): Promise<void> {
    if (wantedTake.value === id && performed.value?.id === id) return
    for (const [job, step] of jobs) if (step === 'take') void core().stop(job)
    wantedTake.value = id
    if (project.recipe.body) await derive()
  }

  /** Looks at something that is not worked out otherwise. */
  async function look(step: ViewName, on = true): Promise<void> {
    if (looked.has(step) === on) return
    if (on) looked.add(step)
    else looked.delete(step)
    if (on && project.recipe.body) await derive()
  }

  /** Stops for the person: what is under way and whatever would have followed it. */
  function halt(): void {
    for (const step of Object.keys(shown) as ViewName[]) {
      const key = asked.get(step)
      if (steps[step].state !== 'working' || !key) continue
      halted.add(key)
      underway.delete(key)
    }
    // told at once, however long the worker is still at its last stretch; what it answers is not waited for
    run++
    deriving.value = false
    for (const state of Object.values(steps))
      if (state.state === 'working')
        Object.assign(state, { state: 'stopped', progress: 0, message: 'The work was stopped.' })
    asked.clear()
    for (const job of jobs.keys()) void core().stop(job)
    // one that does not hear is put away
    if (jobs.size === 0) void core().stop('')
  }
  /** Gives up reading what came in. */
  function stopReceiving(): void {
    for (const [job, step] of jobs) if (step === 'receive') void core().stop(job)
  }
  /** Takes up what was stopped. */
  async function resume(): Promise<void> {
    halted.clear()
    await derive()
  }

  /** Mends everything that can be mended safely, as one change. */
  async function mendEverything(): Promise<void> {
    const before = toRaw(project.recipe)
    try {
      const result = await work('mend', (job, p) => unwrap(core().mendAll(tell(before), job, p)))
      if (result.mended.length === 0) return
      // what was changed meanwhile is not written over
      if (toRaw(project.recipe) !== before)
        project.notice = {
          text: 'The figure was changed while it was being mended, so nothing was mended. Press again.',
        }
      else project.change('Mend all findings', result.recipe)
    } catch (error) {
      if (!(error instanceof RefusedError)) throw error
    }
  }

  /** The recipe with what a file holds attached to a joint. */
  async function attach(set: FileSet, choice: AttachChoice): Promise<Recipe> {
    return work('receive', (job, p) => unwrap(core().attach(tell(project.recipe), set, choice, job, p)))
  }

  /** Reads a file that came in; it can be stopped from the first moment. */
  async function receive(name: string, bytes: Uint8Array, beside: readonly FileRef[] = []): Promise<ReceivedFile> {
    return work('receive', (job, p) => unwrap(core().receive(name, bytes, beside, job, p)))
  }

  /** What the figure can be led with, made of takes by their ids. */
  async function trialClips(takes: readonly string[]): Promise<TrialClips | undefined> {
    return work('trial', (job, p) => unwrap(core().trialClips(tell(project.recipe), takes, job, p)))
  }

  /** What is said by a voice. */
  async function listen(file: FileRef): Promise<VoiceAnswer> {
    return work('listen', (job, p) => unwrap(core().listen(file, job, p)))
  }

  /** Another figure in the place of this one, with takes of this one carried over. */
  async function trialGuest(guest: Recipe, takes: readonly string[]): Promise<Guest> {
    return work('trial', (job, p) => unwrap(core().trialGuest(tell(project.recipe), toRaw(guest), takes, job, p)))
  }

  /** The take that is shown, layers and all, as a record of its own. */
  async function bake(take: string): Promise<TakeRef> {
    return work('deliver', (job, p) => unwrap(core().bake(tell(project.recipe), take, job, p)))
  }
  async function deliver(takes: string[], profile: Profile, insist = false, at?: number): Promise<DeliveryAnswer> {
    return work('deliver', (job, p) =>
      unwrap(core().deliver(tell(project.recipe), takes, toRaw(profile), insist, at, job, p)),
    )
  }

  /** The worker is gone and another one stands ready: what was under way is begun anew, unless it breaks every time. */
  function takeUpAgain({ why, again }: LostWorker): void {
    underway.clear()
    asked.clear()
    run++
    deriving.value = false
    const how = why === 'silent' ? 'did not answer any more' : 'ended unexpectedly'
    project.notice = again
      ? {
          text: `The work ${how} again and was put away. Your project is as it was; change what it stands on, or try once more.`,
          action: { label: 'Try once more', run: () => void derive() },
        }
      : { text: `The work ${how} and was begun anew. Your project is as it was.` }
    for (const state of Object.values(steps))
      if (state.state === 'working')
        Object.assign(state, { state: 'stopped', progress: 0, message: 'The work broke off.' })
    if (!again) void derive()
  }

  /** Follows the recipe from now on. */
  function start(): void {
    onWorkerLost(takeUpAgain)
    watch(
      () => project.recipe,
      () => void derive(),
      { immediate: true },
    )
  }

  /** Whether a change waits to be heard, and nothing is seen of it yet. */
  const unheard = computed(() => deriving.value && !Object.values(steps).some(s => s.state === 'working'))
  const busy = computed(() => deriving.value || Object.values(steps).some(s => s.state === 'working'))
  return {
    guesses,
    faults,
    ownSkin,
    kind,
    kept,
    fits,
    fittingTakes,
    firstTake,
    takesForRules,
    shape,
    plan,
    found,
    hands,
    rig,
    check,
    asymmetry,
    landmarks,
    skeleton,
    skin,
    openSkin,
    correctives,
    expressions,
    face,
    light,
    lostSkin,
    strain,
    handles,
    props,
    performed,
    ownShown,
    findings,
    wantedTake,
    chosenJoint,
    joint,
    steps,
    busy,
    unheard,
    start,
    derive,
    resume,
    look,
    showTake,
    halt,
    mendEverything,
    bake,
    deliver,
    listen,
    trialClips,
    trialGuest,
    attach,
    receive,
    stopReceiving,
  }
})
