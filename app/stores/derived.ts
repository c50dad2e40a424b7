import { defineStore } from 'pinia'
import type { Finding } from '@chiraxis/core/findings'
import type { Landmark } from '@chiraxis/core/landmarks'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { Skin } from '@chiraxis/core/skin'
import type { Recipe, TakeRef } from '@chiraxis/core/recipe'
import { core, progressOf, RefusedError, unwrap } from '~/workers/client'
import type { ShapeAnswer, TakeAnswer } from '~/workers/core-api'
import { useProject } from './project'

export type StepName = 'shape' | 'landmarks' | 'skeleton' | 'skin' | 'take' | 'deliver'
export interface StepState { state: 'idle' | 'working' | 'done' | 'refused' | 'stopped'; progress: number; message: string }

const idle = (): StepState => ({ state: 'idle', progress: 0, message: '' })

/** Everything worked out from the recipe, in step with it: newer input stops older work. */
export const useDerived = defineStore('derived', () => {
  const project = useProject()
  const shape = shallowRef<ShapeAnswer>()
  const landmarks = shallowRef<readonly Landmark[]>()
  const skeleton = shallowRef<Skeleton>()
  const skin = shallowRef<Skin>()
  /** The recipe fingerprint the skin belongs to, so that a stale one is never drawn on a new skeleton. */
  const performed = shallowRef<{ id: string; answer: TakeAnswer }>()
  const findings = shallowRef<readonly Finding[]>([])
  const wantedTake = ref<string>()
  const steps = reactive<Record<StepName, StepState>>({ shape: idle(), landmarks: idle(), skeleton: idle(), skin: idle(), take: idle(), deliver: idle() })

  let run = 0
  let halted = -1
  const jobs = new Set<string>()

  async function work<T>(step: StepName, turn: number, call: (job: string, progress: (share: number) => void) => Promise<T>): Promise<T> {
    if (halted === turn && step !== 'deliver' && step !== 'take') {
      Object.assign(steps[step], { state: 'stopped', progress: 0, message: '' })
      throw new RefusedError({ code: 'stopped', message: 'The work was stopped.' })
    }
    const job = `${step}-${turn}-${Math.random().toString(36).slice(2)}`
    jobs.add(job)
    Object.assign(steps[step], { state: 'working', progress: 0, message: '' })
    try {
      const value = await call(job, progressOf(share => { if (turn === run || step === 'deliver') steps[step].progress = share }))
      if (turn === run || step === 'deliver') Object.assign(steps[step], { state: 'done', progress: 1 })
      return value
    } catch (error) {
      if (turn === run || step === 'deliver') {
        const stopped = error instanceof RefusedError && error.stopped
        Object.assign(steps[step], { state: stopped ? 'stopped' : 'refused', message: error instanceof Error ? error.message : String(error) })
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
    for (const [name, step] of Object.entries(steps)) if (step.state === 'working' && name !== 'deliver') Object.assign(step, idle())
    const recipe = toRaw(project.recipe)
    const before = lastRecipe
    lastRecipe = recipe
    if (!recipe.body) {
      shape.value = landmarks.value = skeleton.value = skin.value = performed.value = undefined
      findings.value = []
      for (const step of Object.values(steps)) Object.assign(step, idle())
      return
    }
    const bodySame = before && same([before.body, before.straighten], [recipe.body, recipe.straighten])
    if (!bodySame) {
      skin.value = undefined
      skeleton.value = undefined
      landmarks.value = undefined
      performed.value = undefined
      for (const step of ['landmarks', 'skeleton', 'skin', 'take'] as const) Object.assign(steps[step], idle())
    }
    const current = (): boolean => turn === run
    try {
      const s = await work('shape', turn, (job, p) => unwrap(core().shape(recipe, job, p)))
      if (!current()) return
      // the same body keeps its arrays, so that the stage does not upload it again
      if (!bodySame || !shape.value) shape.value = s
      const l = await work('landmarks', turn, (job, p) => unwrap(core().landmarks(recipe, job, p)))
      if (!current()) return
      landmarks.value = l.placed
      const k = await work('skeleton', turn, () => unwrap(core().skeleton(recipe)))
      if (!current()) return
      skeleton.value = k
      void refreshFindings(turn)
      if (wantedTake.value) await deriveTake(turn)
      if (!current()) return
      const w = await work('skin', turn, (job, p) => unwrap(core().skin(recipe, job, p)))
      if (current()) skin.value = w
      void refreshFindings(turn)
    } catch (error) {
      if (!(error instanceof RefusedError)) console.error(error)
      if (current() && error instanceof RefusedError && !error.stopped) void refreshFindings(turn)
    }
  }

  async function deriveTake(turn: number): Promise<void> {
    const recipe = toRaw(project.recipe)
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

  async function deliver(takes: string[]): Promise<{ bytes: Uint8Array; proof: import('@chiraxis/core/formats').Proof }> {
    return work('deliver', run, (job, p) => unwrap(core().deliver(toRaw(project.recipe), takes, job, p)))
  }

  /** Follows the recipe from now on. */
  function start(): void {
    watch(() => project.recipe, () => void derive(), { immediate: true })
  }

  const busy = computed(() => Object.values(steps).some(s => s.state === 'working'))
  return { shape, landmarks, skeleton, skin, performed, findings, wantedTake, steps, busy, start, derive, showTake, halt, deliver }
})
