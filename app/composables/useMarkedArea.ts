import { areaOf, meanOf, type Area, type SkinEdit } from '@chiraxis/core/paint'
import { jointRef } from '@chiraxis/core/skeleton'
import type { SurfaceHit } from '~/stage/picker'
import { SPACING } from './useWeightBrush'
import { useDerived } from '~/stores/derived'
import { useView } from '~/stores/view'

type Row = { joint: string; weight: number }[]

const dabs = shallowRef<Area['dabs']>([])
/** Weights taken along from a place or an area, to be pasted. */
const copied = shallowRef<Row>()

/** An area marked on the skin by painting over it: its weights are averaged, copied and pasted as a whole. */
export function useMarkedArea() {
  const view = useView()
  const derived = useDerived()
  const brush = useWeightBrush()

  const area = computed<Area | undefined>(() =>
    dabs.value.length === 0
      ? undefined
      : { dabs: dabs.value, falloff: 0, mirror: view.mirror, through: view.brush.through },
  )
  /** Welded vertices that are marked, on both sides where both are. */
  const vertices = computed<readonly number[]>(() => {
    const c = brush.canvas.value
    if (!c || !area.value) return []
    const out = new Set(areaOf(c, area.value).keys())
    if (area.value.mirror) for (const v of areaOf(c, area.value, true).keys()) out.add(v)
    return [...out]
  })

  /** Marks what the brush reaches from a place. */
  function markAt(hit: SurfaceHit): void {
    const radius = view.brush.radius / 100 / brush.size()
    const dab = brush.dabOf(hit, radius)
    const last = dabs.value.at(-1)
    // a place hardly moved marks nothing more
    if (last && Math.hypot(...[0, 1, 2].map(k => dab[k]! - last[k]!)) < SPACING * radius) return
    dabs.value = [...dabs.value, dab]
  }
  const clear = (): void => void (dabs.value = [])

  const told = (row: ReadonlyMap<number, number>): Row =>
    [...row]
      .map(([joint, weight]) => ({ joint: jointRef(derived.skeleton!, joint), weight: Math.round(weight * 1e4) / 1e4 }))
      .filter(r => r.weight > 0)
      .sort((a, b) => b.weight - a.weight)
      .slice(0, 16)

  function copyArea(): void {
    const c = brush.canvas.value
    if (c && area.value) copied.value = told(meanOf(c, areaOf(c, area.value)))
  }
  /** @param vertex of the mesh, as it is drawn */
  function copyPlace(vertex: number): void {
    const c = brush.canvas.value
    if (c) copied.value = told(meanOf(c, new Map([[c.weld.of[vertex]!, 1]])))
  }
  const edit = (does: 'average' | 'paste'): SkinEdit | undefined =>
    area.value && {
      kind: 'area',
      does,
      area: area.value,
      weights: does === 'paste' ? copied.value : undefined,
      amount: 1,
      locked: [...view.locked],
      pieces: brush.onPieces(),
    }
  function average(): void {
    const e = edit('average')
    if (e) brush.add([e])
  }
  function paste(): void {
    const e = edit('paste')
    if (e && copied.value) brush.add([e])
  }
  return { area, vertices, copied, markAt, clear, copyArea, copyPlace, average, paste }
}
