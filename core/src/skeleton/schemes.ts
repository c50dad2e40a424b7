import type { Skeleton } from './skeleton'
import { sideOf } from '../body'

/** How joints are to be named after their roles. */
export interface NamingScheme {
  readonly style: 'camel' | 'snake' | 'words'
  /** Where the side stands, and whether as a word or a letter. */
  readonly side: 'first' | 'last'
  readonly letter: boolean
  readonly prefix: string
}
export const PLAIN_SCHEME: NamingScheme = { style: 'camel', side: 'first', letter: false, prefix: '' }

/** The name of one role under a scheme: leftUpperArm, upper_arm_l, Upper arm R. */
export function nameOfRole(role: string, scheme: NamingScheme): string {
  const side = sideOf(role)
  const words = (side === 'middle' ? role : role.slice(side.length))
    .replace(/([A-Z0-9])/g, ' $1')
    .trim()
    .toLowerCase()
    .split(/\s+/)
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

/** New names by old for all joints with a role whose name changes. Joints without a role only take the prefix. */
export function namesByScheme(skeleton: Skeleton, scheme: NamingScheme): Record<string, string> {
  const out: Record<string, string> = {}
  skeleton.names.forEach((name, j) => {
    const role = skeleton.roles[j]
    const next = role
      ? nameOfRole(role, scheme)
      : scheme.prefix && !name.startsWith(scheme.prefix)
        ? scheme.prefix + name
        : name
    if (next !== name) out[name] = next
  })
  return out
}
