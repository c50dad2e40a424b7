import { slerpAt } from '../math'
import type { Take } from './take'

/**
 * Two takes of one length on one skeleton mixed frame by frame: turns on the shorter way, places straight.
 * @param weights N, how far each frame is the second take's, 0..1; where it is 0 or 1 the frame is one of theirs, bit for bit
 */
export function blendTakes(first: Take, second: Take, weights: ArrayLike<number>): Take {
  const J = first.rotations.length / (4 * first.frames)
  const rotations = first.rotations.slice(),
    translations = first.translations.slice()
  for (let f = 0; f < first.frames; f++) {
    const w = weights[f]
    if (w <= 0) continue
    const r = 4 * J * f,
      t = 3 * J * f
    if (w >= 1) {
      rotations.set(second.rotations.subarray(r, r + 4 * J), r)
      translations.set(second.translations.subarray(t, t + 3 * J), t)
      continue
    }
    for (let i = r; i < r + 4 * J; i += 4)
      // what is alike stays as it is, to the bit
      if (differs(first.rotations, second.rotations, i))
        slerpAt(rotations, i, first.rotations, i, second.rotations, i, w)
    for (let i = t; i < t + 3 * J; i++) translations[i] += w * (second.translations[i] - translations[i])
  }
  return { ...first, rotations, translations }
}

const differs = (a: Float32Array, b: Float32Array, i: number): boolean =>
  a[i] !== b[i] || a[i + 1] !== b[i + 1] || a[i + 2] !== b[i + 2] || a[i + 3] !== b[i + 3]
