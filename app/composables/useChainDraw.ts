import type { Vec3 } from '@chiraxis/core/math'
import { chainRecord, stationsOf } from '@chiraxis/core/rig'
import { bindPose, jointIds } from '@chiraxis/core/skeleton'
import { useChosen } from '~/stores/chosen'
import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'

/** Points nearer to the midline than this share of the figure's height lie on it. */
const MIDLINE = 0.008

const drawing = ref(false)
const points = shallowRef<readonly Vec3[]>([])
/** The joint it hangs on, by its identity; undefined for one that stands on its own. */
const parent = ref<string>()
const settings = reactive({ name: 'chain', count: 4, atPoints: false, alone: false })

/** Drawing a chain on the plate, point by point in the middle of the flesh, until it is kept or given up. */
export function useChainDraw() {
  const derived = useDerived()
  const edit = useJointEdit()
  const view = useView()
  const chosen = useChosen()
  const height = computed(() => derived.shape?.straightened.height ?? 1)

  const parentJoint = computed(() => {
    const s = derived.skeleton
    return s && parent.value !== undefined ? jointIds(s).indexOf(parent.value) : -1
  })
  /** How far from the viewer a point lies that meets no flesh: as far as the one before. */
  const anchor = computed<Vec3>(() => {
    const last = points.value.at(-1)
    if (last) return last
    const s = derived.skeleton
    const j = parentJoint.value
    if (!s || j < 0) return [0, height.value / 2, 0]
    const p = bindPose(s).positions
    return [p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!]
  })
  const count = computed(() => (settings.atPoints || points.value.length < 2 ? undefined : settings.count))
  /** Where its joints would stand. */
  const stations = computed(() => (points.value.length === 0 ? [] : stationsOf(points.value, count.value).stations))

  function begin(): void {
    const s = derived.skeleton
    if (!s) return
    parent.value = settings.alone ? undefined : jointIds(s)[derived.joint]
    points.value = []
    drawing.value = true
  }
  function add(place: Vec3): void {
    const near = Math.abs(place[0]) < MIDLINE * height.value
    points.value = [...points.value, near ? [0, place[1], place[2]] : place]
  }
  const takeBack = (): void => {
    if (points.value.length === 0) cancel()
    else points.value = points.value.slice(0, -1)
  }
  function cancel(): void {
    drawing.value = false
    points.value = []
  }
  function finish(): void {
    const s = derived.skeleton
    if (!s || points.value.length === 0) return cancel()
    const told = {
      name: settings.name.trim() || 'chain',
      mirror: view.mirror,
      ...(count.value && { joints: count.value }),
    }
    const record = chainRecord(s, parentJoint.value, points.value, height.value, told)
    const before = new Set(jointIds(s))
    const end = stations.value.at(-1)!
    cancel()
    edit.add([record], `Draw ${told.name}`)
    // what was drawn last is gone on from
    const stop = watch(
      () => derived.skeleton,
      next => {
        const fresh = next ? jointIds(next).flatMap((id, j) => (before.has(id) ? [] : [j])) : []
        const places = next && bindPose(next).positions
        const away = (j: number): number =>
          Math.hypot(places![3 * j]! - end[0], places![3 * j + 1]! - end[1], places![3 * j + 2]! - end[2])
        const [last] = fresh.sort((a, b) => away(a) - away(b))
        if (last !== undefined) chosen.choose([last])
        stop()
      },
    )
  }
  return { drawing, points, stations, settings, parentJoint, anchor, begin, add, takeBack, cancel, finish }
}
