import type { Performed } from '../perform'
import type { Finding } from './finding'

/**
 * One finding for whatever is wrong with several takes alike: told by the worst of them, with the others named.
 * @param told what it would be of one take alone  @param words the same of several, from the worst
 */
export function inTakes(
  performed: readonly Performed[],
  told: (p: Performed) => Finding | undefined,
  words: (worst: Finding, count: number) => string,
): Finding[] {
  const each = performed.flatMap(p => {
    const finding = told(p)
    return finding ? [finding] : []
  })
  if (each.length <= 1) return each
  const sorted = [...each].sort((a, b) => b.value - a.value)
  const worst = sorted[0]
  const takes = sorted.map(f => f.where)
  return [
    {
      ...worst,
      where: `${each.length} takes`,
      message: `${words(worst, each.length)} ${named(takes)}.`,
      takes,
    },
  ]
}

/** A few names, and how many more. */
const named = (names: readonly string[]): string =>
  names.length <= 4 ? names.join(', ') : `${names.slice(0, 3).join(', ')} and ${names.length - 3} more`
