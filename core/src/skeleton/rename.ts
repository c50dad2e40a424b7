import { jointRef, type Skeleton } from './skeleton'

/** How some names are to change: words exchanged first, then what stands before and after, then running numbers. */
export interface RenameRule {
  readonly find: string
  readonly replace: string
  /** Whether capitals matter to what is found. */
  readonly exact: boolean
  readonly prefix: string
  readonly suffix: string
  /** Running numbers after one common name; left out, names stay apart by themselves. */
  readonly number?: { readonly name: string; readonly from: number; readonly digits: number }
}
export const NO_RENAME: RenameRule = { find: '', replace: '', exact: true, prefix: '', suffix: '' }
export const LONGEST_NAME = 200

export interface Renaming {
  /** New names by what a joint is told by in records, of those that change. */
  readonly names: Readonly<Record<string, string>>
  readonly changes: readonly { readonly joint: number; readonly from: string; readonly to: string }[]
  /** Why it cannot be done: a name that two joints would bear, or none at all. */
  readonly clash?: string
}

/** What names would be after a rule. Plain words are found, not patterns. */
export function renaming(skeleton: Skeleton, joints: readonly number[], rule: RenameRule): Renaming {
  const wanted = new Map(joints.map((j, i) => [j, newName(skeleton.names[j], rule, i)]))
  return renamingTo(skeleton, wanted)
}

/** What comes of giving some joints new names; clashes are told before anything is done. */
export function renamingTo(skeleton: Skeleton, wanted: ReadonlyMap<number, string>): Renaming {
  const changes = [...wanted].flatMap(([joint, to]) => {
    const from = skeleton.names[joint]
    return to === from ? [] : [{ joint, from, to }]
  })
  const bearers = new Map<string, number[]>()
  skeleton.names.forEach((name, j) => {
    const now = wanted.get(j) ?? name
    bearers.set(now, [...(bearers.get(now) ?? []), j])
  })
  const empty = changes.find(c => c.to.trim() === '')
  const long = changes.find(c => c.to.length > LONGEST_NAME)
  const twice = changes.find(c => bearers.get(c.to)!.length > 1)
  const clash = empty
    ? `${empty.from} would have no name.`
    : long
      ? `A name may have ${LONGEST_NAME} letters at the most.`
      : twice
        ? `${bearers.get(twice.to)!.length} joints would be called ${twice.to}.`
        : undefined
  return {
    names: Object.fromEntries(changes.map(c => [jointRef(skeleton, c.joint), c.to])),
    changes,
    ...(clash && { clash }),
  }
}

function newName(name: string, { find, replace, exact, prefix, suffix, number }: RenameRule, i: number): string {
  const bare = number ? number.name : find === '' ? name : replaced(name, find, replace, exact)
  const count = number ? String(number.from + i).padStart(number.digits, '0') : ''
  return prefix + bare + count + suffix
}

function replaced(name: string, find: string, replace: string, exact: boolean): string {
  if (exact) return name.split(find).join(replace)
  const escaped = find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
  return name.replace(new RegExp(escaped, 'giu'), () => replace)
}

/** A name, or the first of it with a number that is free. */
export function freshName(taken: readonly string[] | ReadonlySet<string>, wish: string): string {
  const stands = (name: string): boolean => ('has' in taken ? taken.has(name) : taken.includes(name))
  let name = wish
  for (let i = 2; stands(name); i++) name = `${wish} ${i}`
  return name
}

/** Names of which those that stand twice get a number. */
export function toldApart(names: readonly string[]): string[] {
  const taken = new Set<string>()
  return names.map(wish => {
    const name = freshName(taken, wish)
    taken.add(name)
    return name
  })
}
