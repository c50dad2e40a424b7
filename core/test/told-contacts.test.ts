import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { easedAround, placeContacts, toldOf, withTold, type ToldContact } from '../src/correct'
import { blendTakes } from '../src/motion'
import { biped, wildTake } from './skeletons'

const told = (part: string, from: number, to: number, holds: boolean, onto = 'ground'): ToldContact => ({
  part,
  onto,
  from,
  to,
  holds,
})

describe('contacts told by hand', () => {
  it('lie on the frames of the take, feet as heel and ball', () => {
    const placed = placeContacts([told('leftFoot', 0.5, 1, true), told('leftHand', 0, 9, false, 'rightHand')], {
      fps: 30,
      frames: 61,
    })
    expect(placed).toEqual([
      { part: 'leftHeel', onto: 'ground', from: 15, to: 30, holds: true },
      { part: 'leftBall', onto: 'ground', from: 15, to: 30, holds: true },
      { part: 'leftHand', onto: 'rightHand', from: 0, to: 60, holds: false },
    ])
    expect(placeContacts([told('leftFoot', 3, 4, true)], { fps: 30, frames: 61 })).toEqual([])
    expect(placeContacts([told('leftFrontFoot', 0, 1, true)], { fps: 30, frames: 61 }, s => s, true)[0]!.part).toBe(
      'rightFrontHeel',
    )
  })
  it('hold over what is found, later ones over earlier ones, and only where they are told', () => {
    const spans = fc.array(fc.tuple(fc.nat(40), fc.nat(40), fc.boolean()), { maxLength: 6 })
    const flags = fc.uint8Array({ minLength: 41, maxLength: 41, max: 1 })
    fc.assert(
      fc.property(spans, flags, (list, found) => {
        const records = list.map(([a, b, holds]) => ({
          part: 'leftBall',
          onto: 'ground',
          from: Math.min(a, b),
          to: Math.max(a, b),
          holds,
        }))
        const out = withTold(found, toldOf(records, 'leftBall', 'ground', 41))
        for (let f = 0; f < 41; f++) {
          const last = records.filter(r => f >= r.from && f <= r.to).at(-1)
          expect(out[f]).toBe(last ? Number(last.holds) : found[f])
        }
        expect(toldOf(records, 'rightBall', 'ground', 41)).toBeUndefined()
      }),
    )
  })
  it('come and go softly: whole within, never a leap, nothing far off', () => {
    fc.assert(
      fc.property(fc.nat(60), fc.integer({ min: 0, max: 30 }), fc.integer({ min: 1, max: 12 }), (from, long, ease) => {
        const flags = new Uint8Array(100).fill(1, from, from + long + 1)
        const w = easedAround(flags, ease)
        for (let f = 0; f < 100; f++) {
          if (flags[f]) expect(w[f]).toBe(1)
          if (f < from - ease || f > from + long + ease) expect(w[f]).toBe(0)
          if (f > 0) expect(Math.abs(w[f]! - w[f - 1]!)).toBeLessThan(1.6 / (ease + 1))
        }
      }),
    )
  })
})

describe('two takes blended', () => {
  it('are either one bit for bit at the ends, and turn the shorter way between', () => {
    const s = biped()
    const a = wildTake(s, 3),
      b = wildTake(s, 4)
    const n = a.frames
    expect(blendTakes(a, b, new Float32Array(n)).rotations).toEqual(a.rotations)
    expect(blendTakes(a, b, new Float32Array(n).fill(1)).rotations).toEqual(b.rotations)
    const half = blendTakes(a, b, new Float32Array(n).fill(0.5))
    for (let i = 0; i < half.rotations.length; i += 4) {
      const dot = (x: Float32Array, y: Float32Array): number =>
        Math.abs([0, 1, 2, 3].reduce((sum, k) => sum + x[i + k]! * y[i + k]!, 0))
      expect(dot(half.rotations, half.rotations)).toBeCloseTo(1, 4)
      expect(dot(half.rotations, a.rotations)).toBeCloseTo(dot(half.rotations, b.rotations), 4)
    }
  })
})
