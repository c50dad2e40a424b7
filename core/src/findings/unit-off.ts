import type { Rule } from './finding'
import { stance } from './stance'

/** The file counts in another unit than metres. */
export const unitOff: Rule = {
  id: 'unit-off',
  detect: context => {
    const s = context.straightened
    if (!s || Math.abs(s.scale - 1) < 1e-9) return []
    const factor = 1 / s.scale
    return [
      stance(
        context,
        'unit-off',
        factor,
        'times',
        'unit',
        `The file counts in ${s.scale === 0.01 ? 'cm' : s.scale === 0.001 ? 'mm' : 'units of its own'}: the body is ${Number((s.height * factor).toPrecision(3))} units tall.`,
        `It was brought to metres and is ${s.height.toFixed(2)} m tall.`,
      ),
    ]
  },
  mend: () => ({}),
}
