import {
  hasMiddle,
  landmarkKind,
  landmarksAsPlaced,
  limbDirection,
  placeLandmark,
  type Landmark,
} from '@chiraxis/core/landmarks'
import { plannedSkeleton } from '@chiraxis/core/recipe'
import { add, sub, type Vec3 } from '@chiraxis/core/math'
import type { Skeleton } from '@chiraxis/core/skeleton'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

const draft = shallowRef<readonly Landmark[]>()
const draftSkeleton = shallowRef<Skeleton>()
let moving: string | undefined
/** Where the hand is, and from there to the middle of the limb where a landmark keeps to it. */
let hand: Vec3 = [0, 0, 0]
let toMiddle: Vec3 = [0, 0, 0]
/** Farther off than this share of height, the middle of a cut is another part's. */
const MIDDLE_WITHIN = 0.045

/** Moving landmarks by hand: a cheap preview at once, the recipe changed when the hand rests. */
export function useLandmarkDrag() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const { section, ask, askedAt } = useSection()

  /** Whether the landmark in hand keeps to the middle of its limb. */
  const keeps = (): boolean => view.keepMiddle && moving !== undefined && hasMiddle(moving)

  async function askSection(): Promise<void> {
    const landmarks = draft.value ?? derived.landmarks
    const own = landmarks?.find(l => l.id === view.landmark)
    await (own ? ask(own.position, limbDirection(landmarks!, own.id)) : ask(undefined))
  }

  function begin(id: string): void {
    moving = id
    toMiddle = [0, 0, 0]
    draft.value = undefined
  }
  function to(position: Vec3): void {
    hand = position
    show(keeps() ? add(hand, toMiddle) : hand)
    if (!keeps()) return void askSection()
    const own = moving!
    void ask(hand, limbDirection(draft.value ?? derived.landmarks ?? [], own)).then(() => {
      const { centre, off } = section.value ?? {}
      const from = askedAt()
      if (moving !== own || !from) return
      const near = centre && (off ?? 0) < MIDDLE_WITHIN * (derived.shape?.straightened.height ?? 1)
      toMiddle = near ? sub(centre, from) : [0, 0, 0]
      show(add(hand, toMiddle))
    })
  }
  /** Shows the landmark in hand and the skeleton it leads to. */
  function show(position: Vec3): void {
    const { landmarks, found, hands, shape, plan } = derived
    if (!moving || !landmarks || !found || !hands || !shape) return
    const { height } = shape.straightened
    const recipe = project.recipe
    // told from where all stood before, so that neighbours follow the way of the hand and not its jitter
    const edits = placeLandmark(landmarks, recipe.landmarks.edits, moving, position, { mirror: view.mirror, height })
    const placed = landmarksAsPlaced(found, hands.landmarks, edits, height)
    draft.value = placed
    // the same steps the result will go through, joint edits included
    void plannedSkeleton(recipe, plan, placed, hands, height, derived.rig?.given).then(skeleton => {
      if (draft.value === placed) draftSkeleton.value = skeleton
    })
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
