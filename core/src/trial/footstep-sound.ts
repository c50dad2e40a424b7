import { seededRandom } from '../math'
import type { Surface } from './quay'

/** Samples a second of what is made. */
export const SOUND_RATE = 44_100

/** What rings: hertz, seconds until it is a third as loud, loudness. */
type Ring = readonly [hertz: number, fades: number, loud: number]
/** A burst of noise: seconds from the beginning, seconds until it is a third as loud, loudness, share of what is new in each sample (1 is white). */
type Burst = readonly [at: number, fades: number, loud: number, bright: number]
interface Recipe {
  readonly rings: readonly Ring[]
  readonly bursts: (next: () => number) => readonly Burst[]
}
const SOUNDS: Readonly<Record<Surface, Recipe>> = {
  // a hollow board, and the boot on it
  planks: {
    rings: [
      [132, 0.06, 0.7],
      [287, 0.035, 0.4],
      [610, 0.018, 0.16],
    ],
    bursts: () => [
      [0, 0.012, 0.5, 0.35],
      [0.045, 0.02, 0.14, 0.2],
    ],
  },
  // pressed in, then let go with a smack
  mud: {
    rings: [[74, 0.05, 0.3]],
    bursts: next => [
      [0, 0.07, 1.5, 0.035],
      [0.11 + 0.03 * next(), 0.03, 0.7, 0.09],
    ],
  },
  // many small stones against each other
  shingle: {
    rings: [],
    bursts: next =>
      Array.from({ length: 22 }, (): Burst => {
        const at = 0.2 * next() ** 1.6
        return [at, 0.003 + 0.006 * next(), 0.55 * (1 - 2.4 * at) * next(), 0.6 + 0.4 * next()]
      }),
  },
  // short and hard
  stone: {
    rings: [
      [940, 0.012, 0.22],
      [1730, 0.008, 0.12],
    ],
    bursts: () => [
      [0, 0.006, 0.6, 0.7],
      [0.03, 0.014, 0.1, 0.4],
    ],
  },
}

/**
 * A footstep on a surface, made of what rings and of bursts of noise through a filter of two poles each.
 * @param seed each step a little other
 * @returns mono, -1 to 1, a third of a second
 */
export function footstepSound(surface: Surface, seed: number): Float32Array {
  const next = seededRandom(seed + 7919 * Object.keys(SOUNDS).indexOf(surface))
  const out = new Float32Array(Math.round(0.34 * SOUND_RATE))
  const { rings, bursts } = SOUNDS[surface]
  for (const [hertz, fades, loud] of rings) {
    const f = hertz * (0.94 + 0.12 * next())
    for (let i = 0; i < out.length; i++) {
      const t = i / SOUND_RATE
      out[i] += loud * Math.exp(-t / fades) * Math.sin(2 * Math.PI * f * t)
    }
  }
  for (const [at, fades, loud, bright] of bursts(next)) {
    let held = 0,
      soft = 0
    // quieter the duller it is: what is taken out is given back
    const gain = loud / Math.sqrt(bright)
    for (let i = Math.round(at * SOUND_RATE), n = 0; i < out.length; i++, n++) {
      held += bright * (2 * next() - 1 - held)
      soft += bright * (held - soft)
      const t = n / SOUND_RATE
      out[i] += gain * Math.min(1, t / 0.001) * Math.exp(-t / fades) * soft
    }
  }
  let most = 0
  for (const v of out) most = Math.max(most, Math.abs(v))
  const ends = Math.round(0.02 * SOUND_RATE)
  for (let i = 0; i < out.length; i++)
    out[i] *= (0.8 / Math.max(most, 1e-9)) * Math.min(1, (out.length - i) / ends, (i + 1) / 40)
  return out
}
