import { jointWeights } from '@chiraxis/core/skin'
import { core, RefusedError, tell, unwrap } from '~/workers/client'
import type { PoseAnswer } from '~/workers/core-api'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView, type StrainView } from '~/stores/view'

const answer = shallowRef<PoseAnswer>()
const known = new Map<string, PoseAnswer>()
let asked = ''

const COMPARED: Partial<Record<StrainView, 'before-repair' | 'nearest-bone' | 'as-received' | 'volume'>> = {
  'before-repair': 'before-repair',
  'nearest-bone': 'nearest-bone',
  'as-received': 'as-received',
  'volume-blend': 'volume',
}

/** What is drawn on the skin in the check: a kind of strain in the pose, the difference to another skin, or a joint's hold. */
export function useSkinHeat() {
  const view = useView()
  const derived = useDerived()
  const project = useProject()

  async function follow(): Promise<void> {
    const { pose, poseStrain, blending } = view
    if (view.step !== 'skin' || view.skinMode !== 'check' || !derived.skin || !pose || poseStrain === 'weights') {
      asked = ''
      answer.value = undefined
      return
    }
    const rev = tell(project.recipe)
    const key = JSON.stringify([pose, poseStrain, blending])
    if (asked === key) return
    asked = key
    const kept = known.get(key)
    if (kept) {
      answer.value = kept
      return
    }
    try {
      const other = COMPARED[poseStrain]
      const value = other
        ? await unwrap(core().compareIn(rev, pose, other))
        : await unwrap(core().strainIn(rev, pose, poseStrain as 'stretch', blending))
      if (known.size > 12) known.clear()
      known.set(key, value)
      if (asked === key) answer.value = value
    } catch (error) {
      if (asked === key) asked = ''
      if (!(error instanceof RefusedError)) console.error(error)
    }
  }

  /** Starts following what is looked at. */
  function start(): void {
    watch(
      () => [derived.skin, derived.correctives],
      () => {
        known.clear()
        asked = ''
        void follow()
      },
    )
    watch(
      () => [view.step, view.skinMode, view.pose, view.poseStrain, view.blending],
      () => void follow(),
      { immediate: true },
    )
  }

  /** Values 0..1 to draw, or undefined for the body's own colours. */
  const heat = computed<Float32Array | undefined>(() => {
    if (view.step !== 'skin' || !derived.skin) return undefined
    if (view.skinMode === 'check') {
      if (view.poseStrain === 'weights') return jointWeights(derived.skin, derived.joint)
      const values = answer.value?.heat
      return values && values.length * 3 === derived.shape?.mesh.positions.length ? values : undefined
    }
    // the shape itself is looked at
    if (view.skinMode === 'correct' && view.corrective) return undefined
    return jointWeights(derived.skin, derived.joint)
  })
  return { answer, heat, start }
}
