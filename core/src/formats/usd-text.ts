import { ChiraxisError } from '../math'

/** A value as USD text tells it. */
export type UsdValue =
  number | string | readonly UsdValue[] | UsdPath | { readonly samples: ReadonlyMap<number, UsdValue> }
/** `<a path>` or `@a file@`. */
export interface UsdPath {
  readonly path: string
}

/** One thing in a USD scene, with what is told of it and what lies below it. */
export interface UsdPrim {
  readonly type: string
  readonly name: string
  readonly path: string
  /** By name, `.connect` and `.timeSamples` as part of it. */
  readonly attributes: ReadonlyMap<string, UsdValue>
  readonly children: readonly UsdPrim[]
  readonly meta: ReadonlyMap<string, UsdValue>
}

/**
 * Reads the text form of USD (OpenUSD, "Usda file format"): layer metadata, prims, attributes, relationships and time samples.
 * References, variants and payloads are not followed.
 * @throws ChiraxisError `bad-syntax` telling the line
 */
export function readUsdText(text: string): { readonly meta: ReadonlyMap<string, UsdValue>; readonly prims: UsdPrim[] } {
  if (!/^#usda 1\.0\s/.test(text))
    throw new ChiraxisError('wrong-format', 'This is not USD text: it does not start with #usda 1.0.')
  const tokens = tokensOf(text)
  let at = 0
  const peek = (): string | undefined => tokens[at]?.text
  const next = (): string => {
    if (at >= tokens.length) throw new ChiraxisError('truncated-file', 'The USD text ends before its last brace.')
    return tokens[at++].text
  }
  const wrong = (what: string): ChiraxisError =>
    new ChiraxisError(
      'bad-syntax',
      `Line ${tokens[Math.min(at, tokens.length - 1)]?.line ?? 0} of the USD text: ${what}.`,
    )
  const expect = (word: string): void => {
    const got = next()
    if (got !== word) throw wrong(`${word} was expected, and ${got.slice(0, 40)} stands there`)
  }
  const series = (end: string): UsdValue[] => {
    const items: UsdValue[] = []
    while (peek() !== end) {
      items.push(value())
      if (peek() === ',') next()
    }
    next()
    return items
  }
  function value(): UsdValue {
    const t = next()
    if (t === '[') return series(']')
    if (t === '(') return series(')')
    if (t === '{') {
      const samples = new Map<number, UsdValue>()
      while (peek() !== '}') {
        const time = Number(next())
        if (!Number.isFinite(time)) throw wrong('a time was expected')
        expect(':')
        samples.set(time, value())
        if (peek() === ',') next()
      }
      next()
      return { samples }
    }
    if (t[0] === '"') return JSON.parse(t.replace(/\t/g, '\\t')) as string
    if (t[0] === '<' || t[0] === '@') return { path: t.slice(1, -1) }
    const number = Number(t)
    return Number.isNaN(number) ? t : number
  }
  function metadata(): Map<string, UsdValue> {
    const out = new Map<string, UsdValue>()
    if (peek() !== '(') return out
    next()
    while (peek() !== ')') {
      let name = next()
      // what is added to a list
      if (/^(prepend|append|add|delete)$/.test(name)) name = next()
      if (name[0] === '"') continue
      expect('=')
      out.set(name, value())
    }
    next()
    return out
  }
  function prim(parent: string): UsdPrim {
    const specifier = next()
    if (!/^(def|over|class)$/.test(specifier)) throw wrong(`${specifier.slice(0, 40)} begins nothing that is known`)
    const type = peek()?.[0] === '"' ? '' : next()
    const name = value() as string
    const path = `${parent}/${name}`
    const meta = metadata()
    const attributes = new Map<string, UsdValue>()
    const children: UsdPrim[] = []
    expect('{')
    while (peek() !== '}') {
      const word = peek()
      if (word === undefined) throw new ChiraxisError('truncated-file', 'The USD text ends before its last brace.')
      if (/^(def|over|class)$/.test(word)) {
        children.push(prim(path))
        continue
      }
      // qualifiers and a type, then a name
      const words: string[] = []
      while (peek() !== '=' && !/^[{}(]$/.test(peek() ?? '}')) {
        const w = next()
        if (w === '[') {
          expect(']')
          continue
        }
        words.push(w)
        // what is declared and not given a value
        const p = peek()
        if (p !== '=' && p !== '[' && words.length >= 2 && tokens[at].line !== tokens[at - 1].line) break
      }
      const key = words[words.length - 1]
      if (peek() === '=') {
        next()
        attributes.set(key, value())
      }
      metadata()
    }
    next()
    return { type, name, path, attributes, children, meta }
  }
  // the layer's own line comes first
  const meta = metadata()
  const prims: UsdPrim[] = []
  while (at < tokens.length) prims.push(prim(''))
  return { meta, prims }
}

interface Token {
  readonly text: string
  readonly line: number
}

function tokensOf(text: string): Token[] {
  const out: Token[] = []
  const pattern = /\n|#[^\n]*|"(?:[^"\\]|\\.)*"|<[^>\n]*>|@[^@\n]*@|[()[\]{}=,:](?![A-Za-z])|[^\s()[\]{}=,"<@]+/g
  let line = 1
  for (let m = pattern.exec(text); m; m = pattern.exec(text)) {
    const t = m[0]
    if (t === '\n') line++
    else if (t[0] !== '#') {
      // a time and its colon stand together
      const time = /^(-?[\d.]+(?:e[+-]?\d+)?):$/i.exec(t)
      if (time) out.push({ text: time[1], line }, { text: ':', line })
      else out.push({ text: t, line })
    }
  }
  return out
}

/** All prims of a type, wherever they lie. */
export const primsOf = (prims: readonly UsdPrim[], type: string): UsdPrim[] =>
  prims.flatMap(p => [...(p.type === type ? [p] : []), ...primsOf(p.children, type)])

/** Numbers of a list of tuples, one after another. */
export function flatNumbers(value: UsdValue | undefined): number[] {
  const out: number[] = []
  const walk = (v: UsdValue): void => {
    if (typeof v === 'number') out.push(v)
    else if (Array.isArray(v)) for (const item of v as UsdValue[]) walk(item)
  }
  if (value !== undefined) walk(value)
  return out
}

/** Words of a list. */
export const flatWords = (value: UsdValue | undefined): string[] =>
  Array.isArray(value) ? (value as UsdValue[]).filter((v): v is string => typeof v === 'string') : []
