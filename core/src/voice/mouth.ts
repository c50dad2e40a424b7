import type { Said } from './said'
import { VOWELS, type Vowel } from './vowels'

/** How a mouth moves to what is said. */
export interface MouthOptions {
  /** Values a second. Default 60. */
  readonly fps?: number
  /** How far the mouth goes ahead of the sound, seconds. Default 0.02. */
  readonly lead?: number
  /** How long it takes from one shape to the next, seconds. Default 0.1. */
  readonly blend?: number
}
export const MOUTH_DEFAULTS = { fps: 60, lead: 0.02, blend: 0.1 } as const

/** Mouth shapes over time: for each vowel how strongly it shows, 0..1, at even steps. */
export interface MouthCurves {
  readonly fps: number
  readonly frames: number
  readonly shapes: Readonly<Record<Vowel, Float32Array>>
}

/** What a mouth that breathes out shows: teeth, a little open. */
const BREATH: Partial<Record<Vowel, number>> = { ih: 0.3 }

/**
 * Mouth shapes over time. Each stretch rules with a bell that reaches into its neighbours, so that shapes mix as speech does
 * (after Cohen and Massaro, Modeling coarticulation in synthetic visual speech, 1993); closed lips are closed for all of their
 * stretch, however short it is.
 * @param seconds how long the sound lasts
 */
export function mouthCurves(said: readonly Said[], seconds: number, options: MouthOptions = {}): MouthCurves {
  const { fps = MOUTH_DEFAULTS.fps, lead = MOUTH_DEFAULTS.lead, blend = MOUTH_DEFAULTS.blend } = options
  const frames = Math.max(1, Math.round(seconds * fps) + 1)
  const shapes = Object.fromEntries(VOWELS.map(v => [v, new Float32Array(frames)])) as Record<Vowel, Float32Array>
  const half = blend / 2
  // the share of a bell around a moment that lies before `t`
  const before = (t: number): number => {
    const x = Math.min(1, Math.max(-1, t / half))
    return 0.5 + 0.5 * x + Math.sin(Math.PI * x) / (2 * Math.PI)
  }
  let first = 0
  for (let f = 0; f < frames; f++) {
    const at = f / fps + lead
    while (first < said.length && said[first].to < at - half) first++
    let open = 1
    for (let i = first; i < said.length && said[i].from <= at + half; i++) {
      const { from, to, shape, strength } = said[i]
      const share = half > 0 ? before(to - at) - before(from - at) : Number(from <= at && at < to)
      if (shape === 'closed') {
        const away = Math.max(0, from - at, at - to)
        open = Math.min(open, half > 0 ? Math.min(1, away / half) : Number(away > 0))
      } else if (shape === 'breath') for (const v of VOWELS) shapes[v][f] += share * strength * (BREATH[v] ?? 0)
      else if (shape !== 'rest') shapes[shape][f] += share * strength
    }
    for (const v of VOWELS) shapes[v][f] *= open
  }
  return { fps, frames, shapes }
}
