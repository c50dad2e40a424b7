import type { Placed } from '~/stage/stage'
import type { ViewName } from '~/stores/view'

export const VIEW_NAMES: Record<ViewName, string> = { front: 'Front', side: 'Side', top: 'Top', turn: 'Turn' }
const ORDER = ['front', 'side', 'top', 'turn'] as const
/** Narrower than this the plate has room for the large view alone, pixels. */
const ROOM = 420

/** How wide the side views are: as somebody wants them, at most half of the plate, and not at all where there is no room. */
export const sidesWidth = (plate: number, wanted: number): number => (plate < ROOM ? 0 : Math.min(wanted, plate / 2))

/**
 * Where each view lies on the plate: the large one, and the others one under another beside it.
 * @param width of the plate, pixels, as all that follows
 * @param sides wished width of the side views
 * @returns the large one first; it alone where there is no room for others
 */
export function placeViews(main: ViewName, width: number, height: number, sides: number): Placed[] {
  const wide = sidesWidth(width, sides)
  const large = Math.max(160, width - wide)
  const others = wide > 0 ? ORDER.filter(v => v !== main) : []
  const each = height / others.length
  return [
    { view: main, main: true, rect: { x: 0, y: 0, width: large, height } },
    ...others.map((view, i) => ({ view, main: false, rect: { x: large, y: i * each, width: wide, height: each } })),
  ]
}
