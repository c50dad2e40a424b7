import { describe, expect, it } from 'vitest'
import { fromAxisAngle, type Vec3 } from '../src/math'
import { skeletonFromWorld, worldPose, type Skeleton } from '../src/skeleton'
import { bind, deform, jointWeights } from '../src/skin'
import { box, join, tube } from './shapes'
import { biped } from './skeletons'

/** Bones in a row up the y axis. */
const chain = (...heights: number[]): Skeleton =>
  skeletonFromWorld(
    heights.map((y, j) => ({ name: `b${j}`, parent: j - 1, position: [0, y, 0] as Vec3, rotation: [0, 0, 0, 1] })),
  )
const limb = tube(
  Array.from({ length: 61 }, (_, i) => [0, i / 30, 0]),
  0.15,
  20,
)

describe('automatic weights', () => {
  it('sum to one, fall along the limb, and blend about the joint over about its thickness', async () => {
    const skin = await bind(limb, chain(0, 1))
    const upper = jointWeights(skin, 1)
    for (let v = 0; v < upper.length; v++) {
      let sum = 0
      for (let k = 0; k < 4; k++) sum += skin.weights[4 * v + k]
      expect(sum).toBeCloseTo(1, 5)
    }
    const ring = (i: number): number => upper[20 * i]
    for (let i = 1; i < 61; i++) expect(ring(i)).toBeGreaterThanOrEqual(ring(i - 1) - 0.02)
    expect(ring(30)).toBeGreaterThan(0.35)
    expect(ring(30)).toBeLessThan(0.65)
    expect(ring(15)).toBeLessThan(0.05)
    expect(ring(45)).toBeGreaterThan(0.95)
  })
  it('keep the chosen number of influences, strongest first', async () => {
    const bones = chain(0, 0.4, 0.8, 1.2, 1.6)
    for (const influences of [1, 2, 8]) {
      const skin = await bind(limb, bones, { influences })
      expect(skin.weights.length).toBe((influences * limb.positions.length) / 3)
      for (let v = 0; v < limb.positions.length / 3; v++) {
        for (let k = 1; k < influences; k++)
          expect(skin.weights[v * influences + k]).toBeLessThanOrEqual(skin.weights[v * influences + k - 1])
      }
    }
    await expect(bind(limb, bones, { influences: 9 })).rejects.toMatchObject({ code: 'bad-settings' })
  })
  it('do not cross a gap', async () => {
    const two = join(box([0, 0, 0], [0.3, 2, 0.3]), box([0.33, 0, 0], [0.63, 2, 0.3]))
    const s = skeletonFromWorld([
      { name: 'a', parent: -1, position: [0.15, 0.1, 0.15], rotation: [0, 0, 0, 1], tip: [0.15, 1.9, 0.15] },
      { name: 'b', parent: -1, position: [0.48, 0.1, 0.15], rotation: [0, 0, 0, 1], tip: [0.48, 1.9, 0.15] },
    ])
    const skin = await bind(two, s)
    const a = jointWeights(skin, 0)
    for (let v = 0; v < 8; v++) expect(a[v]).toBe(1)
    for (let v = 8; v < 16; v++) expect(a[v]).toBe(0)
  })
  it('are the same on every run', async () => {
    const s = chain(0, 0.7, 1.4)
    expect(await bind(limb, s)).toEqual(await bind(limb, s))
  })
  it('stop when told to, and refuse a skeleton that lies elsewhere', async () => {
    await expect(bind(limb, chain(100, 101))).rejects.toMatchObject({ code: 'bad-skeleton' })
    const signal = { aborted: true }
    const fine = tube(
      Array.from({ length: 2001 }, (_, i) => [0, i / 1000, 0]),
      0.4,
      48,
    )
    await expect(bind(fine, biped(), { signal, cells: 200 })).rejects.toMatchObject({ code: 'stopped' })
  })
})

describe('bending', () => {
  it('leaves the body alone at rest and turns a whole limb with its joint', async () => {
    const s = chain(0, 1)
    const skin = await bind(limb, s)
    const rest = deform(limb.positions, s, skin, worldPose(s))
    for (let i = 0; i < rest.length; i++) expect(rest[i]).toBeCloseTo(limb.positions[i], 5)
    const rotations = s.restRotations.slice()
    rotations.set(fromAxisAngle([0, 0, 1], Math.PI / 2), 4)
    const bent = deform(limb.positions, s, skin, worldPose(s, s.restTranslations, rotations))
    const top = bent.length - 3
    expect(bent[top]).toBeCloseTo(-1, 2)
    expect(bent[top + 1]).toBeCloseTo(1, 2)
    expect(bent[0]).toBeCloseTo(limb.positions[0], 3)
  })
})
