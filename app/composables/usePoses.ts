import { rotate, type Vec3 } from '@chiraxis/core/math'
import { worldPose, type Skeleton } from '@chiraxis/core/skeleton'
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

  const jointPlaces = computed<Vec3[]>(() => {
    const s = skeleton.value
    if (!s) return []
    let w = worldPose(s)
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
    if (!inMotion.value || !answer || view.performerShown === 'hidden') return undefined
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

  return { buffer, jointPlaces, performerPlaces }
}
