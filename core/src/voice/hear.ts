import FFT from 'fft.js'
import { breather, type WorkOptions } from '../math'
import { resampleSound } from './resample'
import type { Sound } from './wav'

/** Samples a second everything is listened to at. */
export const HEARD_RATE = 16_000
/** Moments heard in a second. */
export const HEARD_FPS = 100
const HOP = HEARD_RATE / HEARD_FPS
/** Samples of one look at the spectrum: 40 ms, three periods of a low voice. */
const LOOK = 640
const SIZE = 1024
const BIN = HEARD_RATE / SIZE
const LOWEST = 65
const HIGHEST = 600
/** Frequencies that are told of a moment lie under this, Hz. */
export const TOP = 4600
/** Distance of the frequencies where nothing rings, Hz. */
const APART = 150
/** As many frequencies of a moment as can be told. */
export const MOST = Math.ceil(TOP / LOWEST)

/** What was heard, a moment each hundredth of a second. */
export interface Hearing {
  readonly moments: number
  readonly seconds: number
  /** Loudness above 350 Hz, dB, twice as many as moments. */
  readonly bright: Float32Array
  /** Loudness of all, dB, twice as many as moments. */
  readonly loud: Float32Array
  /** Pitch, Hz; what rings at no pitch has 0. */
  readonly pitch: Float32Array
  /** How far it rings at that pitch, 0..1. */
  readonly voiced: Float32Array
  /** Harmonics, or even steps where nothing rings: how many, where (Hz) and how strong (dB), `MOST` a moment. */
  readonly counts: Uint16Array
  readonly places: Float32Array
  readonly levels: Float32Array
  /** How far each stands out of the noise, 0..1. */
  readonly clear: Float32Array
}

const decibel = (power: number): number => 10 * Math.log10(power + 1e-12)

/**
 * Listens to a sound: loudness, pitch and the strength of its harmonics over time. Pitch by the autocorrelation of a windowed
 * stretch over that of its window (Boersma, Accurate short-term analysis of the fundamental frequency, 1993).
 */
export async function hear(sound: Sound, work: WorkOptions = {}): Promise<Hearing> {
  const pulse = breather(work)
  const { samples } = resampleSound(sound, HEARD_RATE)
  const top = Math.min(TOP, 0.45 * sound.rate)
  const moments = Math.floor(samples.length / HOP) + 1
  const pitch = new Float32Array(moments)
  const voiced = new Float32Array(moments)
  const counts = new Uint16Array(moments)
  const places = new Float32Array(moments * MOST)
  const levels = new Float32Array(moments * MOST)
  const clear = new Float32Array(moments * MOST)
  const powers = new Float32Array(moments * BANDS)

  const window = Float64Array.from({ length: LOOK }, (_, i) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / LOOK))
  const fft = new FFT(SIZE)
  const stretch = new Float64Array(SIZE)
  const spectrum = fft.createComplexArray()
  const squares = fft.createComplexArray()
  const back = fft.createComplexArray()
  const power = new Float64Array(SIZE / 2 + 1)
  const correlate = (): number[] => {
    for (let k = 0; k <= SIZE / 2; k++) {
      power[k] = spectrum[2 * k] ** 2 + spectrum[2 * k + 1] ** 2
      squares[2 * k] = power[k]
      squares[2 * k + 1] = 0
    }
    fft.completeSpectrum(squares)
    fft.inverseTransform(back, squares)
    return back
  }
  stretch.set(window)
  fft.realTransform(spectrum, stretch)
  const ofWindow = Float64Array.from(
    { length: SIZE / 2 },
    (
      (r: number[]) => (_: unknown, i: number) =>
        r[2 * i] / r[0]
    )(correlate()),
  )

  for (let m = 0; m < moments; m++) {
    await pulse((0.8 * m) / moments)
    const from = m * HOP - LOOK / 2
    let mean = 0
    for (let i = 0; i < LOOK; i++) mean += samples[from + i] ?? 0
    mean /= LOOK
    for (let i = 0; i < LOOK; i++) stretch[i] = ((samples[from + i] ?? 0) - mean) * window[i]
    stretch.fill(0, LOOK)
    fft.realTransform(spectrum, stretch)
    const r = correlate()
    const [hz, sure] = r[0] > 1e-9 ? pitchIn(r, ofWindow) : [0, 0]
    pitch[m] = hz
    voiced[m] = sure
    for (let b = 0; b < BANDS; b++) {
      let sum = 0
      const [low, high] = bandBins(b)
      for (let k = low; k < high; k++) sum += power[k]
      powers[m * BANDS + b] = sum / (high - low)
    }
    const ringing = sure >= RINGS
    const apart = ringing ? hz : APART
    for (let at = apart, n = 0; at < top && n < MOST; at += apart, n++) {
      const [low, high] = [Math.max(1, Math.round((at - 0.25 * apart) / BIN)), Math.round((at + 0.25 * apart) / BIN)]
      let most = 0
      let sum = 0
      for (let k = low; k <= high; k++) {
        most = Math.max(most, power[k])
        sum += power[k]
      }
      places[m * MOST + n] = at
      levels[m * MOST + n] = ringing ? most : sum / (high - low + 1)
      counts[m] = n + 1
    }
  }
  const noise = noiseOf(powers, voiced, moments)
  for (let m = 0; m < moments; m++)
    for (let n = 0; n < counts[m]; n++) {
      const i = m * MOST + n
      // a peak of noise alone is some three times its mean
      const under = 3 * noise[Math.min(BANDS - 1, Math.floor(places[i] / BAND))]
      clear[i] = levels[i] <= 0 ? 0 : Math.max(0, (levels[i] - under) / levels[i])
      levels[i] = decibel(Math.max(levels[i] - under, 0.25 * under))
    }
  return {
    moments,
    seconds: samples.length / HEARD_RATE,
    ...loudness(samples, moments),
    pitch,
    voiced,
    counts,
    places,
    levels,
    clear,
  }
}

/** From here on something rings at a pitch. */
export const RINGS = 0.45

/** Width of the bands noise is told in, Hz. */
const BAND = 200
const BANDS = Math.ceil(TOP / BAND)
const bandBins = (b: number): [number, number] => [Math.ceil((b * BAND) / BIN), Math.ceil(((b + 1) * BAND) / BIN)]

/** Pitch (Hz) and how far it rings, of an autocorrelation in every second place. */
function pitchIn(r: readonly number[], ofWindow: Float64Array): [number, number] {
  const at = (lag: number): number => r[2 * lag] / r[0] / ofWindow[lag]
  let best = 0
  let score = 0
  const [from, end] = [Math.floor(HEARD_RATE / HIGHEST), Math.ceil(HEARD_RATE / LOWEST)]
  for (let lag = from; lag <= end; lag++) {
    const here = at(lag)
    if (here < 0.2 || here < at(lag - 1) || here < at(lag + 1)) continue
    // the shortest of like periods is the pitch, the others are its multiples
    const judged = here - 0.05 * Math.log2(lag / from)
    if (judged > score) {
      score = judged
      best = lag
    }
  }
  if (best === 0) return [0, 0]
  const [a, b, c] = [at(best - 1), at(best), at(best + 1)]
  const shift = a - 2 * b + c === 0 ? 0 : (0.5 * (a - c)) / (a - 2 * b + c)
  return [HEARD_RATE / (best + shift), Math.min(1, b)]
}

/** Mean power of the noise a bin, by band: that of the quieter moments in which nothing rings. */
function noiseOf(powers: Float32Array, voiced: Float32Array, moments: number): Float64Array {
  const quiet = Array.from({ length: moments }, (_, m) => m).filter(m => voiced[m] < RINGS)
  const noise = new Float64Array(BANDS)
  if (quiet.length < 5) return noise
  for (let b = 0; b < BANDS; b++) {
    const values = quiet.map(m => powers[m * BANDS + b]).sort((x, y) => x - y)
    noise[b] = values[Math.floor(0.25 * values.length)]
  }
  return noise
}

/** Loudness of all, and of what lies above 350 Hz (a high-pass of two poles), in stretches of 15 ms every 5 ms. */
function loudness(samples: Float32Array, moments: number): { loud: Float32Array; bright: Float32Array } {
  const passed = new Float32Array(samples.length)
  const w = Math.tan((Math.PI * 350) / HEARD_RATE)
  const norm = 1 / (1 + Math.SQRT2 * w + w * w)
  const [b0, a1, a2] = [norm, 2 * (w * w - 1) * norm, (1 - Math.SQRT2 * w + w * w) * norm]
  for (let i = 0, x1 = 0, x2 = 0, y1 = 0, y2 = 0; i < samples.length; i++) {
    const x = samples[i]
    const y = b0 * (x - 2 * x1 + x2) - a1 * y1 - a2 * y2
    ;[x2, x1, y2, y1] = [x1, x, y1, y]
    passed[i] = y
  }
  const half = 120
  const window = Float64Array.from({ length: 2 * half }, (_, i) => 0.5 - 0.5 * Math.cos((Math.PI * (i + 0.5)) / half))
  const levels = (from: Float32Array): Float32Array =>
    Float32Array.from({ length: 2 * moments }, (_, t) => {
      const start = (t * HOP) / 2 - half
      let sum = 0
      for (let i = 0; i < 2 * half; i++) {
        const v = from[start + i] ?? 0
        sum += window[i] * v * v
      }
      return decibel(sum / half)
    })
  return { loud: levels(samples), bright: levels(passed) }
}
