import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { KERNELS, moduleOf } from '../../scripts/kernels'
import { blendPlainly, blendSkin, sortInfluences, type Skin } from '../src/skin'

/** A skin, positions and matrices made of numbers from a seed, some places of the skin unused. */
function made(seed: number, vertices: number, influences: number, count: number): [Float32Array, Skin, Float32Array] {
  let state = seed >>> 0 || 1
  const next = (): number => (state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32
  const positions = Float32Array.from({ length: 3 * vertices }, () => 2 * next() - 1)
  const weights = Float32Array.from({ length: influences * vertices }, () => (next() < 0.4 ? 0 : next()))
  const joints = Uint16Array.from({ length: influences * vertices }, () => Math.floor(count * next()))
  const skin = { influences, joints, weights }
  sortInfluences(skin)
  return [positions, skin, Float32Array.from({ length: 12 * count }, () => 4 * next() - 2)]
}

describe('the kernel that poses bodies', () => {
  it('gives to the bit what plain arithmetic in single precision gives, for any size and number of influences', () => {
    fc.assert(
      fc.property(
        fc.integer(),
        fc.constantFrom(0, 1, 3, 2047, 2048, 2049, 5000),
        fc.integer({ min: 1, max: 8 }),
        fc.integer({ min: 1, max: 300 }),
        (seed, vertices, influences, count) => {
          const [positions, skin, matrices] = made(seed, vertices, influences, count)
          expect(blendSkin(positions, skin, matrices)).toEqual(blendPlainly(positions, skin, matrices))
        },
      ),
      { numRuns: 40 },
    )
  })
  it('grows for two thousand joints, and goes on with few', () => {
    const [positions, skin, matrices] = made(7, 4000, 4, 2000)
    expect(blendSkin(positions, skin, matrices)).toEqual(blendPlainly(positions, skin, matrices))
    const [few, of, two] = made(8, 10, 2, 2)
    expect(blendSkin(few, of, two)).toEqual(blendPlainly(few, of, two))
  })
  it('lets no joint in that a vertex does not use, even one that is nowhere', () => {
    const matrices = new Float32Array(24).fill(NaN)
    matrices.set([1, 0, 0, 5, 0, 1, 0, 6, 0, 0, 1, 7])
    const skin = { influences: 2, joints: Uint16Array.of(0, 1), weights: Float32Array.of(1, 0) }
    expect([...blendSkin(Float32Array.of(1, 2, 3), skin, matrices)]).toEqual([6, 8, 10])
  })
  it('is what its text says', async () => {
    for (const { text, module } of KERNELS) expect(readFileSync(module, 'utf8')).toBe(await moduleOf(text))
  })
})
