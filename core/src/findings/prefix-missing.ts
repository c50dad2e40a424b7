import { counted } from '../words'
import { commonPrefix } from '../skeleton'
import type { FindingContext, Rule } from './finding'

function lacking({ skeleton, source }: FindingContext): { prefix: string; names: string[] } | undefined {
  if (!skeleton || source !== 'received') return undefined
  const prefix = commonPrefix(skeleton.names, 0.3)
  if (!prefix || !/[:|]$/.test(prefix)) return undefined
  const names = skeleton.names.filter(n => !n.startsWith(prefix))
  return names.length > 0 ? { prefix, names } : undefined
}

/** Some joints lack the prefix that the others carry. */
export const prefixMissing: Rule = {
  id: 'prefix-missing',
  detect: context => {
    const found = lacking(context)
    if (!found) return []
    return [
      {
        rule: 'prefix-missing',
        severity: 'warning',
        value: found.names.length,
        unit: 'joints',
        where: 'names',
        message: `${counted(found.names.length, 'joint lacks', 'joints lack')} the prefix “${found.prefix}” that the others carry, ${found.names.length > 1 ? 'such as ' : ''}${found.names[0]}; takes that go by names will miss ${found.names.length > 1 ? 'them' : 'it'}.`,
        mendable: true,
        remedy: `Adds “${found.prefix}” to them.`,
        target: found.names[0],
      },
    ]
  },
  mend: (_, context) => {
    const found = lacking(context)
    return (
      found && { rig: [{ kind: 'rename', names: Object.fromEntries(found.names.map(n => [n, found.prefix + n])) }] }
    )
  },
}
