import { readdirSync, writeFileSync } from 'node:fs'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { wordsIn } from './words'

const ROOT = new URL('../..', import.meta.url).pathname
const ROOMS = ['app', 'core/src', 'cli/src', 'server', 'loaders/src', 'pool/src']

const filesIn = (room: string): string[] =>
  readdirSync(join(ROOT, room), { recursive: true, encoding: 'utf8' })
    .filter(f => /\.(vue|ts)$/.test(f) && !/^test\/|\.d\.ts$/.test(f))
    .map(f => join(room, f))

/** Words that have another one in this program (docs/glossary.md), and what is said in their place. */
const SAID_OTHERWISE: readonly [RegExp, string][] = [
  [/\bguess(ed|es)?\b|\bas (found|recognised|seen)\b|\btaken for\b|% sure/i, 'auto, with the result beside it'],
  [/\bstance\b|\bsettled?\b|\bsettles\b/i, 'axes and unit; set'],
  [/\bleft against right\b/i, 'asymmetry'],
  [/\bjoints per vertex\b/i, 'influences'],
  [/\b(right as left|left as right|other side alike|match(es)? the other side)\b/i, 'copy to the other side'],
  [/\btak(e|es|en) (it |them |all )?(out|away)\b/i, 'remove'],
  [/\bflex\b/i, 'twist and bend joints'],
  [/\bh(a|u)ngs? on\b/i, 'parent'],
  [/\bsheets?\b/i, 'large view, side views'],
  [/\bvigour\b/i, 'swing'],
  [/\b(plays nothing|nobody plays|nobody follows)\b/i, 'unmapped'],
  [/\bas games do\b|\bkeeping volume\b/i, 'linear; volume-keeping'],
  [/\bmany at once\b|\b(of|in) many\b/i, 'batch'],
  [/^deliver\b(?!y)/i, 'Delivery; write the files'],
  [/\ba little down\b/i, 'A-pose, with degrees'],
  [/\b1 (are|have|joints|takes|faces|vertices|files|keys|points)\b/i, 'singular'],
]

describe('the words of the program', () => {
  const all = ROOMS.flatMap(filesIn).flatMap(f => wordsIn(join(ROOT, f)).map(w => ({ ...w, file: f })))

  it('are one for one thing, wherever somebody reads them', () => {
    expect(all.length).toBeGreaterThan(3000)
    // older names of options are still taken
    const wrong = all
      .filter(w => !/^--(flex|vigour) /.test(w.text))
      .flatMap(w =>
        SAID_OTHERWISE.filter(([not]) => not.test(w.text)).map(([, say]) => `${w.file}:${w.line} “${w.text}”: ${say}`),
      )
    expect(wrong).toEqual([])
  })

  it('of a bench begin with two short sentences at the most', () => {
    const long = all
      .filter(w => w.file.endsWith('Bench.vue') && w.opening)
      .filter(w => w.text.split(/[.:;](?: |$)/).filter(Boolean).length > 2 || w.text.length > 130)
      .map(w => `${w.file}:${w.line} ${w.text}`)
    expect(all.filter(w => w.opening).length).toBeGreaterThan(20)
    expect(long).toEqual([])
  })

  it('are found in text, attributes, expressions and scripts', () => {
    const file = join(mkdtempSync(join(tmpdir(), 'words-')), 'Some.vue')
    writeFileSync(
      file,
      `<script setup lang="ts">
const a = 'said in a script'
const b = \`\${1} said around a number\`
const code = 'flex items'
</script>
<template>
  <p class="not said" title="said in a title" :aria-label="x ? 'Said in one case' : 'Said in another'">
    said in text {{ y ? \`said in \${z} braces\` : '' }}
  </p>
</template>
`,
    )
    expect(wordsIn(file).map(w => [w.line, w.text])).toEqual([
      [2, 'said in a script'],
      [3, '… said around a number'],
      [4, 'flex items'],
      [7, 'said in a title'],
      [7, 'Said in one case'],
      [7, 'Said in another'],
      [7, 'said in text'],
      [8, 'said in … braces'],
    ])
  })
})
