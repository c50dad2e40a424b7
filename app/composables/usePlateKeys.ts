import type { ComputedRef, ShallowRef } from 'vue'
import type { Dot } from '~/components/plate/overlay'
import type { Placed, Stage } from '~/stage/stage'

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
/** Radians or metres the view goes on at a press, times it comes nearer, and pixels a mark moves. */
const TURN = 0.13
const NEARER = 1.12
const NUDGE = 2

/**
 * Keys of the large view while it has the focus: arrows go from mark to mark, with Shift they move the chosen one, with
 * Alt they turn the view; plus and minus bring it nearer and farther.
 */
export function usePlateKeys({
  stage,
  placed,
  dots,
  choose,
  nudge,
}: {
  readonly stage: ShallowRef<Stage | undefined>
  readonly placed: ComputedRef<Placed>
  readonly dots: () => readonly Dot[]
  readonly choose: (id: string) => void
  readonly nudge: (placed: Placed, dot: Dot, dx: number, dy: number) => void
}): (event: KeyboardEvent) => void {
  let nudged = -Infinity
  return event => {
    if (event.ctrlKey || event.metaKey) return
    const nearer = { '+': NEARER, '=': NEARER, '-': 1 / NEARER }[event.key]
    const way = WAYS[event.key]
    const now = dots().find(d => d.chosen)
    if (nearer) stage.value?.zoomBy(nearer)
    else if (!way) return
    else if (event.altKey) stage.value?.turnBy(way[0] * TURN, way[1] * TURN)
    else if (event.shiftKey) {
      if (!now) return
      const run = (): void => nudge(placed.value, now, way[0] * NUDGE, way[1] * NUDGE)
      // presses soon after each other are one step to take back
      if (event.timeStamp - nudged < NUDGE_PAUSE) goingOn(run)
      else run()
      nudged = event.timeStamp
    } else {
      const next = now ? nextIn(dots(), now, way) : dots()[0]
      // where there are no marks the arrows mean what they mean elsewhere
      if (dots().length === 0) return
      if (next) choose(next.id)
    }
    event.preventDefault()
    event.stopPropagation()
  }
}

/** The mark that lies nearest in a direction; what lies aside counts twice. */
function nextIn(dots: readonly Dot[], from: Dot, [x, y]: readonly [number, number]): Dot | undefined {
  let best: Dot | undefined
  let least = Infinity
  for (const d of dots) {
    const along = (d.x - from.x) * x + (d.y - from.y) * y
    if (d.id === from.id || along < 1) continue
    const cost = along + 2 * Math.abs((d.x - from.x) * y) + 2 * Math.abs((d.y - from.y) * x)
    if (cost < least) [best, least] = [d, cost]
  }
  return best
}
