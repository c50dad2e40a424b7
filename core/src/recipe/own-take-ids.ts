import type { Take } from '../motion'

const PREFIX = 'own:'

/** Whether a take came with the body itself. */
export const ownTakeAt = (id: string): boolean => id.startsWith(PREFIX)

/** Ids of the takes that came with a body: their names, numbered where a name is there more than once. */
export function ownTakeIds(takes: readonly Pick<Take, 'name'>[]): string[] {
  const seen = new Map<string, number>()
  return takes.map(({ name }) => {
    const n = (seen.get(name) ?? 0) + 1
    seen.set(name, n)
    return n === 1 ? PREFIX + name : `${PREFIX}${name}~${n}`
  })
}
