import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  compose,
  dot,
  fromAxisAngle,
  nearestAxis,
  normalize,
  transformPoint,
  vec3At,
  type Mat4,
  type Vec3,
} from '../src/math'
import { boundsOf, transformMesh, type Mesh } from '../src/mesh'
import { applyStraighten, sampleSurface, standingOf, straighten } from '../src/shape'
import { doll } from './figure'
import { box, join } from './shapes'

/** A crude standing figure: two legs with feet to the front, trunk, arms out, head. */
const figure = (): Mesh =>
  join(
    box([0.03, 0.08, -0.06], [0.15, 0.9, 0.06]),
    box([-0.15, 0.08, -0.06], [-0.03, 0.9, 0.06]),
    box([0.03, 0, -0.06], [0.15, 0.1, 0.2]),
    box([-0.15, 0, -0.06], [-0.03, 0.1, 0.2]),
    box([-0.18, 0.85, -0.1], [0.18, 1.45, 0.1]),
    box([0.15, 1.32, -0.05], [0.75, 1.42, 0.05]),
    box([-0.75, 1.32, -0.05], [-0.15, 1.42, 0.05]),
    box([-0.09, 1.43, -0.1], [0.09, 1.75, 0.1]),
  )

/** Where known points of the figure end up after it was moved by `m` and straightened. */
async function back(m: Mat4): Promise<{ crown: Vec3; hand: Vec3; toe: Vec3 }> {
  const s = await straighten(transformMesh(figure(), m))
  const go = (p: Vec3): Vec3 => transformPoint(s.matrix, transformPoint(m, p))
  return { crown: go([0, 1.75, 0]), hand: go([0.75, 1.37, 0]), toe: go([0.09, 0, 0.2]) }
}

describe('straightening', () => {
  it('brings a figure upright, facing +Z, on the ground and the midline, whatever the file did to it', async () => {
    const turn = fc.constantFrom(0, 90, 180, 270, 20, -35)
    const tip = fc.constantFrom<[Vec3, number]>(
      [[1, 0, 0], 0],
      [[1, 0, 0], 90],
      [[1, 0, 0], -90],
      [[1, 0, 0], 180],
      [[0, 0, 1], 90],
    )
    const unit = fc.constantFrom(1, 100, 1000)
    await fc.assert(
      fc.asyncProperty(
        turn,
        tip,
        unit,
        fc.tuple(fc.integer({ min: -3, max: 3 }), fc.integer({ min: -3, max: 3 }), fc.integer({ min: -3, max: 3 })),
        async (degrees, [axis, tipped], u, shift) => {
          const yaw = compose([0, 0, 0], fromAxisAngle([0, 1, 0], (degrees * Math.PI) / 180), [u, u, u])
          const lie = compose(shift.map(v => v * u) as Vec3, fromAxisAngle(axis, (tipped * Math.PI) / 180))
          const m = compose([0, 0, 0], [0, 0, 0, 1])
          for (let c = 0; c < 4; c++)
            for (let r = 0; r < 4; r++)
              m[4 * c + r] =
                lie[r] * yaw[4 * c] +
                lie[4 + r] * yaw[4 * c + 1] +
                lie[8 + r] * yaw[4 * c + 2] +
                lie[12 + r] * yaw[4 * c + 3]
          const p = await back(m)
          expect(p.crown[1]).toBeCloseTo(1.75, 1)
          expect(p.hand[0]).toBeCloseTo(0.75, 1)
          expect(p.toe[1]).toBeCloseTo(0, 1)
          expect(p.toe[2] - p.crown[2]).toBeGreaterThan(0.1)
        },
      ),
      { numRuns: 12 },
    )
  })
  it('does what a person settles instead of what it guesses', async () => {
    const s = await straighten(figure(), { unit: 'cm', facing: '-z' })
    expect(s.height).toBeCloseTo(0.0175, 4)
    expect(s.facing).toBe('-z')
    expect(s.confidence).toMatchObject({ facing: 1, unit: 1 })
    const up = await straighten(figure(), { up: '-y' })
    expect(transformPoint(up.matrix, [0, 1.75, 0])[1]).toBeCloseTo(0, 2)
  })
  it('takes what a format asks to be up as a hint: it settles what shows nothing, and turns nobody who stands', async () => {
    const cube = box([-0.5, -0.5, -0.5], [0.5, 0.5, 0.5])
    const plain = await straighten(cube)
    const hinted = await straighten(cube, { specifiedUp: '+y' })
    expect(hinted.up).toBe('+y')
    expect(hinted.confidence.up).toBeGreaterThan(plain.confidence.up)
    expect(plain.confidence.up).toBeLessThan(0.6)
    const lying = transformMesh(doll(), compose([0, 0, 0], fromAxisAngle([1, 0, 0], Math.PI / 2)))
    expect((await straighten(lying, { specifiedUp: '+y' })).up).toBe('+z')
  })
  it('tells the turn, the ground and the unit it took out', async () => {
    const m = compose([0, 40, 0], fromAxisAngle([0, 1, 0], 0.2), [100, 100, 100])
    const s = await straighten(transformMesh(figure(), m))
    expect(s).toMatchObject({ unit: 'cm', up: '+y' })
    expect(s.turn).toBeCloseTo((0.2 * 180) / Math.PI, 0)
    expect(s.offGround).toBeCloseTo(0.4, 2)
    expect(boundsOf(applyStraighten(transformMesh(figure(), m), s).positions).min[1]).toBeCloseTo(0, 3)
  })
})

describe('the mirror plane', () => {
  it('is found under any turn about the vertical, with how far off the body is', async () => {
    await fc.assert(
      fc.asyncProperty(fc.double({ min: 0, max: Math.PI, noNaN: true }), async angle => {
        const moved = transformMesh(figure(), compose([0.4, 0, -0.7], fromAxisAngle([0, 1, 0], angle)))
        const plane = await standingOf(sampleSurface(moved.positions, moved.indices, 3000))
        const truth = normalize([Math.cos(angle), 0, -Math.sin(angle)])
        expect(Math.abs(dot(plane.lateral, truth))).toBeGreaterThan(0.999)
        expect(plane.error).toBeLessThan(0.012)
      }),
      { numRuns: 8 },
    )
  })
  it('samples lie on the surface, the same each time', () => {
    const b = box([0, 0, 0], [1, 2, 3])
    const s = sampleSurface(b.positions, b.indices, 500)
    expect([...sampleSurface(b.positions, b.indices, 500)]).toEqual([...s])
    for (let i = 0; i < 500; i++) {
      const p = vec3At(s, i)
      const off = Math.min(...p.map((v, k) => Math.min(Math.abs(v), Math.abs(v - [1, 2, 3][k]))))
      expect(off).toBeLessThan(1e-5)
    }
  })
  it('knows the nearest axis by name', () => {
    expect(nearestAxis([0.1, -0.9, 0.2])).toBe('-y')
  })
})

describe('a size and stance told by hand', () => {
  const tower = (): Mesh => doll()
  const heightOf = (m: Mesh): number => {
    const { min, max } = boundsOf(m.positions)
    return max[1] - min[1]
  }
  it('makes a sculpt of two units 180 cm tall, whatever unit was guessed', async () => {
    const mesh = tower()
    const size = 2 / heightOf(mesh)
    const sculpt = { ...mesh, positions: mesh.positions.map(v => v * size) }
    const s = await straighten(sculpt, { height: 1.8, unit: 'cm' })
    expect(s.height).toBeCloseTo(1.8, 5)
    expect(s.scale).toBeCloseTo(0.9, 4)
    expect(heightOf(applyStraighten(sculpt, s))).toBeCloseTo(1.8, 5)
    const free = await straighten(sculpt, { scale: 0.25 })
    expect(free.height).toBeCloseTo(0.5, 5)
    expect(free.confidence.unit).toBe(1)
  })
  it('tilts forwards and leans to its left, and stands on the ground after it', async () => {
    const mesh = tower()
    const plain = applyStraighten(mesh, await straighten(mesh))
    const tilted = applyStraighten(mesh, await straighten(mesh, { tilt: 10 }))
    const leant = applyStraighten(mesh, await straighten(mesh, { lean: 10 }))
    const top = (m: Mesh): number[] => {
      let best = 0
      for (let v = 0; v < m.positions.length / 3; v++)
        if (plain.positions[3 * v + 1] > plain.positions[3 * best + 1]) best = v
      return [...m.positions.subarray(3 * best, 3 * best + 3)]
    }
    expect(top(tilted)[2] - boundsOf(tilted.positions).min[2]).toBeGreaterThan(
      top(plain)[2] - boundsOf(plain.positions).min[2] + 0.1,
    )
    expect(top(leant)[0] - top(plain)[0]).toBeGreaterThan(0.1)
    for (const m of [tilted, leant]) expect(Math.abs(boundsOf(m.positions).min[1])).toBeLessThan(0.004)
  })
})
