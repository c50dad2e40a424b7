import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'

const encoder = new TextEncoder()
/** A digest of a text. */
export const hashText = (text: string): string => bytesToHex(sha256(encoder.encode(text)))

/** Digests of objects, which never change once they are part of a recipe. */
const known = new WeakMap<object, string>()
const chains = new WeakMap<object, readonly string[]>()

const isRecord = (value: unknown): value is object =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/**
 * A short text that stands for a value: equal content, equal digest. Objects are remembered by identity, so of a recipe
 * that shares its parts with an earlier one only what is new is looked at. Lists of records are chained, see
 * {@link chainOf}.
 */
export function digest(value: unknown): string {
  if (typeof value !== 'object' || value === null) return value === undefined ? '-' : JSON.stringify(value)
  const before = known.get(value)
  if (before !== undefined) return before
  const made =
    Array.isArray(value) && value.length > 0 && value.every(isRecord)
      ? chainOf(value).at(-1)!
      : hashText(JSON.stringify(value))
  known.set(value, made)
  return made
}

/**
 * Digests of the beginnings of a list, from none of it to all of it: n + 1 texts. Adding to the end leaves the others
 * as they were, so work done for a beginning is found again.
 */
export function chainOf(list: readonly unknown[]): readonly string[] {
  const before = chains.get(list)
  if (before) return before
  const chain = [hashText('[')]
  for (const item of list) chain.push(hashText(`${chain[chain.length - 1]} ${digest(item)}`))
  chains.set(list, chain)
  return chain
}

/**
 * What a recipe holds at a path such as `bones.plan.kind`. A `$` stands for the record with the given id in a list, or
 * the entry of that name in an object.
 */
export function valueAt(recipe: object, path: string, of: string | undefined): unknown {
  let at: unknown = recipe
  for (const part of path.split('.')) {
    if (at === null || typeof at !== 'object') return undefined
    if (part !== '$') at = (at as Record<string, unknown>)[part]
    else if (Array.isArray(at)) at = at.find(item => (item as { id?: string }).id === of)
    else at = (at as Record<string, unknown>)[of ?? '']
  }
  return at
}
