import { applyEdits, landmarkKind, placeLandmark, type Landmark } from '@chiraxis/core/landmarks'
import type { Vec3 } from '@chiraxis/core/math'
import { buildBiped, type Skeleton } from '@chiraxis/core/skeleton'
import { core, unwrap } from '~/workers/client'
import type { SectionAnswer } from '~/workers/core-api'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

const draft = shallowRef<readonly Landmark[]>()
const draftSkeleton = shallowRef<Skeleton>()
const section = shallowRef<SectionAnswer>()
let moving: string | undefined
let asking = false
let askAgain = false

/** Moving landmarks by hand: a cheap preview at once, the recipe changed when the hand rests. */
export function useLandmarkDrag() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()

  /** The landmarks after one is moved, by the same rule the recipe is changed by. */
  const moved = (landmarks: readonly Landmark[], id: string, position: Vec3): Landmark[] =>
    applyEdits(landmarks, placeLandmark(landmarks, {}, id, position, { mirror: view.mirror, height: 1 }), 1)

  async function askSection(): Promise<void> {
    const id = view.landmark
    const landmarks = draft.value ?? derived.landmarks
    if (!id || !landmarks || !derived.shape) {
      section.value = undefined
      return
    }
    if (asking) {
      askAgain = true
      return
    }
    asking = true
    try {
      section.value = await unwrap(core().section(toRaw(project.recipe), toRaw(landmarks), id))
    } catch {
      section.value = undefined
    } finally {
      asking = false
      if (askAgain) {
        askAgain = false
        void askSection()
      }
    }
  }

  function begin(id: string): void {
    moving = id
    draft.value = undefined
  }
  function to(position: Vec3): void {
    if (!moving || !derived.landmarks) return
    draft.value = moved(draft.value ?? derived.landmarks, moving, position)
    draftSkeleton.value = buildBiped(draft.value)
    void askSection()
  }
  function end(): void {
    const id = moving
    const final = id && draft.value?.find(l => l.id === id)?.position
    moving = undefined
    if (!id || !final) return
    commit(id, final)
  }

  /** Puts a landmark in the recipe as placed by hand. */
  function commit(id: string, position: Vec3, name = `Place ${landmarkKind(id)?.label.toLowerCase() ?? id}`, joins = false): void {
    const found = derived.landmarks
    const height = derived.shape?.straightened.height
    if (!found || !height) return
    const recipe = project.recipe
    project.change(name, { ...recipe, landmarks: { edits: placeLandmark(found, recipe.landmarks.edits, id, position, { mirror: view.mirror, height }) } }, joins)
  }

  return { draft, draftSkeleton, section, begin, to, end, commit, askSection }
}

/** Forgets the preview once the worked-out result has arrived. */
export function settleLandmarkDrag(): void {
  if (moving) return
  draft.value = undefined
  draftSkeleton.value = undefined
}
