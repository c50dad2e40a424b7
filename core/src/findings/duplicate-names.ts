import type { FindingContext, Rule } from './finding'

const doubles = ({ skeleton }: FindingContext): string[] =>
  skeleton ? [...new Set(skeleton.names.filter((n, j) => skeleton.names.indexOf(n) !== j))] : []

/** Several joints bear one name. */
export const duplicateNames: Rule = {
  id: 'duplicate-names',
  detect: context => {
    const names = doubles(context)
    if (names.length === 0) return []
    return [
      {
        rule: 'duplicate-names',
        severity: 'warning',
        value: names.length,
        unit: 'names',
        where: 'names',
        message: `Several joints are called ${names.slice(0, 3).join(', ')}${names.length > 3 ? ' and more' : ''}; files told by names mix them up.`,
        mendable: true,
        remedy: 'Adds running numbers to all but the first of each.',
        target: names[0],
      },
    ]
  },
  mend: () => ({ rig: [{ kind: 'number' }] }),
}
