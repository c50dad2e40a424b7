import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { placeViews, sidesWidth } from '../components/plate/views'

const VIEW = fc.constantFrom('front' as const, 'side' as const, 'top' as const, 'turn' as const)

describe('the views of the plate', () => {
  it('cover it without lying over each other, whatever its size', () => {
    fc.assert(
      fc.property(
        VIEW,
        fc.integer({ min: 420, max: 3000 }),
        fc.integer({ min: 100, max: 2000 }),
        fc.integer({ min: 96, max: 1500 }),
        (main, width, height, sides) => {
          const placed = placeViews(main, width, height, sides)
          expect(placed.map(p => p.view).sort()).toEqual(['front', 'side', 'top', 'turn'])
          expect(placed[0]).toMatchObject({ view: main, main: true })
          const area = placed.reduce((s, p) => s + p.rect.width * p.rect.height, 0)
          expect(area).toBeCloseTo(width * height, 3)
          expect(placed[0]!.rect.width).toBeGreaterThanOrEqual(width / 2)
          for (const p of placed.slice(1)) expect(p.rect.x).toBe(placed[0]!.rect.width)
        },
      ),
    )
  })

  it('leave a narrow plate to the large one', () => {
    expect(placeViews('top', 400, 300, 136).map(p => [p.view, p.rect.width])).toEqual([['top', 400]])
    expect(sidesWidth(419, 136)).toBe(0)
    expect(sidesWidth(420, 136)).toBe(136)
    expect(sidesWidth(500, 400)).toBe(250)
  })
})
