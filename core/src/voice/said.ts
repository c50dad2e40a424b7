import { breather, maxOf, type WorkOptions } from '../math'
import { HEARD_FPS, MOST, RINGS, type Hearing } from './hear'
import { VOWELS, type HeardVowels, type Vowel } from './vowels'

/** What a mouth does for a while: a vowel, lips closed, breath through an open mouth, or rest. */
export type MouthShape = Vowel | 'closed' | 'breath' | 'rest'

/** A stretch of a voice with one shape of the mouth. */
export interface Said {
  /** Seconds of the sound. */
  readonly from: number
  readonly to: number
  readonly shape: MouthShape
  /** How strongly, 0..1. */
  readonly strength: number
}

/** A vowel goes over into another only where it fits better by this much, natural logarithm. */
const CHANGE = 6
/** A closure lasts at least and at most, seconds. */
const CLOSED = [0.02, 0.2] as const
/** A voice that begins or ends with lips shut is heard from this long on, seconds; a voice that dies away is shorter. */
const MURMUR = 0.05
/** How steeply it begins and ends, and how far below its neighbours it is, dB. */
const STEEP = 6
const DEEP = 9
/** All of a voice behind shut lips is fainter by this much, dB. */
const FAINTER = 5

/**
 * What is said when: stretches of vowels, closed lips, breath and rest, from the beginning to the end of a sound. Vowels by the
 * likeliest course through all moments (Viterbi 1967), closures as steep dips of what lies above 350 Hz, which lips shut in even
 * while the voice goes on.
 */
export async function whatIsSaid(hearing: Hearing, vowels: HeardVowels, work: WorkOptions = {}): Promise<Said[]> {
  const pulse = breather(work)
  const { moments, voiced, loud, seconds } = hearing
  const level = sorted(hearing.loud)
  const top = at(level, 0.95)
  const floor = at(level, 0.05)
  // speech lies within 35 dB of its loudest, and stands out of the noise
  const least = Math.max(top - 35, Math.min(floor + 6, top - 10))
  const closures = closuresOf(hearing, least)
  const shapes: MouthShape[] = []
  const path = likeliest(vowels.fits, moments)
  for (let m = 0; m < moments; m++) {
    await pulse(m / moments)
    const here = Math.max(loud[2 * m], loud[Math.min(loud.length - 1, 2 * m + 1)])
    const shut = closures.some(([from, to]) => m >= from / 2 && m < to / 2)
    shapes.push(shut ? 'closed' : here < least ? 'rest' : voiced[m] >= RINGS ? VOWELS[path[m]] : 'breath')
  }
  mendShort(shapes)
  return stretches(shapes, hearing, top, seconds)
}

const sorted = (values: Float32Array): Float32Array => values.slice().sort()
const at = (values: Float32Array, share: number): number => values[Math.floor(share * (values.length - 1))]

/** The likeliest vowel of every moment. */
function likeliest(fits: Float32Array, moments: number): Uint8Array {
  const V = VOWELS.length
  const from = new Uint8Array(moments * V)
  let now = Float64Array.from({ length: V }, (_, v) => fits[v])
  for (let m = 1; m < moments; m++) {
    const next = new Float64Array(V)
    for (let v = 0; v < V; v++) {
      let best = v
      for (let u = 0; u < V; u++) if (now[u] - (u === v ? 0 : CHANGE) > now[best] - (best === v ? 0 : CHANGE)) best = u
      from[m * V + v] = best
      next[v] = now[best] - (best === v ? 0 : CHANGE) + fits[m * V + v]
    }
    now = next
  }
  const path = new Uint8Array(moments)
  let v = now.indexOf(maxOf(now))
  for (let m = moments - 1; m >= 0; m--) {
    path[m] = v
    v = from[m * V + v]
  }
  return path
}

/** Closures, from and to in steps of 5 ms. */
function closuresOf(hearing: Hearing, least: number): [number, number][] {
  const { bright, loud } = hearing
  const found: [number, number][] = []
  const steps = HEARD_FPS * 2
  const most = (from: number, to: number): number => {
    let value = -Infinity
    for (let i = Math.max(0, from); i < Math.min(bright.length, to); i++) value = Math.max(value, bright[i])
    return value
  }
  const spoken = (from: number, to: number): boolean => {
    for (let i = Math.max(0, from); i < Math.min(loud.length, to); i++) if (loud[i] >= least) return true
    return false
  }
  const share = (from: number, to: number, is: (t: number) => boolean): number => {
    let n = 0
    for (let i = from; i < to; i++) n += Number(is(i))
    return n / Math.max(1, to - from)
  }
  const behind = murmurs(hearing)
  const rings = (t: number): boolean => behind[t >> 1] > 0
  // lips that are shut are silent or let a murmur through, and nothing else
  const open = (from: number, to: number): boolean => share(from, to, t => loud[t] >= least && !rings(t)) > 0.5
  const murmured = (from: number, to: number): boolean =>
    to - from >= MURMUR * steps && share(from, to, t => loud[t] >= least && rings(t)) > 0.7
  // a vowel between louder ones loses its upper part too, but not all of its voice
  const fainter = (from: number, to: number): boolean => {
    let [beside, inside] = [-Infinity, -Infinity]
    for (let i = Math.max(0, from - 16); i < from - 2; i++) beside = Math.max(beside, loud[i])
    for (let i = from + 2; i < to - 1; i++) inside = Math.max(inside, loud[i])
    return beside - inside >= FAINTER
  }
  const longest = Math.round(CLOSED[1] * steps)
  for (let t = 4; t < bright.length - 4; t++) {
    // a steep fall, within 20 ms
    if (bright[t - 4] - bright[t] < STEEP || !spoken(t - 8, t - 2)) continue
    const before = most(t - 16, t - 2)
    if (before - bright[t] < DEEP) continue
    // ends where it rises as steeply again to near what was before
    let end = -1
    let after = -Infinity
    for (let e = t + 1; e < Math.min(bright.length - 4, t + longest); e++) {
      // or where the voice ends with lips shut
      const ends = murmured(t + 2, e) && !spoken(e, e + 10)
      if (!ends && bright[e + 4] - bright[e] < STEEP) continue
      after = ends ? Infinity : most(e + 2, e + 16)
      if (ends || (after - bright[e] >= DEEP && spoken(e + 2, e + 10))) {
        end = e
        break
      }
    }
    if (end < 0 || open(t + 2, end) || !fainter(t + 2, end)) continue
    // from half of the way down to half of the way up
    let deepest = Infinity
    for (let i = t; i <= end; i++) deepest = Math.min(deepest, bright[i])
    let from = t
    while (from > 0 && bright[from] < (before + deepest) / 2) from--
    let to = end
    while (after < Infinity && to < bright.length - 1 && bright[to] < (after + deepest) / 2) to++
    if (to - from >= CLOSED[0] * steps) {
      found.push([from, to])
      t = to
    }
  }
  // a voice that begins with lips shut
  for (let e = 4; e < bright.length - 8; e++) {
    if (bright[e + 4] - bright[e] < STEEP) continue
    let from = e
    while (from > 0 && e - from < longest && spoken(from - 1, from)) from--
    if (e - from >= longest || !murmured(from, e)) continue
    const after = most(e + 2, e + 16)
    if (after - most(from, e) < DEEP || found.some(([a, b]) => a < e && b > from)) continue
    found.push([from, e + 2])
  }
  return found.sort((a, b) => a[0] - b[0])
}

/** Moments in which a voice sounds as behind shut lips: little above 700 Hz, and less the higher. */
function murmurs({ moments, voiced, counts, places, levels, clear }: Hearing): Uint8Array {
  return Uint8Array.from({ length: moments }, (_, m) => {
    if (voiced[m] < RINGS) return 0
    let [all, middle, high] = [1e-12, 1e-12, 1e-12]
    for (let i = m * MOST; i < m * MOST + counts[m]; i++) {
      const power = clear[i] > 0.3 ? 10 ** (levels[i] / 10) : 0
      all += power
      if (places[i] > 700) middle += power
      if (places[i] > 1500) high += power
    }
    return Number(middle < all * 10 ** -1.75 && high < middle * 10 ** -0.2)
  })
}

/** Vowels of one or two moments between others, and breath of less than three, are what lies beside them. */
function mendShort(shapes: MouthShape[]): void {
  for (let m = 0; m < shapes.length;) {
    let end = m
    while (end < shapes.length && shapes[end] === shapes[m]) end++
    const [before, after] = [shapes[m - 1], shapes[end]]
    const short = shapes[m] === 'closed' ? 0 : 3
    if (end - m < short && (before ?? after)) {
      const taken = before && before !== 'closed' ? before : (after ?? before)
      if (taken && taken !== 'closed') shapes.fill(taken, m, end)
    }
    m = end
  }
}

function stretches(shapes: readonly MouthShape[], { loud }: Hearing, top: number, seconds: number): Said[] {
  const out: Said[] = []
  for (let m = 0; m < shapes.length;) {
    let end = m
    while (end < shapes.length && shapes[end] === shapes[m]) end++
    let level = -Infinity
    for (let i = 2 * m; i < 2 * end; i++) level = Math.max(level, loud[i])
    const shape = shapes[m]
    // 25 dB below the loudest is half as wide
    const strength = shape === 'rest' ? 0 : shape === 'closed' ? 1 : Math.min(1, Math.max(0.3, 1 + (level - top) / 50))
    const from = Math.max(0, (m - 0.5) / HEARD_FPS)
    const to = end === shapes.length ? seconds : Math.min(seconds, (end - 0.5) / HEARD_FPS)
    if (to > from) out.push({ from, to, shape, strength })
    m = end
  }
  return out
}
