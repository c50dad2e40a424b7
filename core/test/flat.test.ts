import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  conjugate,
  multiply,
  rotate,
  rotateAt,
  rotateBackAt,
  slerp,
  slerpAt,
  timesAt,
  type Quat,
  type Vec3,
} from '../src/math'

const number = fc.double({ min: -4, max: 4, noNaN: true })
const quat = fc
  .tuple(number, number, number, number)
  .filter(q => Math.hypot(...q) > 0.05)
  .map(q => q.map(v => v / Math.hypot(...q)) as Quat)
const vec = fc.tuple(number, number, number) as fc.Arbitrary<Vec3>
const offset = fc.integer({ min: 0, max: 5 })
const close = (a: ArrayLike<number>, at: number, b: ArrayLike<number>): void => {
  for (let k = 0; k < b.length; k++) expect(a[at + k]).toBeCloseTo(b[k], 9)
}
/** Values laid down somewhere in a larger array, with others around them. */
const within = (values: readonly number[], at: number): Float64Array => {
  const out = new Float64Array(values.length + 10).fill(7.5)
  out.set(values, at)
  return out
}
const untouched = (out: Float64Array, at: number, size: number): void =>
  out.forEach((v, i) => {
    if (i < at || i >= at + size) expect(v).toBe(7.5)
  })

describe('turns in flat arrays', () => {
  it('are multiplied as single ones are, wherever they lie, and nothing beside them is touched', () => {
    fc.assert(
      fc.property(quat, quat, offset, offset, offset, (a, b, i, j, k) => {
        const out = within([0, 0, 0, 0], k)
        timesAt(out, k, within(a, i), i, within(b, j), j)
        close(out, k, multiply(a, b))
        untouched(out, k, 4)
        // in place
        const own = within(a, i)
        timesAt(own, i, own, i, within(b, j), j)
        close(own, i, multiply(a, b))
      }),
    )
  })
  it('turn points there and back again', () => {
    fc.assert(
      fc.property(quat, vec, offset, offset, (q, p, i, k) => {
        const out = within([0, 0, 0], k)
        rotateAt(out, k, within(q, i), i, p[0], p[1], p[2])
        close(out, k, rotate(q, p))
        untouched(out, k, 3)
        rotateBackAt(out, k, within(q, i), i, out[k], out[k + 1], out[k + 2])
        close(out, k, p)
        close(within([...rotate(conjugate(q), p)], k), k, rotate(conjugate(q), p))
      }),
    )
  })
  it('are blended on the shorter way, at an even pace, with both ends as they are', () => {
    fc.assert(
      fc.property(quat, quat, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        const out = new Float64Array(4)
        slerpAt(out, 0, a as unknown as Float64Array, 0, b as unknown as Float64Array, 0, t)
        const apart = (x: ArrayLike<number>, y: Quat): number =>
          angleOf(multiply([x[0], x[1], x[2], x[3]], conjugate(y)))
        expect(apart(out, slerp(a, b, t))).toBeLessThan(1e-5)
        expect(Math.hypot(...out)).toBeCloseTo(1, 6)
        const whole = apart(a, b)
        expect(whole).toBeLessThanOrEqual(Math.PI + 1e-9)
        expect(apart(out, a)).toBeCloseTo(t * whole, 2)
      }),
    )
  })
})
