import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'

const CSS = readFileSync(new URL('../assets/main.css', import.meta.url), 'utf8')

/** The colours a theme gives to names; the night has those of the day where it tells none of its own. */
function tokens(selector: string): Record<string, string> {
  const block = CSS.slice(CSS.indexOf(`${selector} {`)).split('}')[0]!
  return Object.fromEntries([...block.matchAll(/--([\w-]+):\s*(#[0-9a-f]{6})/g)].map(m => [m[1]!, m[2]!]))
}

/** Relative luminance and contrast as the open accessibility guidelines define them (WCAG 2.2, 1.4.3). */
const luminance = (hex: string): number => {
  const [r, g, b] = [1, 3, 5]
    .map(i => parseInt(hex.slice(i, i + 2), 16) / 255)
    .map(v => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)) as [number, number, number]
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
const contrast = (a: string, b: string): number => {
  const [x, y] = [luminance(a), luminance(b)].sort((p, q) => q - p) as [number, number]
  return (x + 0.05) / (y + 0.05)
}

const DAY = tokens(':root')
const NIGHT = { ...DAY, ...tokens(":root[data-theme='night']") }

describe.each([
  ['Day', DAY],
  ['Night', NIGHT],
])('the colours of %s', (_, theme) => {
  it.each([
    ...['ink', 'ink-2', 'madder'].flatMap(words => ['paper', 'paper-2'].map(on => [words, on])),
    // words on what is pressed, on bars and on states
    ['paper', 'ink'],
    ['paper', 'ink-2'],
    ['ink', 'rule'],
    // on the ground behind the figure, which goes from one tone to the other
    ...['on-ground', 'on-ground-2', 'g-madder-words', 'g-madder', 'g-verdigris', 'g-ochre', 'g-slate'].flatMap(words =>
      ['ground-a', 'ground-b'].map(on => [words, on]),
    ),
  ])('let %s be read on %s', (words, on) => {
    expect(contrast(theme[words!]!, theme[on!]!)).toBeGreaterThanOrEqual(/^g-\w+$/.test(words!) ? 3 : 4.5)
  })
})

it('knows contrast', () => {
  expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 5)
  expect(contrast('#777777', '#ffffff')).toBeCloseTo(4.48, 2)
})
