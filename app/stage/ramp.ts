/** Stops of the program's one heat ramp, dark to light, evenly spaced in lightness: sRGB 0..255. */
const STOPS: readonly (readonly [number, number, number])[] = [
  [66, 60, 104],
  [56, 80, 134],
  [30, 98, 132],
  [28, 132, 128],
  [68, 164, 104],
  [140, 190, 76],
  [214, 208, 74],
  [250, 232, 140],
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
