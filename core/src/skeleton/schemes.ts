import { sideOf, type Side } from '../body'
import { readName, wordsOf } from './recognise-names'
import { jointSide } from './side'
import { renamingTo, type Renaming } from './rename'
import type { Skeleton } from './skeleton'

/** How joints are to be named after their roles. */
export interface NamingScheme {
  readonly style: 'camel' | 'snake' | 'words'
  /** Where the side stands, and whether as a word or a letter. */
  readonly side: 'first' | 'last'
  readonly letter: boolean
  readonly prefix: string
  /** Whether joints that stand for no part of the body are styled too; twist and bend joints of a limb always are. */
  readonly others?: boolean
}
export const PLAIN_SCHEME: NamingScheme = { style: 'camel', side: 'first', letter: false, prefix: '' }

/** The name of one role under a scheme: leftUpperArm, upper_arm_l, Upper arm R. */
export function nameOfRole(role: string, scheme: NamingScheme): string {
  return styled(wordsOfRole(role), sideOf(role), scheme)
}

const wordsOfRole = (role: string): string[] => {
  const side = sideOf(role)
  return (side === 'middle' ? role : role.slice(side.length))
    .replace(/([A-Z0-9])/g, ' $1')
    .trim()
    .toLowerCase()
    .split(/\s+/)
}

function styled(words: readonly string[], side: Side | 'middle', scheme: NamingScheme): string {
  const mark = side === 'middle' ? [] : [scheme.letter ? side[0] : side]
  const all = scheme.side === 'first' ? [...mark, ...words] : [...words, ...mark]
  const capital = (w: string): string => w[0].toUpperCase() + w.slice(1)
  const body =
    scheme.style === 'snake'
      ? all.join('_')
      : scheme.style === 'words'
        ? all.map((w, i) => (i === 0 || (scheme.letter && w.length === 1) ? capital(w) : w)).join(' ')
        : all.map((w, i) => (i === 0 ? w : capital(w))).join('')
  return scheme.prefix + body
}

/** Words for joints that share the turn or the bend of the limb they lie on. */
const SHARES = /^(twist|roll|flex|bend|share|half|mid)$/
const SIDE_WORD = /^(l|r|lf|rt|lft|rgt|left|right)$/

/** What a joint is called under a scheme; one without a part of its own keeps its words, told in the scheme's style. */
function nameUnder(skeleton: Skeleton, j: number, scheme: NamingScheme): string {
  const name = skeleton.names[j]
  const role = skeleton.roles[j]
  if (role) return nameOfRole(role, scheme)
  const words = wordsOf(name).filter(w => !SIDE_WORD.test(w))
  const kind = words.find(w => SHARES.test(w))
  let limb = skeleton.parents[j]
  while (limb >= 0 && !skeleton.roles[limb]) limb = skeleton.parents[limb]
  const number = words.find(w => /^\d+$/.test(w))
  if (kind && limb >= 0) {
    const of = skeleton.roles[limb]!
    return styled([...wordsOfRole(of), kind, ...(number ? [String(Number(number))] : [])], sideOf(of), scheme)
  }
  if (scheme.others && words.length > 0) {
    const bare = name.startsWith(scheme.prefix) ? words.slice(wordsOf(scheme.prefix).length) : words
    if (bare.length > 0) return styled(bare, readName(name, '').side ?? jointSide(skeleton, j), scheme)
  }
  return scheme.prefix && !name.startsWith(scheme.prefix) ? scheme.prefix + name : name
}

/** What renaming by a scheme changes. Of several joints that would be called alike all but the first get running numbers. */
export function namesByScheme(skeleton: Skeleton, scheme: NamingScheme): Renaming {
  const wanted = new Map<number, string>()
  const taken = new Set<string>()
  const wish = skeleton.names.map((_, j) => nameUnder(skeleton, j, scheme))
  // parts of the body have the first choice
  const order = skeleton.names.map((_, j) => j).sort((a, b) => Number(!skeleton.roles[a]) - Number(!skeleton.roles[b]))
  for (const j of order) {
    let name = wish[j]
    for (let i = 2; taken.has(name) && !skeleton.roles[j]; i++)
      name = wish[j] + (scheme.style === 'snake' ? `_${i}` : scheme.style === 'words' ? ` ${i}` : String(i))
    taken.add(name)
    wanted.set(j, name)
  }
  return renamingTo(skeleton, wanted)
}
