import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  angleOf,
  breather,
  compose,
  composeAt,
  multiplyAffineAt,
  rotationOfAt,
  conjugate,
  cross,
  decompose,
  dot,
  fromAxes,
  fromAxisAngle,
  fromDirections,
  fromEuler,
  fromTo,
  invertAffine,
  length,
  multiply,
  multiplyMat4,
  normalize,
  normalizeQuat,
  rotate,
  seededRandom,
  slerp,
  symmetricEigen,
  toEuler,
  type EulerOrder,
  transformPoint,
  type Quat,
  type Vec3,
  ChiraxisError,
} from '../src/math'

const coordinate = fc.double({ min: -10, max: 10, noNaN: true })
const vec = fc.tuple(coordinate, coordinate, coordinate) as fc.Arbitrary<Vec3>
const direction = vec.filter(v => length(v) > 0.1).map(v => normalize(v))
const quat = fc.tuple(direction, fc.double({ min: -3.1, max: 3.1, noNaN: true })).map(([a, t]) => fromAxisAngle(a, t))

describe('rotations', () => {
  it('keep lengths and angles', () => {
    fc.assert(
      fc.property(quat, vec, vec, (q, a, b) => {
        expect(length(rotate(q, a))).toBeCloseTo(length(a), 9)
        expect(dot(rotate(q, a), rotate(q, b))).toBeCloseTo(dot(a, b), 8)
      }),
    )
  })
  it('compose in the order of their product', () => {
    fc.assert(
      fc.property(quat, quat, vec, (a, b, v) => {
        const once = rotate(multiply(a, b), v)
        const twice = rotate(a, rotate(b, v))
        for (let k = 0; k < 3; k++) expect(once[k]).toBeCloseTo(twice[k], 8)
      }),
    )
  })
  it('are undone by their conjugate', () => {
    fc.assert(
      fc.property(quat, q => {
        expect(angleOf(multiply(q, conjugate(q)))).toBeLessThan(1e-7)
      }),
    )
  })
  it('carry one direction onto another by the shortest way', () => {
    fc.assert(
      fc.property(direction, direction, (a, b) => {
        const q = fromTo(a, b)
        const r = rotate(q, a)
        for (let k = 0; k < 3; k++) expect(r[k]).toBeCloseTo(b[k], 5)
        expect(angleOf(q)).toBeLessThanOrEqual(Math.acos(Math.max(-1, Math.min(1, dot(a, b)))) + 2e-3)
      }),
    )
    expect(rotate(fromTo([0, 1, 0], [0, -1, 0]), [0, 1, 0])[1]).toBeCloseTo(-1)
  })
  const orders = fc.constantFrom<EulerOrder>('XYZ', 'XZY', 'YXZ', 'YZX', 'ZXY', 'ZYX')
  it('come back from angles in every order, right angles too', () => {
    const right = fc.constantFrom(-Math.PI / 2, 0, Math.PI / 2)
    fc.assert(
      fc.property(quat, orders, (q, order) => {
        expect(angleOf(fromEuler(...toEuler(q, order), order), q)).toBeLessThan(1e-4)
      }),
    )
    fc.assert(
      fc.property(right, right, right, orders, (x, y, z, order) => {
        const q = fromEuler(x, y, z, order)
        expect(angleOf(fromEuler(...toEuler(q, order), order), q)).toBeLessThan(1e-3)
      }),
    )
  })
  it('come back from their axes, and keep the first direction exactly', () => {
    fc.assert(
      fc.property(quat, direction, direction, (q, y, hint) => {
        const back = fromAxes(rotate(q, [1, 0, 0]), rotate(q, [0, 1, 0]), rotate(q, [0, 0, 1]))
        expect(angleOf(back, q)).toBeLessThan(1e-6)
        const along = rotate(fromDirections(y, hint), [0, 1, 0])
        for (let k = 0; k < 3; k++) expect(along[k]).toBeCloseTo(y[k], 6)
      }),
    )
  })
  it('turn evenly between two orientations', () => {
    fc.assert(
      fc.property(quat, quat, fc.double({ min: 0, max: 1, noNaN: true }), (a, b, t) => {
        const whole = angleOf(a, b)
        expect(angleOf(a, normalizeQuat(slerp(a, b, t)))).toBeCloseTo(t * whole, 3)
      }),
    )
  })
})

describe('matrices', () => {
  it('take apart what they were composed of', () => {
    fc.assert(
      fc.property(vec, quat, (t, q) => {
        const d = decompose(compose(t, q, [2, 2, 2]))
        for (let k = 0; k < 3; k++) expect(d.translation[k]).toBeCloseTo(t[k], 9)
        expect(angleOf(d.rotation, q)).toBeLessThan(1e-6)
        expect(d.scale[0]).toBeCloseTo(2, 9)
      }),
    )
  })
  it('are undone by their inverse', () => {
    fc.assert(
      fc.property(vec, quat, vec, (t, q, p) => {
        const m = compose(t, q, [1.5, 0.5, 2])
        const back = transformPoint(multiplyMat4(invertAffine(m)!, m), p)
        for (let k = 0; k < 3; k++) expect(back[k]).toBeCloseTo(p[k], 7)
      }),
    )
    expect(invertAffine(compose([0, 0, 0], [0, 0, 0, 1] as Quat, [1, 0, 1]))).toBeUndefined()
  })
  it('find the axes of a symmetric one in falling order', () => {
    const { values, vectors } = symmetricEigen([2, 0, 0, 5, 0, 1])
    expect(values.map(v => Math.round(v * 1e6) / 1e6)).toEqual([5, 2, 1])
    expect(Math.abs(vectors[0][1])).toBeCloseTo(1)
    expect(Math.abs(dot(cross(vectors[0], vectors[1]), vectors[2]))).toBeCloseTo(1)
  })
})

describe('seeded numbers', () => {
  it('repeat and stay in range', () => {
    const a = seededRandom(7),
      b = seededRandom(7),
      c = seededRandom(8)
    const first = Array.from({ length: 50 }, () => a())
    expect(Array.from({ length: 50 }, () => b())).toEqual(first)
    expect(Array.from({ length: 50 }, () => c())).not.toEqual(first)
    expect(first.every(v => v >= 0 && v < 1)).toBe(true)
  })
})

describe('long work', () => {
  it('stops within 100 ms of being told to, and reports progress', async () => {
    const signal = { aborted: false }
    const shares: number[] = []
    const pulse = breather({ signal, onProgress: s => shares.push(s) })
    let stoppedAt = 0
    setTimeout(() => {
      signal.aborted = true
      stoppedAt = performance.now()
    }, 60)
    const work = (async () => {
      for (let i = 0; i < 1e9; i++) {
        const end = performance.now() + 1
        while (performance.now() < end) {
          /* busy */
        }
        await pulse(i / 1e4)
      }
    })()
    await expect(work).rejects.toMatchObject({ code: 'stopped' })
    expect(performance.now() - stoppedAt).toBeLessThan(100)
    expect(shares.length).toBeGreaterThan(0)
    expect(new ChiraxisError('stopped', 'x')).toBeInstanceOf(Error)
  })
})

describe('matrices in flat arrays', () => {
  const number = fc.double({ min: -3, max: 3, noNaN: true })
  const turned = fc
    .tuple(number, number, number, number)
    .filter(q => Math.hypot(...q) > 0.1)
    .map(q => q.map(v => v / Math.hypot(...q)) as Quat)
  const scales = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 3, noNaN: true }))) as fc.Arbitrary<Vec3>
  it('give what single ones give: put together, multiplied, taken apart', () => {
    fc.assert(
      fc.property(
        fc.tuple(number, number, number),
        turned,
        scales,
        turned,
        scales,
        fc.boolean(),
        (t, q, s, r, u, mirrored) => {
          const side: Vec3 = mirrored ? [-s[0], s[1], s[2]] : s
          const flat = new Float64Array(48)
          composeAt(flat, 0, t, 0, q, 0, side, 0)
          composeAt(flat, 16, t, 0, r, 0, u, 0)
          multiplyAffineAt(flat, 32, flat, 0, flat, 16)
          const [a, b] = [compose(t, q, side), compose(t, r, u)]
          const whole = multiplyMat4(a, b)
          for (let i = 0; i < 16; i++) {
            expect(flat[i]).toBeCloseTo(a[i], 10)
            expect(flat[32 + i]).toBeCloseTo(whole[i], 9)
          }
          const out = new Float64Array(4)
          rotationOfAt(out, 0, flat, 32)
          expect(angleOf(multiply(conjugate(decompose(whole).rotation), [...out] as Quat))).toBeLessThan(1e-6)
        },
      ),
    )
  })
})
