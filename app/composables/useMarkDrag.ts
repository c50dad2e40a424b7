import type { Landmark } from '@chiraxis/core/landmarks'
import type { Vec3 } from '@chiraxis/core/math'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { ComputedRef, Ref, ShallowRef } from 'vue'
import type { Dot } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

/** Dragging what is marked on the plate, in any view: landmarks, joints, and the bones of a pose. */
export function useMarkDrag({
  stage,
  host,
  skeleton,
  landmarks,
  marking,
  choose,
}: {
  readonly stage: ShallowRef<Stage | undefined>
  readonly host: Ref<HTMLElement | undefined>
  readonly skeleton: ComputedRef<Skeleton | undefined>
  readonly landmarks: ComputedRef<readonly Landmark[]>
  /** Whether landmarks are what is marked. */
  readonly marking: ComputedRef<boolean>
  readonly choose: (id: string, event: PointerEvent) => void
}) {
  const view = useView()
  const drag = useLandmarkDrag()
  const joints = useJointEdit()
  const posing = usePosing()
  const draw = useChainDraw()
  let held: { placed: Placed; id: string; what: 'mark' | 'joint' | 'bone'; from: Vec3 } | undefined
  const pointer = reactive({ x: 0, y: 0, active: false })

  function down(event: PointerEvent, p: Placed, dot: Dot): void {
    if (draw.drawing.value) return
    event.stopPropagation()
    choose(dot.id, event)
    const many = event.shiftKey || event.ctrlKey || event.metaKey
    if (many || event.button !== 0 || !take(p, dot)) return
    ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  }
  /** @returns whether it is held now, to be moved */
  function take(p: Placed, dot: Dot): boolean {
    const what = marking.value ? 'mark' : view.step === 'skeleton' ? 'joint' : view.step === 'rest' ? 'bone' : undefined
    if (!what) return false
    const j = Number(dot.id.replace(/^end /, ''))
    if (what === 'bone' && !posing.begin(j, dot.end ? dot.place : undefined)) return false
    held = { placed: p, id: dot.id, what, from: dot.place }
    if (what === 'joint') joints.begin(j)
    else if (what === 'mark') drag.begin(dot.id)
    return true
  }
  /** Moves a mark by so many pixels of a view, as a drag of that length would. */
  function nudge(p: Placed, dot: Dot, dx: number, dy: number): void {
    if (draw.drawing.value || !take(p, dot)) return
    to(dot.x + dx, dot.y + dy)
    up()
  }

  /** Where what is held is now, which tells how far from the viewer it is dragged. */
  function placeNow({ what, id, from }: NonNullable<typeof held>): Vec3 | undefined {
    if (what === 'bone') return from
    if (what === 'joint') return skeleton.value && joints.placeOf(skeleton.value, Number(id))
    return landmarks.value.find(l => l.id === id)?.position as Vec3 | undefined
  }

  function move(event: PointerEvent): void {
    if (!held || !stage.value || !host.value) return
    const box = host.value.getBoundingClientRect()
    const [x, y] = [event.clientX - box.left, event.clientY - box.top]
    if (to(x, y) && held.what !== 'bone') Object.assign(pointer, { x, y, active: true })
  }
  /** @returns whether what is held is there now */
  function to(x: number, y: number): boolean {
    const now = held && placeNow(held)
    if (!held || !now || !stage.value) return false
    const place: Vec3 = [...stage.value.unproject(held.placed, x, y, now)]
    if (held.what === 'bone') posing.to(place)
    else if (held.what === 'joint') joints.to(place)
    else drag.to(place)
    return true
  }

  function up(): void {
    if (!held) return
    const { what } = held
    held = undefined
    pointer.active = false
    if (what === 'joint') joints.end()
    else if (what === 'bone') posing.end()
    else drag.end()
  }
  return { down, move, up, nudge, pointer, isDragging: () => held !== undefined }
}
