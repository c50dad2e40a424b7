import type { Rule } from './finding'
import { stance } from './stance'

/** The file counts in another unit than metres. */
export const unitOff: Rule = {
  id: 'unit-off',
  detect: context => {
    const s = context.straightened
    if (!s || s.unit === 'm') return []
    const factor = s.unit === 'cm' ? 100 : 1000
    return [
      stance(
        context,
        'unit-off',
        factor,
        'times',
        'unit',
        `The file counts in ${s.unit}: the body is ${(s.height * factor).toFixed(0)} units tall.`,
        `It was brought to metres and is ${s.height.toFixed(2)} m tall.`,
      ),
    ]
  },
  mend: () => ({}),
}
