import { maxOf, minOf } from '@chiraxis/core/math'

/** A part in play, to be joined by a line to a label. */
export interface CalloutItem {
  readonly id: string
  readonly label: string
  readonly value?: string
  readonly side: 'left' | 'right' | 'middle'
  readonly x: number
  readonly y: number
  /** Parts of an arm, which reach out to where the margins are. */
  readonly reaches?: boolean
}
export interface Callout extends CalloutItem {
  /** Where the label stands, and which way its words run from there. */
  readonly anchor: 'start' | 'end'
  readonly labelX: number
  readonly labelY: number
  /** Corners of the line from label to part: x, y, x, y … */
  readonly leader: readonly number[]
}
export interface CalloutFrame {
  /** Inner edges of the two margins. */
  readonly left: number
  readonly right: number
  readonly top: number
  readonly bottom: number
  /** Outer edges that no label may pass. */
  readonly outerLeft: number
  readonly outerRight: number
}

/** Distance between neighbouring labels, about how wide a label is, and how much of a limb lies around a point: pixels. */
export const LABEL_GAP = 19
const LABEL_WIDTH = 126
const LIMB = 18
/** Nearer to a margin than this a part would lie on the words there. */
const CLEAR = 12

/**
 * Places labels so that none touch and no line crosses words. Arms climb like stairs: each label stands
 * above its own point and runs outwards, the ones farther in higher, the hand's own below it. All other
 * parts go to the two margins in the order of their heights, keeping clear of the arms.
 */
export function layoutCallouts(items: readonly CalloutItem[], frame: CalloutFrame): Callout[] {
  const body = items.filter(i => !i.reaches)
  const centre = median((body.length > 0 ? body : items).map(i => i.x))
  const arms = (['left', 'right'] as const).map(margin =>
    stairs(
      items.filter(i => i.reaches && (margin === 'left' ? i.x < centre : i.x >= centre)),
      margin,
      frame,
    ),
  )
  const left: CalloutItem[] = []
  const right: CalloutItem[] = []
  for (const item of body) {
    if (item.side === 'middle') continue
    ;(item.x < centre ? left : right).push(item)
  }
  for (const item of body.filter(i => i.side === 'middle').sort((a, b) => a.y - b.y)) {
    ;(right.length <= left.length ? right : left).push(item)
  }
  return [
    ...arms[0]!,
    ...arms[1]!,
    ...column(left, frame, 'left', arms[0]!),
    ...column(right, frame, 'right', arms[1]!),
  ]
}

/**
 * Labels of a body wider than tall, as on four legs seen from the side: above the upper half and below the lower,
 * each label beginning at its own point. From the right to the left every label that would meet one already
 * placed steps a row farther out, so no line crosses words.
 */
export function layoutWide(
  items: readonly CalloutItem[],
  frame: CalloutFrame,
  labelWidth = LABEL_WIDTH + 14,
): Callout[] {
  if (items.length === 0) return []
  const ys = items.map(i => i.y)
  const top = minOf(ys),
    bottom = maxOf(ys)
  const middle = top + 0.45 * (bottom - top)
  const side = (own: readonly CalloutItem[], way: -1 | 1): Callout[] => {
    const sorted = [...own].sort((a, b) => b.x - a.x)
    const placed: { x: number; row: number }[] = []
    const rows = sorted.map(item => {
      const row =
        maxOf(
          placed.filter(p => p.x < item.x + labelWidth).map(p => p.row),
          -1,
        ) + 1
      placed.push({ x: item.x, row })
      return row
    })
    const edge = way < 0 ? top - 26 : bottom + 26
    const room = way < 0 ? edge - frame.top : frame.bottom - edge
    const gap = Math.min(LABEL_GAP, room / maxOf(rows, 1))
    return sorted.map((item, i) => {
      const labelY = edge + way * rows[i]! * gap
      const labelX = Math.min(item.x, frame.outerRight - labelWidth)
      return { ...item, anchor: 'start', labelX, labelY, leader: [item.x, labelY - way * 7, item.x, item.y] }
    })
  }
  return [
    ...side(
      items.filter(i => i.y < middle),
      -1,
    ),
    ...side(
      items.filter(i => i.y >= middle),
      1,
    ),
  ]
}

function stairs(items: readonly CalloutItem[], margin: 'left' | 'right', frame: CalloutFrame): Callout[] {
  const way = margin === 'left' ? -1 : 1
  const outer = [...items].sort((a, b) => (b.x - a.x) * way)
  const out: Callout[] = []
  let row = Infinity
  outer.forEach((item, i) => {
    const free = margin === 'left' ? item.x - frame.outerLeft : frame.outerRight - item.x
    const shift = Math.min(0, free - LABEL_WIDTH)
    const inner = outer[i + 1]
    // words pushed inwards below the end of a raised limb would lie on it
    const last = i === 0 && outer.length > 1 && !(shift < 0 && item.y < inner!.y)
    // parts farther out that lie among the words
    const outside = outer.slice(0, i).filter(o => (o.x - item.x) * way < shift + LABEL_WIDTH + CLEAR)
    // a label pushed inwards by the edge has the rising limb beneath it
    const slope = inner && inner.x !== item.x ? Math.max(0, (item.y - inner.y) / Math.abs(item.x - inner.x)) : 0
    // the end of the limb is told below it, where nothing else is
    const labelY = last
      ? item.y + 26
      : minOf([item.y - 24 + slope * shift, row - LABEL_GAP, ...outside.map(o => o.y - CLEAR - 5)])
    if (!last) row = labelY
    const labelX = item.x + way * (shift - 2)
    const anchor = margin === 'left' ? 'end' : 'start'
    out.push({ ...item, anchor, labelX, labelY, leader: [item.x, labelY + (last ? -9 : 7), item.x, item.y] })
  })
  return out
}

function column(
  items: readonly CalloutItem[],
  frame: CalloutFrame,
  margin: 'left' | 'right',
  arm: readonly Callout[],
): Callout[] {
  const edge = margin === 'left' ? frame.left : frame.right
  const way = margin === 'left' ? 1 : -1
  // a part that lies among the words of its margin is told above itself
  const amongWords = (i: CalloutItem): boolean => (i.x - edge) * way < CLEAR
  const height = (i: CalloutItem): number => (amongWords(i) ? i.y - LIMB : i.y)
  const sorted = [...items].sort((a, b) => height(a) - height(b))
  const place = (list: readonly CalloutItem[], top: number, bottom: number): Callout[] => {
    const inside = list.findIndex(amongWords)
    // no label where the part itself lies: the others stand above it or below
    if (inside >= 0 && inside < list.length - 1) {
      const { y } = list[inside]!
      return [...place(list.slice(0, inside + 1), top, y - CLEAR), ...place(list.slice(inside + 1), y + CLEAR, bottom)]
    }
    const gap = Math.min(LABEL_GAP, Math.max(1, bottom - top) / Math.max(1, list.length))
    const most = inside < 0 ? bottom : Math.min(bottom, list[inside]!.y - CLEAR)
    const ys = spread(list.map(height), gap, top, most)
    return list.map((item, i) => ({
      ...item,
      anchor: margin === 'left' ? 'end' : 'start',
      labelX: edge,
      labelY: ys[i]!,
      leader: amongWords(item)
        ? [item.x, ys[i]! + 7, item.x, item.y]
        : [edge + way * 6, ys[i]!, edge + way * 20, ys[i]!, item.x, item.y],
    }))
  }
  const inTheWay = arm.filter(i => (margin === 'left' ? i.x < edge + 30 : i.x > edge - 30))
  if (inTheWay.length === 0) return place(sorted, frame.top, frame.bottom)
  const heights = arm.flatMap(i => [i.labelY, i.y])
  const bandTop = minOf(heights) - LABEL_GAP
  const bandBottom = maxOf(heights) + LIMB
  const middle = (bandTop + bandBottom) / 2
  const above = sorted.filter(i => i.y < middle)
  return [...place(above, frame.top, bandTop), ...place(sorted.slice(above.length), bandBottom, frame.bottom)]
}

/** Moves rising heights apart by `gap` with the least squared shift (pooling of neighbours that touch). */
export function spread(heights: readonly number[], gap: number, top: number, bottom: number): number[] {
  const blocks: { start: number; count: number; mean: number }[] = []
  heights.forEach((y, i) => {
    blocks.push({ start: i, count: 1, mean: y - i * gap })
    while (blocks.length > 1 && blocks[blocks.length - 2]!.mean > blocks[blocks.length - 1]!.mean) {
      const b = blocks.pop()!
      const a = blocks.pop()!
      blocks.push({
        start: a.start,
        count: a.count + b.count,
        mean: (a.mean * a.count + b.mean * b.count) / (a.count + b.count),
      })
    }
  })
  const out = new Array<number>(heights.length)
  const most = bottom - (heights.length - 1) * gap
  for (const b of blocks) {
    const mean = Math.max(top, Math.min(most, b.mean))
    for (let i = b.start; i < b.start + b.count; i++) out[i] = mean + i * gap
  }
  return out
}

function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  return sorted[sorted.length >> 1] ?? 0
}
