import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { LABEL_GAP, layoutCallouts, layoutWide, spread, type CalloutItem } from '../composables/callouts'
import { ramp } from '../stage/ramp'

const frame = { left: 200, right: 500, top: 20, bottom: 720, outerLeft: 76, outerRight: 634 }

describe('call-outs', () => {
  it('keep their distance and their order, near to where they belong', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 700, noNaN: true }), { minLength: 1, maxLength: 30 }), heights => {
        const sorted = [...heights].sort((a, b) => a - b)
        const ys = spread(sorted, 19, 20, 720)
        for (let i = 1; i < ys.length; i++) expect(ys[i]! - ys[i - 1]!).toBeGreaterThan(18.999)
        expect(ys[0]!).toBeGreaterThanOrEqual(20 - 1e-9)
        expect(ys[ys.length - 1]!).toBeLessThanOrEqual(720 + 1e-9)
      }),
    )
    expect(spread([100, 200, 300], 19, 0, 700)).toEqual([100, 200, 300])
  })
  it('never overlap in one margin, whatever the pose of the arms', () => {
    const item = fc.record({
      x: fc.double({ min: 100, max: 620, noNaN: true }),
      y: fc.double({ min: 60, max: 700, noNaN: true }),
      reaches: fc.boolean(),
      side: fc.constantFrom('left', 'right', 'middle'),
    })
    fc.assert(
      fc.property(fc.array(item, { minLength: 1, maxLength: 18 }), list => {
        const items: CalloutItem[] = list.map((i, n) => ({
          ...i,
          id: String(n),
          label: 'name',
          side: i.side as CalloutItem['side'],
        }))
        const placed = layoutCallouts(items, frame)
        expect(placed).toHaveLength(items.length)
        for (const edge of [frame.left, frame.right]) {
          const column = placed
            .filter(c => !c.reaches && c.labelX === edge)
            .map(c => c.labelY)
            .sort((a, b) => a - b)
          for (let i = 1; i < column.length; i++) expect(column[i]! - column[i - 1]!).toBeGreaterThan(0)
        }
      }),
    )
  })
  it('leave a part that lies in a margin free of words', () => {
    const at = (id: string, x: number, y: number): CalloutItem => ({ id, label: '', side: 'left', x, y })
    const placed = layoutCallouts(
      [at('tip', 505, 400), at('hip', 380, 398), at('knee', 380, 500), at('hips', 320, 395)],
      frame,
    )
    const tip = placed.find(c => c.id === 'tip')!
    expect(tip.labelX).toBe(frame.right)
    expect(tip.y - tip.labelY).toBeGreaterThan(12)
    for (const c of placed)
      if (c.id !== 'tip' && c.labelX === frame.right) expect(Math.abs(c.labelY - tip.y)).toBeGreaterThan(9)
    expect(placed.find(c => c.id === 'knee')!.labelY).toBe(500)
  })
  it('let the labels of an arm climb inwards', () => {
    const arm: CalloutItem[] = [
      ['tip', 600, 340],
      ['wrist', 540, 320],
      ['elbow', 460, 300],
      ['shoulder', 380, 270],
    ].map(([id, x, y]) => ({ id: String(id), label: '', side: 'left', x: Number(x), y: Number(y), reaches: true }))
    const body: CalloutItem = { id: 'hips', label: '', side: 'middle', x: 320, y: 400 }
    const placed = layoutCallouts([...arm, body], frame)
    const y = (id: string): number => placed.find(c => c.id === id)!.labelY
    expect(y('tip')).toBeGreaterThan(340)
    expect(y('elbow')).toBeLessThanOrEqual(y('wrist') - LABEL_GAP)
    expect(y('shoulder')).toBeLessThanOrEqual(y('elbow') - LABEL_GAP)
  })
  it('never lie on the parts of a raised arm that reaches to the edge', () => {
    const words = 126
    for (const way of [1, -1]) {
      const arm: CalloutItem[] = [
        ['tip', 250, 266],
        ['wrist', 210, 292],
        ['elbow', 150, 325],
        ['shoulder', 80, 369],
      ].map(([id, x, y]) => ({
        id: String(id),
        label: '',
        side: 'left',
        x: 355 + way * Number(x),
        y: Number(y),
        reaches: true,
      }))
      const body: CalloutItem = { id: 'hips', label: '', side: 'middle', x: 355, y: 540 }
      const placed = layoutCallouts([...arm, body], frame)
      for (const c of placed.filter(p => p.reaches))
        for (const p of arm) {
          const along = (p.x - c.labelX) * way
          if (along > 0 && along < words) expect(Math.abs(p.y - c.labelY), `${p.id} on ${c.id}`).toBeGreaterThan(12)
        }
    }
  })
})

describe('the heat ramp', () => {
  it('grows lighter all the way', () => {
    const light = (t: number): number => {
      const [r, g, b] = ramp(t)
      return 0.2126 * r + 0.7152 * g + 0.0722 * b
    }
    for (let i = 1; i <= 20; i++) expect(light(i / 20)).toBeGreaterThan(light((i - 1) / 20))
    expect(ramp(-1)).toEqual(ramp(0))
  })
})

describe('labels of a body wider than tall', () => {
  it('stand above and below it, none over another, no line through words', () => {
    const frame = { left: 0, right: 800, top: 10, bottom: 790, outerLeft: 0, outerRight: 800 }
    const items = Array.from({ length: 16 }, (_, i) => ({
      id: String(i),
      label: `part ${i}`,
      side: 'left' as const,
      x: 120 + ((i * 137) % 520),
      y: 250 + ((i * 61) % 240),
    }))
    const width = 140
    const placed = layoutWide(items, frame, width)
    expect(placed).toHaveLength(16)
    for (const a of placed) {
      expect(a.labelY < 250 || a.labelY > 430).toBe(true)
      expect(a.labelY).toBeGreaterThanOrEqual(frame.top - 1)
      expect(a.labelX + width).toBeLessThanOrEqual(frame.outerRight)
      for (const b of placed) {
        if (a === b) continue
        if (Math.abs(a.labelY - b.labelY) < 8) expect(Math.abs(a.labelX - b.labelX)).toBeGreaterThanOrEqual(width - 1)
        // b's own line, straight up or down at its point, does not pass through a's words
        const [x, y0, , y1] = b.leader as [number, number, number, number]
        if (x > a.labelX + 6 && x < a.labelX + width - 20)
          expect(a.labelY > Math.min(y0, y1) && a.labelY < Math.max(y0, y1), `${b.id} through ${a.id}`).toBe(false)
      }
    }
  })
})
