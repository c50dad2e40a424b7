/** A part in play, to be joined by a line to a label in the margin. */
export interface CalloutItem {
  readonly id: string
  readonly label: string
  readonly value?: string
  readonly side: 'left' | 'right' | 'middle'
  readonly x: number
  readonly y: number
}
export interface Callout extends CalloutItem {
  /** Which margin, where the label starts or ends, and its height. */
  readonly margin: 'left' | 'right'
  readonly labelX: number
  readonly labelY: number
}
export interface CalloutFrame { readonly left: number; readonly right: number; readonly top: number; readonly bottom: number }

/** Distance between neighbouring labels, pixels. */
export const LABEL_GAP = 19

/**
 * Places labels in the two margins in the order of their points, as near to their heights as they can
 * be without touching. Points on the midline go to the margin with fewer labels.
 */
export function layoutCallouts(items: readonly CalloutItem[], frame: CalloutFrame): Callout[] {
  const centre = items.length > 0 ? median(items.map(i => i.x)) : (frame.left + frame.right) / 2
  const left: CalloutItem[] = []
  const right: CalloutItem[] = []
  for (const item of items) {
    if (item.side === 'middle') continue
    ;(item.x < centre ? left : right).push(item)
  }
  for (const item of items.filter(i => i.side === 'middle').sort((a, b) => a.y - b.y)) {
    ;(right.length <= left.length ? right : left).push(item)
  }
  return [...column(left, frame, 'left'), ...column(right, frame, 'right')]
}

function column(items: readonly CalloutItem[], frame: CalloutFrame, margin: 'left' | 'right'): Callout[] {
  const sorted = [...items].sort((a, b) => a.y - b.y)
  const gap = Math.min(LABEL_GAP, (frame.bottom - frame.top) / Math.max(1, sorted.length))
  const ys = spread(sorted.map(i => i.y), gap, frame.top, frame.bottom)
  return sorted.map((item, i) => ({ ...item, margin, labelX: margin === 'left' ? frame.left : frame.right, labelY: ys[i]! }))
}

/** Moves rising heights apart by `gap` with the least squared shift (pooling of neighbours that touch). */
export function spread(heights: readonly number[], gap: number, top: number, bottom: number): number[] {
  const blocks: { start: number; count: number; mean: number }[] = []
  heights.forEach((y, i) => {
    blocks.push({ start: i, count: 1, mean: y - i * gap })
    while (blocks.length > 1 && blocks[blocks.length - 2]!.mean > blocks[blocks.length - 1]!.mean) {
      const b = blocks.pop()!
      const a = blocks.pop()!
      blocks.push({ start: a.start, count: a.count + b.count, mean: (a.mean * a.count + b.mean * b.count) / (a.count + b.count) })
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
