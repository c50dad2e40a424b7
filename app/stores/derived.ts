import { defineStore } from 'pinia'
import type { Finding } from '@chiraxis/core/findings'
import type { Hands, Landmark } from '@chiraxis/core/landmarks'
import type { BodyKind, Skeleton } from '@chiraxis/core/skeleton'
import type { LostSkinEdit } from '@chiraxis/core/paint'
import type { Skin } from '@chiraxis/core/skin'
import type { Assessment } from '@chiraxis/core/strain'
import type { Asymmetry, BodyCheck } from '@chiraxis/core/shape'
import type { Recipe, TakeRef } from '@chiraxis/core/recipe'
import { core, progressOf, RefusedError, unwrap } from '~/workers/client'
import type { RigAnswer, ShapeAnswer, TakeAnswer } from '~/workers/core-api'
import { useProject } from './project'

export type StepName = 'strain' | 'shape' | 'check' | 'landmarks' | 'skeleton' | 'skin' | 'take' | 'mend' | 'deliver'
export interface StepState {
  state: 'idle' | 'working' | 'done' | 'refused' | 'stopped'
  progress: number
  message: string
}

const idle = (): StepState => ({ state: 'idle', progress: 0, message: '' })

/** What the straightened body depends on. */
const bodyOf = (r: Recipe): unknown[] => [
  r.body,
  r.beside,
  r.straighten,
  r.cleanFaces,
  r.mirrorHalf,
  r.bones.source,
  Object.entries(r.pieces)
    .filter(([, p]) => p.role === 'left-out')
    .map(([n]) => n),
]

/** Everything worked out from the recipe, in step with it: newer input stops older work. */
export const useDerived = defineStore('derived', () => {
  const project = useProject()
  const shape = shallowRef<ShapeAnswer>()
  const landmarks = shallowRef<readonly Landmark[]>()
  /** The plan the body asks for, the landmarks as found, and what its hands show. */
  const plan = ref<'biped' | 'fourleg'>('biped')
  const found = shallowRef<readonly Landmark[]>()
  /** How the body stands: as its own skeleton tells, else as its shape does. */
  const kind = computed<BodyKind>(() =>
    shape.value?.kept
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
  const hands = shallowRef<Hands>()
  const rig = shallowRef<RigAnswer>()
  const check = shallowRef<BodyCheck>()
  const asymmetry = shallowRef<Asymmetry>()
  const skeleton = shallowRef<Skeleton>()
  const skin = shallowRef<Skin>()
  const lostSkin = shallowRef<readonly LostSkinEdit[]>([])
  /** What the skin goes through in the check poses; undefined until somebody looks. */
  const strain = shallowRef<Assessment>()
  /** The recipe fingerprint the skin belongs to, so that a stale one is never drawn on a new skeleton. */
  const performed = shallowRef<{ id: string; answer: TakeAnswer }>()
  const findings = shallowRef<readonly Finding[]>([])
  const wantedTake = ref<string>()
  const steps = reactive<Record<StepName, StepState>>({
    shape: idle(),
    check: idle(),
    landmarks: idle(),
    skeleton: idle(),
    skin: idle(),
    strain: idle(),
    take: idle(),
    mend: idle(),
    deliver: idle(),
  })

  let run = 0
  let halted = -1
  const jobs = new Set<string>()

  async function work<T>(
    step: StepName,
    turn: number,
    call: (job: string, progress: (share: number) => void) => Promise<T>,
  ): Promise<T> {
    if (halted === turn && step !== 'deliver' && step !== 'take' && step !== 'mend') {
      Object.assign(steps[step], { state: 'stopped', progress: 0, message: '' })
      throw new RefusedError({ code: 'stopped', message: 'The work was stopped.' })
    }
    const job = `${step}-${turn}-${Math.random().toString(36).slice(2)}`
    jobs.add(job)
    Object.assign(steps[step], { state: 'working', progress: 0, message: '' })
    try {
      const value = await call(
        job,
        progressOf(share => {
          if (turn === run || step === 'deliver') steps[step].progress = share
        }),
      )
      if (turn === run || step === 'deliver') Object.assign(steps[step], { state: 'done', progress: 1 })
      return value
    } catch (error) {
      if (turn === run || step === 'deliver') {
        const stopped = error instanceof RefusedError && error.stopped
        Object.assign(steps[step], {
          state: stopped ? 'stopped' : 'refused',
          message: error instanceof Error ? error.message : String(error),
        })
      }
      throw error
    } finally {
      jobs.delete(job)
    }
  }

  /** Stops every job under way, as a newer recipe does to older work. */
  function stopAll(): void {
    for (const job of jobs) void core().stop(job)
  }

  /** Stops for the person: what is under way and whatever would have followed it. */
  function halt(): void {
    halted = run
    stopAll()
  }

  const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b)
  let lastRecipe: Recipe | undefined

  async function derive(): Promise<void> {
    const turn = ++run
    stopAll()
    // what an older turn was at no longer tells anything; this turn says anew what it works on
    for (const [name, step] of Object.entries(steps))
      if (step.state === 'working' && name !== 'deliver') Object.assign(step, idle())
    const recipe = toRaw(project.recipe)
    const before = lastRecipe
    lastRecipe = recipe
    if (!recipe.body) {
      shape.value =
        landmarks.value =
        found.value =
        hands.value =
        rig.value =
        skeleton.value =
        skin.value =
        performed.value =
        check.value =
        asymmetry.value =
        strain.value =
          undefined
      findings.value = []
      for (const step of Object.values(steps)) Object.assign(step, idle())
      return
    }
    const bodySame = before && same(bodyOf(before), bodyOf(recipe))
    if (!bodySame) {
      skin.value = undefined
      strain.value = undefined
      skeleton.value = undefined
      landmarks.value = found.value = hands.value = rig.value = undefined
      check.value = asymmetry.value = undefined
      performed.value = undefined
      for (const step of ['landmarks', 'skeleton', 'skin', 'take'] as const) Object.assign(steps[step], idle())
    }
    const current = (): boolean => turn === run
    try {
      const s = await work('shape', turn, (job, p) => unwrap(core().shape(recipe, job, p)))
      if (!current()) return
      // the same body keeps its arrays, so that the stage does not upload it again
      if (!bodySame || !shape.value) shape.value = s
      else if (s.kept !== shape.value.kept) shape.value = { ...s, mesh: shape.value.mesh }
      if (s.kept) landmarks.value = found.value = hands.value = undefined
      else {
        const l = await work('landmarks', turn, (job, p) => unwrap(core().landmarks(recipe, job, p)))
        if (!current()) return
        plan.value = l.plan
        found.value = l.found
        hands.value = l.hands
        landmarks.value = l.placed
      }
      const k = await work('skeleton', turn, () => unwrap(core().rig(recipe)))
      if (!current()) return
      rig.value = k
      // joints that stayed the same keep the skin that is drawn on them until the new one is there
      if (skeleton.value && !same([...skeleton.value.parents], [...k.skeleton.parents])) skin.value = undefined
      skeleton.value = k.skeleton
      void refreshFindings(turn)
      if (wantedTake.value) {
        // a take that cannot be carried over keeps nothing else from being worked out
        await deriveTake(turn).catch((error: unknown) => {
          if (!(error instanceof RefusedError) || error.stopped) throw error
          if (current()) performed.value = undefined
        })
      }
      if (!current()) return
      const w = await work('skin', turn, (job, p) => unwrap(core().skin(recipe, job, p)))
      if (!current()) return
      skin.value = w.skin
      lostSkin.value = w.lost
      // measured again only while it is looked at
      if (wantsStrain.value) void measureStrain(true)
      else strain.value = undefined
      void refreshFindings(turn)
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
      if (current() && error instanceof RefusedError && !error.stopped) {
        // what was worked out for an earlier choice no longer belongs to this one
        if (steps.landmarks.state === 'refused') landmarks.value = found.value = hands.value = undefined
        if (steps.skeleton.state !== 'done') rig.value = skeleton.value = skin.value = undefined
        void refreshFindings(turn)
      }
    }
  }

  async function deriveTake(turn: number): Promise<void> {
    const recipe = toRaw(project.recipe)
    const own = /^own:(\d+)$/.exec(wantedTake.value ?? '')
    if (own) {
      const id = wantedTake.value!
      const answer = await work('take', turn, () => unwrap(core().ownTake(recipe, Number(own[1]))))
      if (turn === run && wantedTake.value === id) performed.value = { id, answer }
      return
    }
    const take: TakeRef | undefined = recipe.takes.find(t => t.id === wantedTake.value)
    if (!take) {
      performed.value = undefined
      Object.assign(steps.take, idle())
      return
    }
    const answer = await work('take', turn, (job, p) => unwrap(core().take(recipe, toRaw(take), job, p)))
    if (turn === run && wantedTake.value === take.id) performed.value = { id: take.id, answer }
  }

  /** Chooses the take to see; nothing else is worked out again for it. */
  async function showTake(id: string | undefined): Promise<void> {
    wantedTake.value = id
    if (!id || !skeleton.value) return
    try {
      await deriveTake(run)
      void refreshFindings(run)
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
      else if (!error.stopped && wantedTake.value === id) performed.value = undefined
    }
  }

  async function refreshFindings(turn: number): Promise<void> {
    try {
      const all = await unwrap(core().findings(toRaw(project.recipe)))
      if (turn === run) findings.value = all
    } catch {
      if (turn === run) findings.value = []
    }
  }

  /** Works a look at the body out where there is none yet. */
  async function lookInto<T>(
    place: Ref<T | undefined>,
    call: (job: string, progress: (share: number) => void) => Promise<T>,
  ): Promise<void> {
    if (!shape.value || place.value) return
    try {
      const turn = run
      const value = await work('check', turn, call)
      if (turn === run) place.value = value
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
    }
  }
  /** Looks the body over: counts, holes, faces. */
  const lookOver = (): Promise<void> => lookInto(check, (job, p) => unwrap(core().check(toRaw(project.recipe), job, p)))
  /** Measures left against right, point by point. */
  const measureSides = (): Promise<void> =>
    lookInto(asymmetry, (job, p) => unwrap(core().asymmetry(toRaw(project.recipe), job, p)))

  /** Whether the check of the skin is being looked at, so that it is kept in step. */
  const wantsStrain = ref(false)
  /** Drives the figure through the check poses. @param anew although there is a result of an earlier skin */
  async function measureStrain(anew = false): Promise<void> {
    if (!skin.value || (strain.value && !anew)) return
    const turn = run
    try {
      const value = await work('strain', turn, (job, p) => unwrap(core().strain(toRaw(project.recipe), job, p)))
      if (turn === run) strain.value = value
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
      else if (!error.stopped && turn === run) strain.value = undefined
    }
  }

  /** Mends everything that can be mended safely, as one change. */
  async function mendEverything(): Promise<void> {
    try {
      const result = await work('mend', run, (job, p) => unwrap(core().mendAll(toRaw(project.recipe), job, p)))
      Object.assign(steps.mend, { state: 'done', progress: 1 })
      if (result.mended.length > 0) project.change('Mend all findings', result.recipe)
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
    }
  }

  async function deliver(
    takes: string[],
  ): Promise<{ bytes: Uint8Array; proof: import('@chiraxis/core/formats').Proof }> {
    return work('deliver', run, (job, p) => unwrap(core().deliver(toRaw(project.recipe), takes, job, p)))
  }

  /** Follows the recipe from now on. */
  function start(): void {
    watch(
      () => project.recipe,
      () => void derive(),
      { immediate: true },
    )
  }

  const busy = computed(() => Object.values(steps).some(s => s.state === 'working'))
  return {
    kind,
    fits,
    fittingTakes,
    firstTake,
    strain,
    wantsStrain,
    measureStrain,
    lostSkin,
    shape,
    plan,
    found,
    hands,
    rig,
    check,
    asymmetry,
    lookOver,
    measureSides,
    mendEverything,
    landmarks,
    skeleton,
    skin,
    performed,
    findings,
    wantedTake,
    steps,
    busy,
    start,
    derive,
    showTake,
    halt,
    deliver,
  }
})
