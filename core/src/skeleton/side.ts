import { sideOf, type Side } from '../body'
import { readName } from './recognise-names'
import type { Skeleton } from './skeleton'

const WORDS: readonly (readonly [RegExp, string])[] = [
  [/left/, 'right'],
  [/Left/, 'Right'],
  [/LEFT/, 'RIGHT'],
  [/right/, 'left'],
  [/Right/, 'Left'],
  [/RIGHT/, 'LEFT'],
]
const MARKS: Readonly<Record<string, string>> = {
  l: 'r',
  L: 'R',
  r: 'l',
  R: 'L',
  lf: 'rt',
  rt: 'lf',
  LF: 'RT',
  RT: 'LF',
}

/** The name of the joint across the midline by its side mark, in any place; the same name where there is none. */
export function mirroredName(name: string): string {
  for (const [word, other] of WORDS) if (word.test(name)) return name.replace(word, other)
  // a side letter stands on its own between separators, or ends or begins the name
  return name.replace(
    /(^|[^A-Za-z0-9])(l|L|r|R|lf|rt|LF|RT)(?=$|[^A-Za-z0-9])/,
    (_, before: string, mark: string) => before + MARKS[mark],
  )
}

/** The joint across the midline: by role, else by side mark; -1 where there is none, `j` itself on the midline. */
export function partnerJoint(skeleton: Skeleton, j: number): number {
  const role = skeleton.roles[j]
  if (role) {
    const other = mirroredName(role)
    if (other !== role) return skeleton.roles.indexOf(other)
    return j
  }
  const other = mirroredName(skeleton.names[j])
  return other === skeleton.names[j] ? j : skeleton.names.indexOf(other)
}

/** The side of the body a joint belongs to: by its role, else its name, else what it hangs on. */
export function jointSide(skeleton: Skeleton, j: number): Side | 'middle' {
  for (let p = j; p >= 0; p = skeleton.parents[p]) {
    const role = skeleton.roles[p]
    if (role) return sideOf(role)
    const { side } = readName(skeleton.names[p], '')
    if (side) return side
  }
  return 'middle'
}
