import { useEventListener } from '@vueuse/core'
import type { Vec3 } from '@chiraxis/core/math'
import type { Placed, Stage } from '~/stage/stage'

/** What is pulled from, and where on the screen it was pressed. */
interface Pulled {
  readonly place: Vec3
  readonly x: number
  readonly y: number
  moved: boolean
}

/** Pixels, where nothing is told. */
const CHOOSES = 3

/**
 * Something on the plate that is pressed and pulled, as far from the viewer as it was taken hold of. Marks change their order
 * meanwhile, so the whole window is listened to; Escape gives up.
 */
export function usePlatePull(
  on: () => { readonly stage: Stage; readonly placed: Placed; readonly svg: SVGSVGElement | undefined },
  does: {
    readonly drag: (place: Vec3) => void
    /** @param moved whether it was pulled, and not only pressed */
    readonly end: (moved: boolean) => void
    readonly cancel: () => void
    /** A press that moves no farther than this only chooses, pixels. */
    readonly chooses?: number
  },
) {
  let from: Pulled | undefined
  /** Where the pointer is in the picture, pixels. */
  function at(event: PointerEvent): [x: number, y: number] {
    const box = on().svg!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  function begin(event: PointerEvent, place: Vec3): void {
    from = { place: [...place], x: event.clientX, y: event.clientY, moved: false }
  }
  useEventListener(window, 'pointermove', (event: PointerEvent) => {
    if (
      !from ||
      (!from.moved && Math.hypot(event.clientX - from.x, event.clientY - from.y) < (does.chooses ?? CHOOSES))
    )
      return
    from.moved = true
    const { stage, placed } = on()
    does.drag(stage.unproject(placed, ...at(event), from.place) as Vec3)
  })
  const up = (): void => {
    if (from) does.end(from.moved)
    from = undefined
  }
  useEventListener(window, 'pointerup', up)
  useEventListener(window, 'pointercancel', up)
  useEventListener(window, 'keydown', (event: KeyboardEvent) => {
    if (event.key !== 'Escape' || !from) return
    does.cancel()
    from = undefined
  })
  onBeforeUnmount(() => does.cancel())
  return { at, begin, isPulling: (): boolean => from !== undefined }
}
