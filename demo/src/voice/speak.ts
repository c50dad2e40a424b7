import { seededNormal } from '@chiraxis/core/math'
import type { Said, Sound, Vowel } from '@chiraxis/core/voice'

/**
 * Formants of five vowels, Hz (men of Madrid: Bradlow, A comparative acoustic study of English and Spanish vowels, 1995). Not the
 * tables that listening is built on.
 */
const FORMANTS: Readonly<Record<Vowel, readonly [number, number]>> = {
  ih: [286, 2147],
  ee: [458, 1814],
  aa: [638, 1353],
  oh: [460, 1019],
  ou: [322, 992],
}
const WIDTHS = [60, 80, 130, 200]

/** One sound of a line: a vowel, lips shut in silence or with the voice going on, breath, or a pause. */
export interface Phone {
  readonly what: Vowel | 'p' | 'm' | 's' | 'pause'
  readonly seconds: number
  /** 0..1 */
  readonly loud?: number
}

/** How a line is spoken. */
export interface Speaker {
  /** Hz, at the beginning and at the end of a line. */
  readonly pitch: readonly [number, number]
  /** Frequencies of the tract against a man's. */
  readonly tract: number
  readonly rate: number
  /** How far the noise lies below the voice, dB. */
  readonly quiet: number
  /** How fast the folds close: larger is brighter, 0..1. */
  readonly bright: number
  readonly seed: number
}
export const SPEAKER: Speaker = { pitch: [140, 105], tract: 1, rate: 16_000, quiet: 40, bright: 0.5, seed: 1 }

/** How long a tract takes from one vowel to the next, seconds. */
const GLIDE = 0.05

/**
 * Speaks a line: pulses of the vocal folds and noise through resonators in a row, their frequencies gliding from sound to sound.
 * Source: Klatt, Software for a cascade/parallel formant synthesizer, 1980; pulses after Rosenberg 1971.
 * @returns the sound, and what the mouth did when
 */
export function speak(line: readonly Phone[], speaker: Speaker): { readonly sound: Sound; readonly said: Said[] } {
  const { rate, tract, pitch, quiet, bright } = speaker
  const normal = seededNormal(speaker.seed)
  const said: Said[] = []
  let seconds = 0
  for (const { what, seconds: long, loud = 1 } of line) {
    const shape = what === 'p' || what === 'm' ? 'closed' : what === 's' ? 'breath' : what === 'pause' ? 'rest' : what
    said.push({ from: seconds, to: seconds + long, shape, strength: what === 'pause' ? 0 : loud })
    seconds += long
  }
  const N = Math.round(seconds * rate)
  const samples = new Float32Array(N)
  const breaths = new Float32Array(N)
  const memory = WIDTHS.map(() => [0, 0])
  const nearest = (i: number, step: number): readonly [number, number] => {
    for (let k = i; k >= 0 && k < line.length; k += step) {
      const formants = FORMANTS[line[k].what as Vowel]
      if (formants) return formants
    }
    return [500, 1500]
  }
  let phase = 0
  let hiss = 0
  let i = 0
  let pulse = 0
  let voice = 0
  let breath = 0
  let power = 0
  let spoken = 0
  for (let n = 0; n < N; n++) {
    const t = n / rate
    while (i < line.length - 1 && t >= said[i].to) i++
    const { what, loud = 1 } = line[i]
    const isVowel = what in FORMANTS
    // glide between neighbours around where they meet
    const here = isVowel ? FORMANTS[what as Vowel] : nearest(i, t < (said[i].from + said[i].to) / 2 ? -1 : 1)
    const back = said[i].from + GLIDE / 2 - t
    const ahead = t - (said[i].to - GLIDE / 2)
    const other = back > 0 ? nearest(i - 1, -1) : ahead > 0 ? nearest(i + 1, 1) : here
    const mix = isVowel ? 0.5 * Math.max(0, back > 0 ? back / (GLIDE / 2) : ahead / (GLIDE / 2)) : 0
    const hz = pitch[0] + ((pitch[1] - pitch[0]) * t) / seconds + 4 * Math.sin(2 * Math.PI * 4.3 * t)
    phase += hz / rate
    phase -= Math.floor(phase)
    const open = 0.65 - 0.2 * bright
    const flow =
      phase < open * 0.66
        ? 0.5 - 0.5 * Math.cos((Math.PI * phase) / (open * 0.66))
        : phase < open
          ? Math.cos((Math.PI / 2) * ((phase - open * 0.66) / (open * 0.34)))
          : 0
    const edge = flow - pulse
    pulse = flow
    // loudness follows what is said in some 8 ms
    const ease = 1 / (0.008 * rate)
    voice += ((isVowel ? loud : what === 'm' ? 0.5 : 0) - voice) * ease
    breath += ((what === 's' ? 0.3 : 0) - breath) * ease
    const noise = normal()
    let x = edge * voice * rate * 0.002
    const tracts =
      what === 'm'
        ? [250, 1100, 2200, 3400]
        : [here[0] + (other[0] - here[0]) * mix, here[1] + (other[1] - here[1]) * mix, 2550, 3500]
    for (let k = 0; k < 4; k++) {
      const F = Math.min(0.48 * rate, tracts[k] * tract)
      const r = Math.exp((-Math.PI * WIDTHS[k] * (what === 'm' ? 2 : 1)) / rate)
      const c = 2 * r * Math.cos((2 * Math.PI * F) / rate)
      const m = memory[k]
      const y = (1 - c + r * r) * x + c * m[0] - r * r * m[1]
      m[1] = m[0]
      m[0] = y
      x = y
    }
    // lips radiate, and shut lips let little of what is high through
    if (what === 'm') x *= 0.7
    hiss += 0.5 * (noise - hiss)
    samples[n] = x
    breaths[n] = breath * (noise - hiss)
    if (isVowel) {
      power += samples[n] ** 2
      spoken++
    }
  }
  const loudness = Math.sqrt(power / Math.max(1, spoken))
  const below = 10 ** (-quiet / 20)
  for (let n = 0; n < N; n++) samples[n] = 0.12 * (samples[n] / loudness + breaths[n] + below * normal())
  return { sound: { rate, samples }, said }
}
