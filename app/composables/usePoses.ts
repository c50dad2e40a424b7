import { isFinger, sideOf } from '@chiraxis/core/body'
import { IDENTITY, rotate, slerp, type Vec3 } from '@chiraxis/core/math'
import { atBind, posed as inPose, worldPose, type PoseTurn, type Skeleton } from '@chiraxis/core/skeleton'
import { standIn } from '@chiraxis/core/strain'
import type { ComputedRef, Ref } from 'vue'
import { useDerived } from '~/stores/derived'
import { usePlayer } from '~/stores/player'
import { useView } from '~/stores/view'

const vec3In = (array: ArrayLike<number>, i: number): Vec3 => [array[3 * i]!, array[3 * i + 1]!, array[3 * i + 2]!]

/**
 * Where the joints of the figure and of its performer are: at rest, or at the playhead in Motion.
 * @param beside how far to the side the performer stands, metres  @param version grows with every drawing
 */
export function usePoses(
  skeleton: ComputedRef<Skeleton | undefined>,
  inMotion: ComputedRef<boolean>,
  beside: ComputedRef<number>,
  version: Ref<number>,
) {
  const derived = useDerived()
  const player = usePlayer()
  const view = useView()
  const posing = usePosing()
  const poses = useCheckPoses()
  const { current: corrective } = useCorrectives()
  const { pose: handlePose } = useHandlePose()

  /** Local values of the figure's joints at the playhead, written by whoever poses the body. */
  const buffer = computed(() => {
    const joints = derived.skeleton?.names.length ?? 0
    return { translations: new Float32Array(3 * joints), rotations: new Float32Array(4 * joints) }
  })

  /** Local values of the check pose in play; undefined at rest. */
  const posed = computed<{ translations: Float32Array; rotations: Float32Array } | undefined>(() => {
    const s = derived.skeleton
    if (view.phase === 'handles') return handlePose.value
    if (view.step === 'rest' && s && posing.rotations.value)
      return { translations: s.restTranslations, rotations: posing.rotations.value }
    if (view.step !== 'skin' || view.skinMode === 'automatic' || !s) return undefined
    if (view.skinMode === 'correct' && corrective.value) return turned(s, corrective.value.turns, view.poseShare)
    if (!view.pose) return undefined
    const chosen = poses.value.find(p => p.id === view.pose)
    return chosen ? standIn(s, chosen, view.poseShare) : undefined
  })

  const jointPlaces = computed<Vec3[]>(() => {
    const s = skeleton.value
    if (!s) return []
    // joints are edited where they were bound
    const struck = s === derived.skeleton ? posed.value : undefined
    let w = struck
      ? worldPose(atBind(s), struck.translations, struck.rotations)
      : worldPose(view.step === 'skeleton' ? atBind(s) : s)
    if (inMotion.value && !view.resting && derived.performed) {
      void player.time
      void version.value
      w = worldPose(s, buffer.value.translations, buffer.value.rotations)
    }
    return s.names.map((_, j) => vec3In(w.positions, j))
  })

  /** The performer in the figure's own space and size: joints first, then the tips of heads, hands and feet. */
  const performerPlaces = computed<
    | {
        places: Vec3[]
        parents: number[]
        /** Bones of fingers. */ small: boolean[]
        /** Of which side each bone is. */ sides: ('left' | 'right' | 'middle')[]
      }
    | undefined
  >(() => {
    const answer = derived.performed?.answer
    // a take of the figure's own has nobody beside it
    if (!inMotion.value || !answer || view.performerShown === 'hidden' || derived.ownShown || view.step === 'voice')
      return undefined
    const { performer, performerTake, performerFrame, performerScale, performerGround, match, performerJoints } = answer
    const n = performer.names.length
    const f = Math.min(performerTake.frames - 1, Math.round(player.time * performerTake.fps))
    const w = view.resting
      ? worldPose(performer)
      : worldPose(performer, performerTake.translations, performerTake.rotations, f * n)
    const hips = performerJoints.hips ?? 0
    const place = (p: Vec3): Vec3 => {
      const q = rotate(performerFrame, p)
      return [q[0] * performerScale + beside.value, q[1] * performerScale - performerGround, q[2] * performerScale]
    }
    const places = Array.from({ length: n }, (_, j) => place(vec3In(w.positions, j)))
    const parents = [...performer.parents]
    for (let j = 0; performer.tips && j < n; j++) {
      const tip = vec3In(performer.tips, j)
      if (tip.every(v => v === 0)) continue
      const turned = rotate(
        [w.rotations[4 * j]!, w.rotations[4 * j + 1]!, w.rotations[4 * j + 2]!, w.rotations[4 * j + 3]!],
        tip,
      )
      places.push(place(vec3In(w.positions, j).map((v, k) => v + turned[k]!) as Vec3))
      parents.push(j)
    }
    if (view.resting)
      standWith(places, hips, jointPlaces.value[derived.skeleton?.roles.indexOf('hips') ?? 0], beside.value)
    if (view.step === 'match') turnLimbs(places, parents, performerJoints, match)
    const fingers = new Set(Object.entries(performerJoints).flatMap(([r, j]) => (isFinger(r) ? [j] : [])))
    const sideOfJoint = new Map(Object.entries(performerJoints).map(([r, j]) => [j, sideOf(r)]))
    const sides = parents.map((p, j) => sideOfJoint.get(j) ?? sideOfJoint.get(p) ?? 'middle')
    return { places, parents, sides, small: parents.map((p, j) => fingers.has(j) || fingers.has(p)) }
  })

  return { buffer, posed, jointPlaces, performerPlaces }
}

/** The figure as it was bound with some joints turned, so far into their turn. */
function turned(
  skeleton: Skeleton,
  turns: readonly PoseTurn[],
  share: number,
): { translations: Float32Array; rotations: Float32Array } {
  const rest = atBind(skeleton)
  const part = turns.map(t => ({ ...t, by: slerp(IDENTITY, [...t.by], share) }))
  return { translations: rest.restTranslations, rotations: inPose(rest, part) }
}

/** Stands a performer at rest on the figure's hips, so that only how they stand differs. */
function standWith(places: Vec3[], hips: number, onto: Vec3 | undefined, beside: number): void {
  const from = places[hips]
  if (!onto || !from) return
  const shift: Vec3 = [onto[0] + beside - from[0], onto[1] - from[1], onto[2] - from[2]]
  places.forEach(p => {
    for (const k of [0, 1, 2] as const) p[k] += shift[k]
  })
}

/** Turns each limb of a performer at rest by its match; what has none goes along with what it hangs on. */
function turnLimbs(
  places: Vec3[],
  parents: readonly number[],
  joints: Readonly<Record<string, number>>,
  match: Readonly<Record<string, readonly [number, number, number, number]>>,
): void {
  const role = new Map(Object.entries(joints).map(([r, j]) => [j, r]))
  const before = places.map(p => [...p] as Vec3)
  const turn: (readonly [number, number, number, number])[] = []
  parents.forEach((p, j) => {
    // a tip lies beyond its joint and turns with it
    const own = match[role.get(j) ?? '']
    turn[j] = own ?? (p >= 0 && !role.has(j) ? turn[p]! : [0, 0, 0, 1])
    if (p < 0) return
    const bone: Vec3 = [before[j]![0] - before[p]![0], before[j]![1] - before[p]![1], before[j]![2] - before[p]![2]]
    const d = rotate(turn[p]!, bone)
    places[j] = [places[p]![0] + d[0], places[p]![1] + d[1], places[p]![2] + d[2]]
  })
}
