import { quatAt, rotate, vec3At, type Vec3 } from '@chiraxis/core/math'
import { applyMove, editLabel, moveRecord, rigOf, type RigEdit } from '@chiraxis/core/rig'
import { atBind, boneDirection, jointIds, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { roleLabel } from '@chiraxis/core/body'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

const draft = shallowRef<Skeleton>()
/** The joint being dragged, by its identity: the skeleton may be worked out anew meanwhile. */
let moving: string | undefined

/** Changing the skeleton by hand: every edit is a record of the recipe, made again after whatever changes before it. */
export function useJointEdit() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const { section, ask } = useSection()

  const size = (): number => derived.shape?.straightened.height ?? 1

  /** Where a joint stood when bound, which is where edits place it. */
  const placeOf = (skeleton: Skeleton, j: number): Vec3 => vec3At(worldPose(atBind(skeleton)).positions, j)

  async function askSection(): Promise<void> {
    const s = draft.value ?? derived.skeleton
    const j = derived.joint
    if (!s || j >= s.names.length) return ask(undefined)
    const bound = atBind(s)
    const world = worldPose(bound)
    return ask(vec3At(world.positions, j), boneDirection(bound, j) ?? rotate(quatAt(world.rotations, j), [0, 1, 0]))
  }

  /** Adds edits to the recipe as one change. */
  function add(edits: readonly RigEdit[], name?: string): void {
    if (edits.length === 0) return
    const recipe = project.recipe
    const all = [...recipe.bones.edits, ...edits]
    project.change(name ?? words(edits[0]!), { ...recipe, bones: { ...recipe.bones, edits: all } })
  }

  const words = (edit: RigEdit): string =>
    editLabel(
      'joint' in edit && typeof edit.joint === 'string' && derived.skeleton?.roles.includes(edit.joint)
        ? ({ ...edit, joint: roleLabel(edit.joint).toLowerCase() } as RigEdit)
        : edit,
    )

  function without(index: number): void {
    const recipe = project.recipe
    const edit = recipe.bones.edits[index]
    if (edit)
      project.change(`Take back: ${words(edit as RigEdit)}`, {
        ...recipe,
        bones: { ...recipe.bones, edits: recipe.bones.edits.filter((_, i) => i !== index) },
      })
  }

  function moveTo(j: number, to: Vec3): void {
    const s = derived.skeleton
    if (s) add([moveRecord(s, j, to, size(), { children: view.withChildren, mirror: view.mirror })])
  }

  function begin(j: number): void {
    moving = derived.skeleton && jointIds(derived.skeleton)[j]
    draft.value = undefined
  }
  function to(place: Vec3): void {
    const s = derived.skeleton
    const j = s && moving !== undefined ? jointIds(s).indexOf(moving) : -1
    if (!s || j < 0) return
    draft.value = applyMove(
      rigOf(s),
      moveRecord(s, j, place, size(), { children: view.withChildren, mirror: view.mirror }),
      size(),
    ).skeleton
    void askSection()
  }
  function end(): void {
    const s = draft.value
    const j = s && moving !== undefined ? jointIds(s).indexOf(moving) : -1
    moving = undefined
    if (s && j >= 0) moveTo(j, placeOf(s, j))
  }

  return { draft, section, placeOf, askSection, add, without, words, moveTo, begin, to, end }
}

/** Forgets the preview once the worked-out result has arrived. */
export function settleJointEdit(): void {
  if (moving === undefined) draft.value = undefined
}
