import type { Rule } from './finding'
import { stance } from './stance'

/** The body stands beside the midline. */
export const offMidline: Rule = {
  id: 'off-midline',
  detect: context => {
    const s = context.straightened
    if (!s || Math.abs(s.offMidline) <= 0.004 * s.height) return []
    return [
      stance(
        context,
        'off-midline',
        s.offMidline * 100,
        'cm',
        'midline',
        `The body stands ${Math.abs(s.offMidline * 100).toFixed(1)} cm beside the midline.`,
        'It was brought to it.',
      ),
    ]
  },
  mend: () => ({}),
}
