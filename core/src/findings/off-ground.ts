import type { Rule } from './finding'
import { stance } from './stance'

/** The body hangs above the ground or is sunk into it. */
export const offGround: Rule = {
  id: 'off-ground',
  detect: context => {
    const s = context.straightened
    if (!s || Math.abs(s.offGround) <= 0.002 * s.height) return []
    return [
      stance(
        context,
        'off-ground',
        s.offGround * 100,
        'cm',
        'ground',
        `The body stands ${Math.abs(s.offGround * 100).toFixed(1)} cm ${s.offGround > 0 ? 'above' : 'below'} the ground.`,
        'It was set on it.',
      ),
    ]
  },
  mend: () => ({}),
}
