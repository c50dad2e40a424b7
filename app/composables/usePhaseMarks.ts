import type { PhaseId } from '~/stores/view'
import type { StepName } from '~/stores/derived'

/** How things stand in a phase: not begun, somebody should look, done, or being worked out. */
export type PhaseMark = 'hollow' | 'doubt' | 'solid' | 'working'
export const MARK_WORDS: Record<PhaseMark, string> = {
  hollow: 'not begun',
  doubt: 'needs a look',
  solid: 'done',
  working: 'being worked out',
}

/** What each stop of the route waits for. */
const STEPS: Record<PhaseId, readonly StepName[]> = {
  shape: ['shape'],
  bones: ['landmarks', 'rig', 'skin'],
  handles: ['handles'],
  motion: ['take'],
  trial: ['trial'],
  delivery: ['deliver'],
}

/** Tells of every stop of the route how things stand there. */
export function usePhaseMarks(): (phase: PhaseId) => PhaseMark {
  const derived = useDerived()
  const project = useProject()
  const has: Record<PhaseId, () => boolean> = {
    shape: () => !!derived.shape,
    bones: () => !!derived.skin,
    handles: () => !!derived.handles || !!project.recipe.handles,
    motion: () => !!derived.performed,
    trial: () => derived.steps.trial.state === 'done',
    delivery: () => derived.steps.deliver.state === 'done',
  }
  const doubtful = (phase: PhaseId): boolean =>
    phase === 'bones' && derived.findings.some(f => f.severity !== 'note' && f.rule !== 'foot-skate')
  return phase => {
    const states = STEPS[phase].map(s => derived.steps[s].state)
    if (states.includes('working')) return 'working'
    if (states.includes('refused') || (phase === 'bones' && states.includes('stopped')) || doubtful(phase))
      return 'doubt'
    return has[phase]() ? 'solid' : 'hollow'
  }
}
