import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { seededRandom } from '../src/math'
import { closestOnSurface } from '../src/mesh'

/** Squared distance to a triangle the slow and plain way: the least over a fine net of its points. */
function plain(p: Float32Array, t: readonly number[], at: readonly number[]): number {
  let least = Infinity
  const n = 60
  for (let i = 0; i <= n; i++)
    for (let j = 0; i + j <= n; j++) {
      const b = i / n,
        c = j / n,
        a = 1 - b - c
      const d = [0, 1, 2].map(k => a * p[3 * t[0] + k] + b * p[3 * t[1] + k] + c * p[3 * t[2] + k] - at[k])
      least = Math.min(least, Math.hypot(...d))
    }
  return least
}

const soup = (seed: number, faces: number, long: number): { positions: Float32Array; indices: Uint32Array } => {
  const random = seededRandom(seed)
  const positions = new Float32Array(9 * faces)
  for (let f = 0; f < faces; f++) {
    const centre = [random(), random(), random()]
    for (let c = 0; c < 3; c++)
      for (let k = 0; k < 3; k++) positions[9 * f + 3 * c + k] = centre[k] + long * (random() - 0.5)
  }
  return { positions, indices: Uint32Array.from({ length: 3 * faces }, (_, i) => i) }
}

describe('the nearest point of a surface', () => {
  it('is the nearest of all triangles, however long and thin they are', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 1, max: 60 }),
        fc.constantFrom(0.02, 0.3, 2),
        (seed, faces, long) => {
          const { positions, indices } = soup(seed, faces, long)
          const closest = closestOnSurface(positions, indices)
          const random = seededRandom(seed + 1)
          for (let q = 0; q < 4; q++) {
            const at = [0, 1, 2].map(() => 3 * random() - 1)
            const found = closest.nearest(at[0], at[1], at[2])!
            let least = Infinity
            for (let f = 0; f < faces; f++) least = Math.min(least, plain(positions, [3 * f, 3 * f + 1, 3 * f + 2], at))
            // the net of points can only lie farther off
            expect(found.distance).toBeLessThanOrEqual(least + 1e-9)
            expect(found.distance).toBeGreaterThan(least - 0.04 * long)
            // and the shares tell the very point
            const corners = [0, 1, 2].map(k => 3 * indices[3 * found.triangle + k])
            const shares = [found.a, found.b, found.c]
            const point = [0, 1, 2].map(k => corners.reduce((s, c, i) => s + shares[i] * positions[c + k], 0))
            expect(Math.hypot(...point.map((v, k) => v - at[k]))).toBeCloseTo(found.distance, 6)
            for (const s of shares) expect(s).toBeGreaterThan(-1e-6)
          }
        },
      ),
      { numRuns: 60 },
    )
  })
  it('is found between vertices that are all far away', () => {
    // a needle of a triangle beside a dense patch: the nearest vertex belongs to the patch
    const positions = Float32Array.from([-10, 0, 0, 10, 0, 0, 0, -0.1, 0, 0, 1, 0, 0.1, 1, 0, 0, 1.1, 0])
    const closest = closestOnSurface(positions, [0, 1, 2, 3, 4, 5])
    expect(closest.nearest(3, 0.2, 0)).toMatchObject({ triangle: 0 })
    expect(closest.nearest(3, 0.2, 0)!.distance).toBeCloseTo(0.2, 6)
  })
  it('is none of a surface without triangles', () => {
    expect(closestOnSurface(new Float32Array(9), []).nearest(0, 0, 0)).toBeUndefined()
  })
})
