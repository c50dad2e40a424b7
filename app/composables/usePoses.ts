import { rotate, type Vec3 } from '@chiraxis/core/math'
import { atBind, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { ALL_POSES, standIn } from '@chiraxis/core/strain'
import type { ComputedRef, Ref } from 'vue'
import { useDerived } from '~/stores/derived'
import { usePlayer } from '~/stores/player'
import { useView } from '~/stores/view'

const vec3In = (array: ArrayLike<number>, i: number): Vec3 => [array[3 * i]!, array[3 * i + 1]!, array[3 * i + 2]!]

/**
 * Where the joints of the figure and of its performer are: at rest, or at the playhead in Motion.
 * @param beside how far to the side the performer stands, metres  @param version grows with every drawing
 */
export function usePoses(skeleton: ComputedRef<Skeleton | undefined>, inMotion: ComputedRef<boolean>, beside: ComputedRef<number>, version: Ref<number>) {
  const derived = useDerived()
  const player = usePlayer()
  const view = useView()

  /** Local values of the figure's joints at the playhead, written by whoever poses the body. */
  const buffer = computed(() => {
    const joints = derived.skeleton?.names.length ?? 0
    return { translations: new Float32Array(3 * joints), rotations: new Float32Array(4 * joints) }
  })

  /** Local values of the check pose in play; undefined at rest. */
  const posed = computed<{ translations: Float32Array; rotations: Float32Array } | undefined>(() => {
    const s = derived.skeleton
    if (view.step !== 'skin' || view.skinMode === 'automatic' || !view.pose || !s) return undefined
    const chosen = ALL_POSES.find(p => p.id === view.pose)
    return chosen ? standIn(s, chosen, view.poseShare) : undefined
  })

  const jointPlaces = computed<Vec3[]>(() => {
    const s = skeleton.value
    if (!s) return []
    // joints are edited where they were bound
    const struck = s === derived.skeleton ? posed.value : undefined
    let w = struck ? worldPose(atBind(s), struck.translations, struck.rotations) : worldPose(view.step === 'skeleton' ? atBind(s) : s)
    if (inMotion.value && derived.performed) {
      void player.time
      void version.value
      w = worldPose(s, buffer.value.translations, buffer.value.rotations)
    }
    return s.names.map((_, j) => vec3In(w.positions, j))
  })

  /** The performer in the figure's own space and size: joints first, then the tips of heads, hands and feet. */
  const performerPlaces = computed<{ places: Vec3[]; parents: number[] } | undefined>(() => {
    const answer = derived.performed?.answer
    // a take of the figure's own has nobody beside it
    if (!inMotion.value || !answer || view.performerShown === 'hidden' || derived.performed?.id.startsWith('own:')) return undefined
    const { performer, performerTake, performerFrame, performerScale, performerGround } = answer
    const n = performer.names.length
    const f = Math.min(performerTake.frames - 1, Math.round(player.time * performerTake.fps))
    const w = worldPose(performer, performerTake.translations, performerTake.rotations, f * n)
    const place = (p: Vec3): Vec3 => {
      const q = rotate(performerFrame, p)
      return [q[0] * performerScale + beside.value, q[1] * performerScale - performerGround, q[2] * performerScale]
    }
    const places = Array.from({ length: n }, (_, j) => place(vec3In(w.positions, j)))
    const parents = [...performer.parents]
    for (let j = 0; performer.tips && j < n; j++) {
      const tip = vec3In(performer.tips, j)
      if (tip.every(v => v === 0)) continue
      const turned = rotate([w.rotations[4 * j]!, w.rotations[4 * j + 1]!, w.rotations[4 * j + 2]!, w.rotations[4 * j + 3]!], tip)
      places.push(place(vec3In(w.positions, j).map((v, k) => v + turned[k]!) as Vec3))
      parents.push(j)
    }
    return { places, parents }
  })

  return { buffer, posed, jointPlaces, performerPlaces }
}
