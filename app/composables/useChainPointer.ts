import type { Vec3 } from '@chiraxis/core/math'
import type { ComputedRef, Ref, ShallowRef } from 'vue'
import type { Placed, Stage } from '~/stage/stage'

/** Cloth thinner than this share of the figure's height is drawn through. */
const CLOTH = 0.015
/** Pixels a pointer may move and still have clicked. */
const STILL = 4

/** The pointer while a chain is drawn: a click in any view sets a point in the middle of the flesh, a drag turns the view. */
export function useChainPointer({
  stage,
  placed,
  host,
  height,
}: {
  readonly stage: ShallowRef<Stage | undefined>
  readonly placed: ComputedRef<Placed[]>
  readonly host: Ref<HTMLElement | undefined>
  readonly height: ComputedRef<number>
}) {
  const derived = useDerived()
  const draw = useChainDraw()
  let clicked: { x: number; y: number; placed: Placed } | undefined
  watch([() => draw.drawing.value, () => derived.shape?.mesh], ([on]) => {
    if (on && derived.shape) stage.value?.picker.setShape(derived.shape.mesh.positions)
  })
  const placeOf = (event: PointerEvent): [number, number] => {
    const box = host.value!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }

  function down(event: PointerEvent): void {
    clicked = undefined
    if (!draw.drawing.value || event.button !== 0 || !host.value || (event.target as Element).closest('button')) return
    const [x, y] = placeOf(event)
    const p = placed.value.find(
      q => x >= q.rect.x && x < q.rect.x + q.rect.width && y >= q.rect.y && y < q.rect.y + q.rect.height,
    )
    if (p) clicked = { x, y, placed: p }
  }

  function up(event: PointerEvent): void {
    if (!clicked || !stage.value || !host.value) return
    const { x, y, placed: p } = clicked
    clicked = undefined
    const [nowX, nowY] = placeOf(event)
    if (Math.hypot(nowX - x, nowY - y) > STILL) return
    const [px, py, pz] =
      stage.value.middleUnder(p, x, y, CLOTH * height.value) ?? stage.value.unproject(p, x, y, draw.anchor.value)
    draw.add([px, py, pz] satisfies Vec3)
  }
  return { down, up }
}
