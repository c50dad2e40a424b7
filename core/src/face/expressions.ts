/** Expressions by the names of the open expression standard, in its order. */
export const EXPRESSIONS = [
  'happy',
  'angry',
  'sad',
  'relaxed',
  'surprised',
  'aa',
  'ih',
  'ou',
  'ee',
  'oh',
  'blink',
  'blinkLeft',
  'blinkRight',
  'lookUp',
  'lookDown',
  'lookLeft',
  'lookRight',
] as const
export type Expression = (typeof EXPRESSIONS)[number]

/** What an expression is for, and what it moves. */
export const EXPRESSION_KINDS: Readonly<Record<Expression, 'mood' | 'mouth' | 'lids' | 'gaze'>> = {
  happy: 'mood',
  angry: 'mood',
  sad: 'mood',
  relaxed: 'mood',
  surprised: 'mood',
  aa: 'mouth',
  ih: 'mouth',
  ou: 'mouth',
  ee: 'mouth',
  oh: 'mouth',
  blink: 'lids',
  blinkLeft: 'lids',
  blinkRight: 'lids',
  lookUp: 'gaze',
  lookDown: 'gaze',
  lookLeft: 'gaze',
  lookRight: 'gaze',
}

/** A shape of the surface that takes part in an expression, and how far. */
export interface Bind {
  readonly shape: string
  /** 0..1 */
  readonly weight: number
}
/** Which shapes make which expression; those that nothing makes are not in it. */
export type Binds = Readonly<Partial<Record<Expression, readonly Bind[]>>>

/** Words that say an expression, the surest first; each a set of words that must all be there. */
const SAID: Readonly<Record<Expression, readonly (readonly string[])[]>> = {
  happy: [['happy'], ['joy'], ['smile'], ['smiling']],
  angry: [['angry'], ['anger'], ['mad']],
  sad: [['sad'], ['sorrow'], ['sadness'], ['frown']],
  relaxed: [['relaxed'], ['relax'], ['calm'], ['fun']],
  surprised: [['surprised'], ['surprise'], ['shock']],
  aa: [['aa'], ['ah'], ['a'], ['jaw', 'open'], ['mouth', 'open']],
  ih: [['ih'], ['i']],
  ou: [['ou'], ['oo'], ['u'], ['mouth', 'pucker']],
  ee: [['ee'], ['eh'], ['e']],
  oh: [['oh'], ['o'], ['mouth', 'funnel']],
  blink: [['blink'], ['eyes', 'closed'], ['eyes', 'close'], ['eye', 'close'], ['eye', 'closed']],
  blinkLeft: [['blink'], ['wink'], ['eye', 'close'], ['eye', 'closed']],
  blinkRight: [['blink'], ['wink'], ['eye', 'close'], ['eye', 'closed']],
  lookUp: [['look', 'up']],
  lookDown: [['look', 'down']],
  lookLeft: [['look', 'left']],
  lookRight: [['look', 'right']],
}
/** Words that tell a side. */
const SIDES: Readonly<Record<string, 'left' | 'right'>> = { left: 'left', l: 'left', right: 'right', r: 'right' }
/** Words before a single letter that make a vowel of it. */
const OF_VOWELS = new Set(['mouth', 'mth', 'viseme', 'vowel', 'phoneme', 'lip', 'lips', 'v'])

/** The words of a name: `mouthSmile_L` is mouth, smile, l. */
function wordsOf(name: string): string[] {
  return name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .replace(/([A-Z]+)([A-Z][a-z])/g, '$1 $2')
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean)
}

interface Read {
  readonly name: string
  readonly words: readonly string[]
  readonly side?: 'left' | 'right'
}

/** How surely a name says an expression: a place in its list, less is surer; undefined where it does not. */
function says({ words, side }: Read, expression: Expression): number | undefined {
  const wanted = expression === 'blinkLeft' ? 'left' : expression === 'blinkRight' ? 'right' : undefined
  if (EXPRESSION_KINDS[expression] === 'lids' && side !== wanted) return undefined
  const at = SAID[expression].findIndex(set => set.every(w => words.includes(w)))
  if (at < 0) return undefined
  const said = SAID[expression][at]
  // a letter alone says a vowel only as the whole name or after a word for mouths
  if (said.length === 1 && said[0].length === 1) {
    const i = words.indexOf(said[0])
    if (words.length > 1 && !(i === words.length - 1 && words.slice(0, i).some(w => OF_VOWELS.has(w)))) return undefined
  }
  // what is said beside it makes it something else
  const beside = words.filter(w => !said.includes(w) && !SIDES[w] && !OF_VOWELS.has(w)).length
  return at + 0.1 * beside
}

/**
 * Which shapes make which expression, by their names: the name of the standard itself, else words that are usual for it. A pair of
 * shapes for both sides makes one expression together.
 */
export function bindsByName(names: readonly string[]): Binds {
  const read = names.map((name): Read => {
    const words = wordsOf(name)
    const sides = [...new Set(words.map(w => SIDES[w]).filter(Boolean))]
    return { name, words, ...(sides.length === 1 && { side: sides[0] }) }
  })
  const out: Partial<Record<Expression, Bind[]>> = {}
  for (const expression of EXPRESSIONS) {
    const same = read.find(r => r.words.join('') === expression.toLowerCase())
    if (same) {
      out[expression] = [{ shape: same.name, weight: 1 }]
      continue
    }
    const found = read
      .flatMap(r => {
        const how = says(r, expression)
        return how === undefined ? [] : [{ r, how }]
      })
      .sort((a, b) => a.how - b.how)
    if (found.length === 0) continue
    const best = found[0]
    const gaze = EXPRESSION_KINDS[expression] === 'gaze'
    const twin =
      best.r.side &&
      !gaze &&
      !expression.endsWith('Left') &&
      !expression.endsWith('Right') &&
      found.find(f => f.how === best.how && f.r.side && f.r.side !== best.r.side)
    // half of a face is no mood
    if (best.r.side && !twin && !gaze && EXPRESSION_KINDS[expression] !== 'lids') {
      const whole = found.find(f => !f.r.side)
      if (whole) out[expression] = [{ shape: whole.r.name, weight: 1 }]
      continue
    }
    out[expression] = [best, ...(twin ? [twin] : [])].map(f => ({ shape: f.r.name, weight: 1 }))
  }
  // both eyes shut make a blink
  if (!out.blink && out.blinkLeft && out.blinkRight) out.blink = [...out.blinkLeft, ...out.blinkRight]
  return out
}

/** Expressions that nothing makes. */
export const missingExpressions = (binds: Binds): Expression[] => EXPRESSIONS.filter(e => !binds[e]?.length)
