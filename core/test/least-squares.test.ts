import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { leastSquares, seededNormal, type Term } from '../src/math'

const pull = (over: number, to: number, spread: number, robust = false): Term => ({
  over: [over],
  robust,
  residuals: x => [(x[over] - to) / spread],
})

describe('least squares', () => {
  it('weighs what is told by its spread, and says how sure it is', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        fc.double({ min: 0.1, max: 3, noNaN: true }),
        (a, b, s, t) => {
          const { x, covariance } = leastSquares([0], [pull(0, a, s), pull(0, b, t)])
          const [v, w] = [1 / (s * s), 1 / (t * t)]
          expect(x[0]).toBeCloseTo((a * v + b * w) / (v + w), 5)
          expect(covariance[0]).toBeCloseTo(1 / (v + w), 5)
        },
      ),
      { numRuns: 50 },
    )
  })
  it('leaves a wild one aside where it may', () => {
    const told = [1, 1.1, 0.9, 1.05].map(v => pull(0, v, 0.1, true))
    expect(leastSquares([0], [...told, pull(0, 9, 0.1, true)]).x[0]).toBeCloseTo(1, 1)
  })
  it('bends: finds a circle from noisy points on it', () => {
    const normal = seededNormal(4)
    const terms: Term[] = Array.from({ length: 40 }, (_, i) => {
      const angle = i / 6
      const p = [2 + 3 * Math.cos(angle) + 0.01 * normal(), -1 + 3 * Math.sin(angle) + 0.01 * normal()]
      return { over: [0, 1, 2], residuals: x => [(Math.hypot(p[0] - x[0], p[1] - x[1]) - x[2]) / 0.01] }
    })
    const { x, misfit } = leastSquares([0, 0, 1], terms)
    ;[2, -1, 3].forEach((v, k) => expect(x[k]).toBeCloseTo(v, 1))
    expect(misfit.reduce((a, b) => a + b, 0) / misfit.length).toBeLessThan(2)
  })
})
