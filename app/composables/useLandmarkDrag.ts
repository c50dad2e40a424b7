import { applyEdits, limbDirection, landmarkKind, placeLandmark, type Landmark } from '@chiraxis/core/landmarks'
import type { Vec3 } from '@chiraxis/core/math'
import { buildPlan, type Skeleton } from '@chiraxis/core/skeleton'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

const draft = shallowRef<readonly Landmark[]>()
const draftSkeleton = shallowRef<Skeleton>()
let moving: string | undefined

/** Moving landmarks by hand: a cheap preview at once, the recipe changed when the hand rests. */
export function useLandmarkDrag() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const { section, ask } = useSection()

  /** The landmarks after one is moved, by the same rule the recipe is changed by. */
  const moved = (landmarks: readonly Landmark[], id: string, position: Vec3): Landmark[] =>
    applyEdits(landmarks, placeLandmark(landmarks, {}, id, position, { mirror: view.mirror, height: 1 }), 1)

  async function askSection(): Promise<void> {
    const landmarks = draft.value ?? derived.landmarks
    const own = landmarks?.find(l => l.id === view.landmark)
    await (own ? ask(own.position, limbDirection(landmarks!, own.id)) : ask(undefined))
  }

  function begin(id: string): void {
    moving = id
    draft.value = undefined
  }
  function to(position: Vec3): void {
    if (!moving || !derived.landmarks) return
    // always told from where all stood before, so that neighbours follow the way of the hand and not its jitter
    draft.value = moved(derived.landmarks, moving, position)
    draftSkeleton.value = buildPlan(derived.plan, draft.value, {
      ...project.recipe.bones.plan,
      found: derived.hands?.fingers,
    })
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
  function commit(
    id: string,
    position: Vec3,
    name = `Place ${landmarkKind(id)?.label.toLowerCase() ?? id}`,
    joins = false,
  ): void {
    const found = derived.landmarks
    const height = derived.shape?.straightened.height
    if (!found || !height) return
    const recipe = project.recipe
    project.change(
      name,
      {
        ...recipe,
        landmarks: {
          ...recipe.landmarks,
          edits: placeLandmark(found, recipe.landmarks.edits, id, position, { mirror: view.mirror, height }),
        },
      },
      joins,
    )
  }

  return { draft, draftSkeleton, section, begin, to, end, commit, askSection }
}

/** Forgets the preview once the worked-out result has arrived. */
export function settleLandmarkDrag(): void {
  if (moving) return
  draft.value = undefined
  draftSkeleton.value = undefined
}
