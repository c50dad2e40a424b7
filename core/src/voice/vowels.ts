import { breather, maxOf, type WorkOptions } from '../math'
import { MOST, RINGS, type Hearing } from './hear'

/** The five vowels of the open expression standard: a, i, u, e, o. */
export const VOWELS = ['aa', 'ih', 'ou', 'ee', 'oh'] as const
export type Vowel = (typeof VOWELS)[number]

/**
 * Where the formants of each vowel lie as men speak it, Hz: the first, the second and the third. Each vowel is a region, evenly
 * filled, so that where two meet neither is preferred.
 * Sources: Peterson and Barney, Control methods used in a study of the vowels, 1952; Hillenbrand, Getty, Clark and Wheeler, Acoustic
 * characteristics of American English vowels, 1995; for languages of five vowels the triangle of Liljencrants and Lindblom 1972.
 */
const SPOKEN: readonly (readonly [Vowel, readonly number[], readonly number[], readonly number[]])[] = [
  ['ih', [270, 320, 370], [2050, 2200, 2350], [2600, 3000]],
  ['ee', [440, 510, 590], [1750, 1900, 2080], [2450, 2700]],
  ['aa', [640, 710, 780], [1100, 1250, 1420, 1650], [2400, 2600]],
  ['oh', [440, 510, 600], [800, 920, 1050], [2350, 2550]],
  ['ou', [270, 320, 370], [760, 920, 1100, 1300], [2250, 2500]],
]
/** Formants above those, Hz, and how wide each rings. */
const UPPER = [3500, 4500]
const WIDTHS = [70, 90, 120, 180, 250]
/** Lengths of vocal tracts against a man's, as factors on frequencies. */
const TRACTS = Array.from({ length: 15 }, (_, i) => 0.8 + 0.05 * i)
/** Step of the tables of envelopes, Hz. */
const STEP = 20
const REACH = 300
/** A voice falls off by this many dB an octave, give or take. */
const TILT = [-7, 4] as const
/** How far levels lie off a model, dB, and as how many tellings of their own they count. */
const SPREAD = 6
const WORTH = 8

interface Model {
  readonly vowel: number
  /** dB at multiples of `STEP`. */
  readonly envelope: Float32Array
}

/** What a tract lets through at a frequency, dB: poles in a row, each 1 at rest (Fant, Acoustic theory of speech production, 1960). */
function through(f: number, formants: readonly number[]): number {
  let power = 1
  formants.forEach((F, i) => {
    const b = (WIDTHS[i] / 2) ** 2
    power *= (F * F + b) ** 2 / (((f - F) ** 2 + b) * ((f + F) ** 2 + b))
  })
  return 10 * Math.log10(power)
}

let made: readonly Model[] | undefined
function models(): readonly Model[] {
  made ??= SPOKEN.flatMap(([vowel, first, second, third]) =>
    first.flatMap(f1 =>
      second.flatMap(f2 =>
        third.map((f3): Model => ({
          vowel: VOWELS.indexOf(vowel),
          envelope: Float32Array.from({ length: REACH }, (_, i) => through(i * STEP, [f1, f2, f3, ...UPPER])),
        })),
      ),
    ),
  )
  return made
}

/**
 * How well a moment fits a model, as a logarithm: the strength of its harmonics against the model's envelope, a level and a
 * slope left free, so that neither loudness nor the microphone tells a vowel.
 * Source: Hillenbrand and Houde, A narrow band pattern-matching model of vowel perception, 2003.
 */
function fit(
  { counts, places, levels, clear }: Hearing,
  { weights, octaves }: Weighed,
  m: number,
  model: Model,
  tract: number,
): number {
  const n = counts[m]
  // level and slope by least squares, the slope held to what is usual
  let s = 0
  let sx = 0
  let sxx = 0
  let sy = 0
  let sxy = 0
  for (let i = m * MOST, end = i + n; i < end; i++) {
    const w = weights[i]
    const x = octaves[i]
    const y = levels[i] - at(model.envelope, places[i] / tract)
    off[i - m * MOST] = y
    if (clear[i] < CLEAR) continue
    s += w
    sx += w * x
    sxx += w * x * x
    sy += w * y
    sxy += w * x * y
  }
  if (s === 0) return 0
  const held = (s * (SPREAD / TILT[1]) ** 2) / WORTH
  const slope = (sxy - (sx * sy) / s + held * TILT[0]) / (sxx - (sx * sx) / s + held)
  const level = (sy - slope * sx) / s
  let sum = 0
  let all = 0
  for (let i = m * MOST, end = i + n; i < end; i++) {
    const w = weights[i]
    all += w
    const r = off[i - m * MOST] - level - slope * octaves[i]
    // what drowns in the noise tells only that it is no louder
    if (clear[i] < CLEAR && r > 0) continue
    // what is far off tells little more than what is off
    sum += w * Math.min(r * r, 400)
  }
  return (-WORTH * (sum / all + (held / all) * (slope - TILT[0]) ** 2)) / (2 * SPREAD * SPREAD)
}
const off = new Float64Array(MOST)
/** What stands out less of the noise than this is drowned in it. */
const CLEAR = 0.3

function at(envelope: Float32Array, f: number): number {
  const p = f / STEP
  const i = Math.min(REACH - 2, Math.floor(p))
  return envelope[i] + (envelope[i + 1] - envelope[i]) * (Math.min(p, REACH - 1) - i)
}

interface Weighed {
  readonly weights: Float32Array
  /** Above 500 Hz. */
  readonly octaves: Float32Array
}

/** How much each harmonic tells: more where ears are finer, and peaks more than what lies between them. */
function weigh({ moments, counts, places, levels }: Hearing): Weighed {
  const weights = new Float32Array(levels.length)
  const octaves = Float32Array.from(places, f => (f > 0 ? Math.log2(f / 500) : 0))
  for (let m = 0; m < moments; m++) {
    let most = -Infinity
    for (let i = m * MOST; i < m * MOST + counts[m]; i++) most = Math.max(most, tilted(levels[i], places[i]))
    for (let i = m * MOST; i < m * MOST + counts[m]; i++) {
      const below = most - tilted(levels[i], places[i])
      weights[i] = Math.max(0.2, 1 - below / 50) * (1000 / (700 + places[i]))
    }
  }
  return { weights, octaves }
}
const tilted = (level: number, f: number): number => level + 6 * Math.log2(f / 500)

/** How well each moment of a voice fits each vowel. */
export interface HeardVowels {
  /** 5 a moment, natural logarithms. */
  readonly fits: Float32Array
  /** Frequencies of the speaker's tract against a man's. */
  readonly tract: number
}

/**
 * Hears the vowels of a voice. The length of the speaker's tract is found first, as the one with which all of what is said fits
 * best, held to what is usual at that pitch (after Lee and Rose, A frequency warping approach to speaker normalization, 1998).
 */
export async function hearVowels(hearing: Hearing, work: WorkOptions = {}): Promise<HeardVowels> {
  const pulse = breather(work)
  const all = models()
  const { moments, voiced, loud, pitch } = hearing
  const weighed = weigh(hearing)
  const ringing = Array.from({ length: moments }, (_, m) => m).filter(m => voiced[m] >= RINGS)
  const loudest = maxOf(ringing.map(m => loud[2 * m]))
  const telling = ringing.filter(m => loud[2 * m] > loudest - 15)
  const few = telling.filter((_, i) => i % Math.ceil(telling.length / 240) === 0)
  const votes = new Float64Array(TRACTS.length)
  for (const m of few) {
    await pulse()
    TRACTS.forEach((tract, t) => {
      let best = -Infinity
      for (const model of all) best = Math.max(best, fit(hearing, weighed, m, model, tract))
      votes[t] += best
    })
  }
  const pitches = telling.map(m => pitch[m]).sort((a, b) => a - b)
  const middle = pitches[pitches.length >> 1] ?? 150
  // women speak an octave above men with tracts a sixth shorter; children higher and shorter still
  const usual = Math.min(1.4, Math.max(0.9, 1 + 0.18 * Math.log2(middle / 120)))
  let chosen = TRACTS.indexOf(1)
  let most = -Infinity
  TRACTS.forEach((tract, t) => {
    const judged = votes[t] / Math.max(1, few.length) - 0.5 * ((tract - usual) / 0.12) ** 2 * TRACT_WEIGHT
    if (judged > most) {
      most = judged
      chosen = t
    }
  })
  const fits = new Float32Array(moments * VOWELS.length).fill(-Infinity)
  for (let m = 0; m < moments; m++) {
    await pulse(m / moments)
    for (const near of [-1, 0, 1]) {
      const tract = TRACTS[chosen + near]
      if (tract === undefined) continue
      for (const model of all) {
        const i = m * VOWELS.length + model.vowel
        fits[i] = Math.max(fits[i], fit(hearing, weighed, m, model, tract) - (near === 0 ? 0 : NEAR))
      }
    }
  }
  return { fits, tract: TRACTS[chosen] }
}
/** What speaks against a tract a little off the one that was found, natural logarithm. */
const NEAR = 0.5
/** How much what is usual speaks beside the mean of what was heard. */
const TRACT_WEIGHT = 0.15
