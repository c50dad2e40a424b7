import { sameMoment, withKey, type Ease, type Layer, type LayerKey } from './layer'

/** The keys of one channel, ready to be read at any time. */
export interface Curve {
  /** N moments, rising. */
  readonly times: Float64Array
  /** width·N */
  readonly values: Float64Array
  /** How fast each value changes at its key where the way is smooth, width·N a second. */
  readonly slopes: Float64Array
  readonly eases: readonly Ease[]
  readonly width: number
}

/**
 * A curve through keys. The smooth way is a cubic that never goes beyond its keys (Steffen 1990, "A simple method for monotonic
 * interpolation in one dimension"); before the first key and after the last one it stays where they are.
 * @param keys of one channel, in any order  @param timeOf seconds of the take at a key's seconds of the recording
 */
export function curveOf(keys: readonly LayerKey[], timeOf: (seconds: number) => number = s => s): Curve {
  const sorted = [...keys].sort((a, b) => a.at - b.at)
  const width = sorted[0]?.value.length ?? 0
  const n = sorted.length
  const times = Float64Array.from(sorted, k => timeOf(k.at))
  const values = Float64Array.from(sorted.flatMap(k => Array.from({ length: width }, (_, i) => k.value[i] ?? 0)))
  const slopes = new Float64Array(width * n)
  for (let k = 1; k + 1 < n; k++) {
    const before = times[k] - times[k - 1],
      after = times[k + 1] - times[k]
    if (before <= 0 || after <= 0) continue
    for (let c = 0; c < width; c++) {
      const i = width * k + c
      const a = (values[i] - values[i - width]) / before,
        b = (values[i + width] - values[i]) / after
      const p = (a * after + b * before) / (before + after)
      slopes[i] = (Math.sign(a) + Math.sign(b)) * Math.min(Math.abs(a), Math.abs(b), 0.5 * Math.abs(p))
    }
  }
  return { times, values, slopes, eases: sorted.map(k => k.ease ?? 'smooth'), width }
}

/** The value of a curve at a time. */
export function readCurve({ times, values, slopes, eases, width }: Curve, time: number, out: Float64Array): void {
  const n = times.length
  let k = 0
  while (k + 1 < n && times[k + 1] <= time) k++
  const a = width * k
  const long = k + 1 < n ? times[k + 1] - times[k] : 0
  if (time <= times[k] || long <= 0 || eases[k] === 'stepped') {
    for (let c = 0; c < width; c++) out[c] = values[a + c]
    return
  }
  const t = (time - times[k]) / long
  const b = a + width
  for (let c = 0; c < width; c++) {
    const from = values[a + c],
      way = values[b + c] - from
    if (eases[k] === 'linear') out[c] = from + t * way
    else {
      const u = slopes[a + c] * long,
        v = slopes[b + c] * long
      out[c] = from + t * (u + t * (3 * way - 2 * u - v + t * (u + v - 2 * way)))
    }
  }
}

/** Moments of a layer's keys around one: the last before it and the first after it. */
export function momentsAround(
  keys: readonly LayerKey[],
  at: number,
): { readonly before: number | undefined; readonly after: number | undefined } {
  let before: number | undefined, after: number | undefined
  for (const k of keys) {
    if (sameMoment(k.at, at)) continue
    if (k.at < at && (before === undefined || k.at > before)) before = k.at
    if (k.at > at && (after === undefined || k.at < after)) after = k.at
  }
  return { before, after }
}

/** A layer with keys at a moment that lie between those around it: 0 is the one before, 1 the one after; beyond them it goes on. */
export function keyedBetween(layer: Layer, at: number, share: number): Layer {
  const { before, after } = momentsAround(layer.keys, at)
  if (before === undefined || after === undefined) return layer
  let next = layer
  for (const channel of new Set(layer.keys.map(k => k.channel))) {
    const curve = curveOf(layer.keys.filter(k => k.channel === channel))
    const [a, b] = [before, after].map(t => {
      const out = new Float64Array(3)
      readCurve(curve, t, out)
      return out
    })
    const value = Array.from({ length: curve.width }, (_, k) => a[k] + share * (b[k] - a[k]))
    next = withKey(next, {
      at,
      channel,
      value: channel === 'weight' ? value.map(v => Math.min(1, Math.max(0, v))) : value,
    })
  }
  return next
}
