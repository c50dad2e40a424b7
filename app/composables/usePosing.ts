import { fromEuler, toEulerYXZ, type Quat, type Vec3 } from '@chiraxis/core/math'
import {
  posed,
  pull,
  pulledBy,
  turnAt,
  turnsOf,
  withTurn,
  worldPose,
  type PoseTurn,
  type Skeleton,
} from '@chiraxis/core/skeleton'
import type { OwnPose } from '@chiraxis/core/strain'
import { useChosen } from '~/stores/chosen'
import { useDerived } from '~/stores/derived'
import { useProject } from '~/stores/project'
import { useView } from '~/stores/view'

/** Local rotations of the pose on the plate, 4·J; undefined while the figure rests. */
const rotations = shallowRef<Float32Array>()
/** Poses before, the latest last; what was taken back, the latest last. */
const past = shallowRef<readonly (Float32Array | undefined)[]>([])
const future = shallowRef<readonly (Float32Array | undefined)[]>([])
let of: Skeleton | undefined
let held: { joint: number; by: number; from: Vec3; start: Float32Array | undefined } | undefined

/** Posing the figure joint by joint: bones are pulled on the plate or turned by numbers. Nothing is kept until it is said what for. */
export function usePosing() {
  const derived = useDerived()
  const project = useProject()
  const view = useView()
  const chosen = useChosen()
  const edit = useJointEdit()

  /** Forgets a pose that belongs to other joints. */
  function fit(): Skeleton | undefined {
    const s = derived.skeleton
    if (of !== s) {
      rotations.value = undefined
      past.value = future.value = []
      held = undefined
      of = s
    }
    return s
  }
  watch(() => derived.skeleton, fit)

  const now = (s: Skeleton): Float32Array => rotations.value ?? s.restRotations.slice()
  function remember(before: Float32Array | undefined): void {
    past.value = [...past.value.slice(-99), before]
    future.value = []
  }
  function set(next: Float32Array | undefined): void {
    remember(rotations.value)
    rotations.value = next
  }
  const undoable = computed(() => past.value.length > 0)
  const redoable = computed(() => future.value.length > 0)
  function stepBack(): void {
    if (!undoable.value) return
    future.value = [...future.value, rotations.value]
    rotations.value = past.value.at(-1)
    past.value = past.value.slice(0, -1)
  }
  function stepForward(): void {
    if (!redoable.value) return
    past.value = [...past.value, rotations.value]
    rotations.value = future.value.at(-1)
    future.value = future.value.slice(0, -1)
  }

  /** Takes hold of a joint, or of the end of its bone. @returns false where nothing turns by pulling there */
  function begin(joint: number, end: Vec3 | undefined): boolean {
    const s = fit()
    if (!s) return false
    const by = end ? joint : pulledBy(s, joint)
    if (by < 0) return false
    held = { joint, by, from: end ?? placeOf(s, joint), start: rotations.value }
    return true
  }
  function to(place: Vec3): void {
    const s = fit()
    if (!s || !held) return
    rotations.value = pull(s, held.start ?? s.restRotations.slice(), held.by, held.from, place, view.mirror)
  }
  function end(): void {
    if (held && rotations.value !== held.start) {
      past.value = [...past.value.slice(-99), held.start]
      future.value = []
    }
    held = undefined
  }
  function placeOf(s: Skeleton, j: number): Vec3 {
    const p = worldPose(s, s.restTranslations, now(s)).positions
    return [p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!]
  }

  /** How the joint in play is turned away from where it was bound: about the body's own axes, degrees. */
  const angles = computed<Vec3>(() => {
    const s = derived.skeleton
    if (!s || derived.joint >= s.names.length) return [0, 0, 0]
    const by: Quat = turnAt(s, rotations.value ?? s.restRotations, derived.joint)
    return toEulerYXZ(by).map(v => (v * 180) / Math.PI) as Vec3
  })
  function setAngle(axis: 0 | 1 | 2, degrees: number): void {
    const s = fit()
    if (!s) return
    let next = now(s)
    for (const j of chosen.joints) {
      const each = toEulerYXZ(turnAt(s, next, j)).map(v => (v * 180) / Math.PI) as Vec3
      each[axis] = degrees
      const [x, y, z] = each.map(v => (v * Math.PI) / 180) as Vec3
      next = withTurn(s, next, j, fromEuler(x, y, z, 'YXZ'), view.mirror && chosen.joints.length === 1)
    }
    set(next)
  }
  const turns = (): PoseTurn[] => {
    const s = derived.skeleton
    return s && rotations.value ? turnsOf(s, rotations.value) : []
  }
  /** A pose that was made elsewhere, to go on from. */
  function takeUp(next: Float32Array): void {
    if (fit()) set(next.slice())
  }
  const takeUpTurns = (list: readonly PoseTurn[]): void => {
    const s = fit()
    if (s) set(posed(s, list))
  }
  const rest = (): void => {
    if (rotations.value) set(undefined)
  }
  function makeRest(): void {
    const list = turns()
    if (list.length > 0) edit.add([{ kind: 'rest', pose: 'posed', degrees: 0, turns: list.map(t => ({ ...t })) }])
  }
  function keep(label: string): void {
    const own = project.recipe.checkPoses ?? []
    const list = turns()
    if (list.length === 0) return
    const name = freshLabel(label.trim() || 'Pose', own)
    const pose: OwnPose = { id: `own-${crypto.randomUUID()}`, label: name, turns: list.map(t => ({ ...t })) }
    project.change(`Keep the check pose ${name}`, { ...project.recipe, checkPoses: [...own, pose] })
  }
  function forget(id: string): void {
    const own = project.recipe.checkPoses ?? []
    const pose = own.find(p => p.id === id)
    if (pose)
      project.change(`Remove the check pose ${pose.label}`, {
        ...project.recipe,
        checkPoses: own.filter(p => p.id !== id),
      })
  }
  return {
    rotations,
    angles,
    undoable,
    redoable,
    stepBack,
    stepForward,
    begin,
    to,
    end,
    setAngle,
    takeUp,
    takeUpTurns,
    rest,
    makeRest,
    keep,
    forget,
  }
}

/** A label that no other pose has. */
export function freshLabel(wish: string, own: readonly Pick<OwnPose, 'label'>[]): string {
  const taken = new Set(own.map(p => p.label))
  let label = wish
  for (let i = 2; taken.has(label); i++) label = `${wish} ${i}`
  return label
}
