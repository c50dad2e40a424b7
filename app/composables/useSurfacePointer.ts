import type { ComputedRef, Ref, ShallowRef } from 'vue'
import type { SurfaceHit } from '~/stage/picker'
import type { Placed, Stage } from '~/stage/stage'
import { useView } from '~/stores/view'

interface Surroundings {
  readonly stage: ShallowRef<Stage | undefined>
  readonly placed: ComputedRef<Placed[]>
  readonly host: Ref<HTMLElement | undefined>
  /** The body as it is shown, 3·V. */
  readonly shapeNow: () => Float32Array | undefined
  readonly posed: ComputedRef<object | undefined>
}

/** The pointer on the body's surface in Repair and Correct: it paints where it meets the body and leaves the rest to the view. */
export function useSurfacePointer({ stage, placed, host, shapeNow, posed }: Surroundings) {
  const view = useView()
  const derived = useDerived()
  const brush = useWeightBrush()
  const marked = useMarkedArea()
  const sculpt = useSculpt()
  const correctives = useCorrectives()
  /** Whether an area is being marked right now. */
  let marking = false
  const hover = shallowRef<{ hit: SurfaceHit; x: number; y: number; radius: number }>()
  const repairing = computed(() => view.step === 'skin' && view.skinMode === 'repair' && !!derived.skin)
  const sculpting = computed(
    () => view.step === 'skin' && view.skinMode === 'correct' && !!derived.skin && !!correctives.current.value,
  )
  const active = computed(() => repairing.value || sculpting.value)
  const size = computed(() => (sculpting.value ? view.sculpt : view.brush).radius)
  let stale = true

  // the brush starts from what repairs start from: the skin laid open, without a limit of influences
  watch(repairing, on => void derived.look('openSkin', on), { immediate: true })
  watch(
    [repairing, () => derived.openSkin],
    () => {
      if (repairing.value) brush.open()
    },
    { immediate: true },
  )
  watch(
    [posed, () => derived.shape?.mesh, () => derived.skin, () => derived.correctives, () => view.plainSkin, active],
    () => {
      stale = true
      hover.value = undefined
    },
  )
  // the tree over the triangles is built before the first stroke, not under it
  watch(active, on => {
    if (on) setTimeout(() => ready(), 60)
  })
  watch([sculpting, correctives.current], ([on]) => {
    if (on) setTimeout(() => sculpt.ready(), 60)
  })

  function ready(): void {
    if (!stale || !stage.value || !active.value) return
    const shape = shapeNow()
    if (!shape) return
    stage.value.picker.setShape(shape)
    stale = false
  }

  function under(event: PointerEvent): { placed: Placed; hit: SurfaceHit; x: number; y: number } | undefined {
    if (!stage.value || !host.value) return undefined
    ready()
    const box = host.value.getBoundingClientRect()
    const x = event.clientX - box.left,
      y = event.clientY - box.top
    const p = placed.value.find(
      q => x >= q.rect.x && x < q.rect.x + q.rect.width && y >= q.rect.y && y < q.rect.y + q.rect.height,
    )
    const hit = p && stage.value.pick(p, x, y)
    return p && hit ? { placed: p, hit, x, y } : undefined
  }

  const pressureOf = (event: PointerEvent): number =>
    event.pointerType === 'pen' && event.pressure > 0 ? Math.round(event.pressure * 100) / 100 : 1

  function show(changed: number[]): void {
    const canvas = brush.canvas.value
    if (!canvas || changed.length === 0) return
    stage.value?.setRows(changed, canvas.skin, canvas.weld.of, derived.skin?.influences ?? 4)
    if (view.solo) stage.value?.setHeatOf(changed, brush.shareAt)
  }

  /** @returns true when the pointer belongs to the brush */
  function down(event: PointerEvent): boolean {
    if (
      !active.value ||
      event.button !== 0 ||
      (event.target as Element).closest('button, [data-callout], .pointer-events-auto')
    )
      return false
    const at = under(event)
    if (!at) return false
    event.stopPropagation()
    event.preventDefault()
    const tool = repairing.value ? view.brush.tool : undefined
    if (tool === 'place') {
      view.vertex = at.hit.vertex
      return true
    }
    if (tool === 'joint') {
      const skin = derived.skin!
      // influences fall within a vertex: the first is the joint that holds the place most
      derived.joint = skin.joints[at.hit.vertex * skin.influences]!
      view.pointWith('joint')
      return true
    }
    host.value!.setPointerCapture(event.pointerId)
    if (sculpting.value) {
      sculpt.begin(at.hit, pressureOf(event))
      return true
    }
    if (tool === 'mark') {
      marking = true
      marked.markAt(at.hit)
      return true
    }
    show(brush.begin(at.hit, pressureOf(event)) ?? [])
    return true
  }

  function move(event: PointerEvent): boolean {
    if (!active.value) return false
    const at = under(event)
    hover.value =
      at && stage.value
        ? {
            hit: at.hit,
            x: at.x,
            y: at.y,
            radius: size.value / 100 / stage.value.metresPerPixel(at.placed, at.hit.place),
          }
        : undefined
    if (marking) {
      if (at) marked.markAt(at.hit)
      return true
    }
    if (sculpt.isPainting()) {
      if (at) sculpt.move(at.hit, pressureOf(event))
      return true
    }
    if (!brush.isPainting()) return false
    if (at) show(brush.move(at.hit, pressureOf(event)))
    return true
  }

  function up(_event: PointerEvent): boolean {
    if (marking) {
      marking = false
      return true
    }
    if (sculpt.isPainting()) {
      sculpt.end()
      return true
    }
    if (!brush.isPainting()) return false
    brush.end()
    return true
  }

  // what is marked lies on the body as it is shown
  watch([() => stage.value, repairing, marked.vertices, posed, () => derived.shape?.mesh], () => {
    const shown = repairing.value && marked.vertices.value.length > 0 ? shapeNow() : undefined
    const canvas = brush.canvas.value
    stage.value?.setMarked(
      shown && canvas
        ? Float32Array.from(
            marked.vertices.value.flatMap(w => {
              const v = canvas.weld.first[w]!
              return [shown[3 * v]!, shown[3 * v + 1]!, shown[3 * v + 2]!]
            }),
          )
        : undefined,
    )
  })

  function leave(): void {
    hover.value = undefined
  }

  const ring = computed(() =>
    active.value && hover.value
      ? {
          x: hover.value.x,
          y: hover.value.y,
          radius: hover.value.radius,
          falloff: (sculpting.value ? view.sculpt : view.brush).falloff,
        }
      : undefined,
  )
  return { down, move, up, leave, ring }
}
