import { counted } from '../words'
import { ChiraxisError } from '../math'

/** What a name pattern may hold, each in braces. */
export const NAME_PARTS = ['figure', 'take', 'performer', 'fps', 'number'] as const
export type NamePart = (typeof NAME_PARTS)[number]
export type NameSource = Readonly<Partial<Record<NamePart, string>>>

/** What happens where two results would have one name. */
export const CLASHES = ['number', 'skip', 'refuse'] as const
export type Clash = (typeof CLASHES)[number]

/** A name fit for a file: case and letters of any script stay, words are joined by hyphens, nothing leads out of a folder. */
const plain = (text: string): string =>
  text
    .trim()
    .normalize('NFC')
    .replace(/[^\p{L}\p{M}\p{N}._]+/gu, '-')
    .replace(/\.{2,}/g, '.')
    .replace(/^[-.]+|[-.]+$/g, '')
    .slice(0, 80)
    .replace(/[\uD800-\uDBFF]$/, '')

/**
 * Names for the results of many jobs by one pattern, e.g. `{figure}-{take}`.
 * @returns a name each, undefined for those left out by `skip`; and the names that clashed
 * @throws ChiraxisError `bad-settings` for a part there is not, an empty name, or clashes that are to be refused
 */
export function nameJobs(
  pattern: string,
  jobs: readonly NameSource[],
  clash: Clash,
  ending = '.glb',
): { names: (string | undefined)[]; clashes: string[] } {
  for (const [, part] of pattern.matchAll(/\{([^}]*)\}/g)) {
    if (!(NAME_PARTS as readonly string[]).includes(part))
      throw new ChiraxisError(
        'bad-settings',
        `A name cannot hold {${part.slice(0, 20)}}; it can hold ${NAME_PARTS.map(p => `{${p}}`).join(', ')}.`,
      )
  }
  const used = new Map<string, number>()
  const clashes = new Set<string>()
  const digits = String(jobs.length).length
  const names = jobs.map((job, i) => {
    const source: NameSource = { ...job, number: String(i + 1).padStart(digits, '0') }
    const stem = pattern
      .replace(/\{([^}]*)\}/g, (_, part: NamePart) => plain(source[part] ?? ''))
      .replace(/[/\\:*?"<>|]+/g, '-')
      .replace(/^[-.\s]+|[-.\s]+$/g, '')
    if (!stem) throw new ChiraxisError('bad-settings', 'The name pattern gives an empty name.')
    // many systems tell names of other case for one
    const key = stem.toLowerCase()
    const before = used.get(key) ?? 0
    used.set(key, before + 1)
    if (before === 0) return stem + ending
    clashes.add(stem + ending)
    return clash === 'skip' ? undefined : `${stem}-${before + 1}${ending}`
  })
  if (clash === 'refuse' && clashes.size > 0)
    throw new ChiraxisError(
      'bad-settings',
      `${counted(clashes.size, 'name')} would be given twice, as ${[...clashes][0]}. Add {number} or {performer} to the pattern.`,
    )
  // a numbered name may meet one that was already so
  const seen = new Set<string>()
  return {
    clashes: [...clashes],
    names: names.map(name => {
      let unique = name
      for (let n = 2; unique !== undefined && seen.has(unique.toLowerCase()); n++)
        unique = `${name!.slice(0, -ending.length)}-${n}${ending}`
      if (unique !== undefined) seen.add(unique.toLowerCase())
      return unique
    }),
  }
}
