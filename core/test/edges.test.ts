import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { maxOf, minOf } from '../src/math'
import { forEachEdge, weldByPosition, weldedIndices, weldedPositions } from '../src/mesh'
import { checkBody, findHalf } from '../src/shape'
import { limitedShare, limitInfluences, LEAST_WEIGHT } from '../src/skin'
import { box } from './shapes'

const faces = fc
  .array(fc.tuple(fc.nat(11), fc.nat(11), fc.nat(11)), { maxLength: 40 })
  .map(list => list.filter(([a, b, c]) => a !== b && b !== c && c !== a))

describe('edges', () => {
  it('are each told once, with the faces on either side, in order', async () => {
    await fc.assert(
      fc.asyncProperty(faces, async list => {
        const expected = new Map<string, [number, number]>()
        for (const [a, b, c] of list)
          for (const [from, to] of [
            [a, b],
            [b, c],
            [c, a],
          ]) {
            const key = `${Math.min(from, to)} ${Math.max(from, to)}`
            const counts = expected.get(key) ?? [0, 0]
            counts[from < to ? 0 : 1]++
            expected.set(key, counts)
          }
        const seen: string[] = []
        let last = -1
        await forEachEdge(12, list.flat(), (low, high, forward, back) => {
          expect(low * 12 + high).toBeGreaterThan(last)
          last = low * 12 + high
          seen.push(`${low} ${high}`)
          expect([forward, back]).toEqual(expected.get(`${low} ${high}`))
        })
        expect(seen.sort()).toEqual([...expected.keys()].sort())
      }),
    )
  })
  it('of faces that do not count are left out', async () => {
    let edges = 0
    await forEachEdge(4, [0, 1, 2, 1, 3, 2], () => edges++, { takes: [1, 0] })
    expect(edges).toBe(3)
  })
  it('of a closed box are all shared; of an open one the rim is told', async () => {
    const whole = box([0, 0, 0], [1, 2, 1])
    expect(await checkBody(whole)).toMatchObject({ openEdges: 0, holes: 0, flipped: 0, crowded: 0 })
    const open = { ...whole, indices: whole.indices.slice(6) }
    const check = await checkBody(open)
    expect(check.holes).toBe(1)
    expect(check.openEdges).toBeGreaterThan(2)
    expect(await findHalf(whole)).toBeUndefined()
  })
  it('are found over welded vertices as over those that are one', async () => {
    const mesh = box([0, 0, 0], [1, 2, 1])
    const positions = new Float32Array(3 * mesh.indices.length)
    mesh.indices.forEach((v, i) => positions.set(mesh.positions.subarray(3 * v, 3 * v + 3), 3 * i))
    const weld = weldByPosition(positions)
    const loose = Uint32Array.from({ length: mesh.indices.length }, (_, i) => i)
    let shared = 0
    await forEachEdge(weld.first.length, weldedIndices(loose, weld), (_, __, forward, back) => {
      if (forward === 1 && back === 1) shared++
    })
    let before = 0
    await forEachEdge(mesh.positions.length / 3, mesh.indices, (_, __, forward, back) => {
      if (forward === 1 && back === 1) before++
    })
    expect(shared).toBeGreaterThanOrEqual(before)
    expect(weldedPositions(positions, weld).length).toBe(3 * weld.first.length)
  })
})

describe('largest and smallest', () => {
  it('are found of any number of values, as by the library of few', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ noNaN: true }), { minLength: 1, maxLength: 50 }), list => {
        expect(maxOf(list)).toBe(list.reduce((a, b) => (b > a ? b : a)))
        expect(minOf(list)).toBe(list.reduce((a, b) => (b < a ? b : a)))
        expect(maxOf(list, 1e9)).toBe(Math.max(1e9, maxOf(list)))
      }),
    )
    expect(maxOf(new Float32Array(2_000_000).fill(1), 0)).toBe(1)
    expect([maxOf([]), minOf([]), maxOf([], 3)]).toEqual([-Infinity, Infinity, 3])
    expect(maxOf([1, NaN, 2])).toBeNaN()
  })
})

describe('a share at one vertex', () => {
  it('is what the whole skin gives once its influences are limited', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(9), fc.double({ min: 0, max: 1, noNaN: true })), { minLength: 8, maxLength: 8 }),
        fc.integer({ min: 1, max: 8 }),
        (row, most) => {
          const joints = Uint16Array.from(row, ([j], i) => (row.findIndex(([o]) => o === j) === i ? j : 10 + i))
          const sum = row.reduce((s, [, w]) => s + w, 0) || 1
          const skin = { influences: 8, joints, weights: Float32Array.from(row, ([, w]) => w / sum) }
          const limited = limitInfluences(skin, most, LEAST_WEIGHT)
          for (const joint of joints) {
            let share = 0
            limited.joints.forEach((j, i) => {
              if (j === joint) share += limited.weights[i]!
            })
            expect(limitedShare(skin, 0, joint, most)).toBeCloseTo(share, 6)
          }
        },
      ),
    )
  })
})
