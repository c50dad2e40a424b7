/**
 * Stops of the program's one heat ramp, sRGB 0..255: lightness from 0.50 to 0.93 in even steps (OKLCH, Ottosson 2020). It
 * begins light enough that a body without heat is still seen as a lit body.
 */
const STOPS: readonly (readonly [number, number, number])[] = [
  [99, 92, 139],
  [93, 114, 173],
  [76, 142, 187],
  [75, 170, 180],
  [92, 196, 154],
  [150, 213, 114],
  [214, 221, 94],
  [249, 234, 146],
]

/** Colour of a value 0..1 on the ramp, sRGB 0..1. */
export function ramp(value: number): [number, number, number] {
  const t = Math.min(1, Math.max(0, value)) * (STOPS.length - 1)
  const i = Math.min(STOPS.length - 2, Math.floor(t))
  const f = t - i
  const a = STOPS[i]!
  const b = STOPS[i + 1]!
  return [0, 1, 2].map(k => (a[k]! + (b[k]! - a[k]!) * f) / 255) as [number, number, number]
}

/** The ramp as a CSS gradient, for legends. */
export const rampCss = `linear-gradient(90deg, ${STOPS.map(s => `rgb(${s.join(' ')})`).join(', ')})`
