import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { halfDigit, quantile, rateOfFrameTime } from '../src/motion'
import { readBvh } from '../src/formats'

const rate = (text: string): number => rateOfFrameTime(Number(text), halfDigit(text))

describe('the rate a frame time stands for', () => {
  it.each([
    ['0.0083333', 120],
    ['0.00833', 120],
    ['.008333001', 120],
    ['0.0083332984', 120],
    ['0.033', 30],
    ['0.0333', 30],
    ['3.33333e-2', 30],
    ['0.0333667', 29.97],
    ['0.041708333', 23.976],
    ['0.0417', 24],
    ['0.04', 25],
    ['0.016667', 60],
    ['0.01', 100],
    ['0.0076923', 130],
    ['0.03125', 32],
    ['0.0291', 34.3643],
    ['1', 1],
    ['2.5', 0.4],
  ])('%s s is %s a second', (text, expected) => {
    expect(rate(text)).toBe(expected)
  })
  it('is the one that was written, however many digits it was written with', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 240 }), fc.integer({ min: 6, max: 12 }), (fps, digits) => {
        expect(rate((1 / fps).toFixed(digits))).toBe(fps)
      }),
    )
  })
  it('is told of a recording', () => {
    const text = `HIERARCHY\nROOT hips\n{\nOFFSET 0 0 0\nCHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\nFrames: 2\nFrame Time: 0.0083333\n0 0 0 0 0 0\n0 0 0 1 0 0\n`
    expect(readBvh(new TextEncoder().encode(text)).takes[0].fps).toBe(120)
  })
})

describe('the value below which a share lies', () => {
  it('is what sorting tells', () => {
    const values = fc.array(fc.double({ noNaN: true, min: -10, max: 10 }), { minLength: 1, maxLength: 60 })
    fc.assert(
      fc.property(values, fc.double({ min: 0, max: 1, noNaN: true }), (list, share) => {
        const sorted = [...list].sort((a, b) => a - b)
        const before = [...list]
        expect(quantile(list, share)).toBe(sorted[Math.min(list.length - 1, Math.floor(list.length * share))])
        expect(list).toEqual(before)
      }),
    )
    expect(quantile([], 0.5)).toBe(0)
  })
})
