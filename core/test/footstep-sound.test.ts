import { describe, expect, it } from 'vitest'
import { footstepSound, SOUND_RATE, SURFACES } from '../src/trial'

/** How bright a sound is: the energy of its slope beside its own. */
function brightness(s: Float32Array): number {
  let [energy, slope] = [0, 0]
  for (let i = 1; i < s.length; i++) {
    energy += s[i]! ** 2
    slope += (s[i]! - s[i - 1]!) ** 2
  }
  return slope / energy
}

describe('footsteps', () => {
  it('are short, neither clip nor are silent, die away, and are the same for one seed and others for another', () => {
    for (const surface of SURFACES) {
      const s = footstepSound(surface, 3)
      expect(s.length / SOUND_RATE).toBeLessThan(0.5)
      const most = s.reduce((m, v) => Math.max(m, Math.abs(v)), 0)
      expect(most).toBeLessThanOrEqual(0.81)
      expect(most).toBeGreaterThan(0.5)
      expect(Math.abs(s.at(-1)!)).toBeLessThan(1e-3)
      expect(Math.abs(s[0]!)).toBeLessThan(0.05)
      expect(footstepSound(surface, 3)).toEqual(s)
      expect(footstepSound(surface, 4)).not.toEqual(s)
    }
  })
  it('tell what is stepped on: mud is dull, boards are brighter, stone and shingle brighter still', () => {
    const mean = (surface: (typeof SURFACES)[number]): number =>
      [1, 2, 3, 4, 5].reduce((s, seed) => s + brightness(footstepSound(surface, seed)), 0) / 5
    const [planks, mud, shingle, stone] = SURFACES.map(mean) as [number, number, number, number]
    expect(mud).toBeLessThan(planks)
    expect(planks).toBeLessThan(stone)
    expect(planks).toBeLessThan(shingle)
  })
})
