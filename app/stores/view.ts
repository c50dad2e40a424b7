import { defineStore } from 'pinia'

export const PHASES = [
  { id: 'shape', label: 'Shape', steps: [{ id: 'straighten', label: 'straighten' }] },
  { id: 'bones', label: 'Bones', steps: [{ id: 'landmarks', label: 'landmarks' }, { id: 'skeleton', label: 'skeleton' }, { id: 'skin', label: 'skin' }] },
  { id: 'handles', label: 'Handles', steps: [] },
  { id: 'motion', label: 'Motion', steps: [{ id: 'takes', label: 'takes' }] },
  { id: 'trial', label: 'Trial', steps: [] },
  { id: 'delivery', label: 'Delivery', steps: [{ id: 'deliver', label: 'files' }] },
] as const

export type PhaseId = (typeof PHASES)[number]['id']
export type StepId = 'straighten' | 'landmarks' | 'skeleton' | 'skin' | 'takes' | 'deliver'
export type ViewName = 'front' | 'side' | 'top' | 'turn'
export type Theme = 'day' | 'night'

const PHASE_OF: Record<StepId, PhaseId> = { straighten: 'shape', landmarks: 'bones', skeleton: 'bones', skin: 'bones', takes: 'motion', deliver: 'delivery' }
export const STEP_ORDER: readonly StepId[] = ['straighten', 'landmarks', 'skeleton', 'skin', 'takes', 'deliver']

/** What the window shows: nothing here is part of the figure. */
export const useView = defineStore('view', () => {
  const step = ref<StepId>('straighten')
  const phase = computed<PhaseId>(() => PHASE_OF[step.value])
  const main = ref<Record<PhaseId, ViewName>>({ shape: 'turn', bones: 'front', handles: 'turn', motion: 'turn', trial: 'turn', delivery: 'turn' })
  const mainView = computed<ViewName>(() => main.value[phase.value])
  const landmark = ref<string>()
  const joint = ref<number>(7)
  const mirror = ref(true)
  const seeThrough = ref(true)
  const performerShown = ref<'over' | 'beside' | 'hidden'>('beside')
  const bonesInMotion = ref(false)
  const findingsOpen = ref(false)
  const paletteOpen = ref(false)
  const keysOpen = ref(false)
  const ledgerFolded = ref(false)
  const theme = ref<Theme>('day')

  function go(next: StepId): void {
    step.value = next
    findingsOpen.value = false
  }
  function goBy(way: 1 | -1): void {
    const i = STEP_ORDER.indexOf(step.value) + way
    if (i >= 0 && i < STEP_ORDER.length) go(STEP_ORDER[i]!)
  }
  function makeMain(view: ViewName): void {
    main.value = { ...main.value, [phase.value]: view }
  }
  function setTheme(next: Theme): void {
    theme.value = next
    document.documentElement.dataset.theme = next
    localStorage.setItem('theme', next)
  }
  function restoreTheme(): void {
    const kept = localStorage.getItem('theme')
    setTheme(kept === 'night' || kept === 'day' ? kept : matchMedia('(prefers-color-scheme: dark)').matches ? 'night' : 'day')
  }
  return {
    step, phase, mainView, landmark, joint, mirror, seeThrough, performerShown, bonesInMotion, findingsOpen, paletteOpen, keysOpen, ledgerFolded, theme,
    go, goBy, makeMain, setTheme, restoreTheme,
  }
})
