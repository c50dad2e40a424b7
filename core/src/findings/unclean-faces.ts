import { capital, counted } from '../words'
import type { Rule } from './finding'

/** Faces that look the wrong way or have no area. */
export const uncleanFaces: Rule = {
  id: 'unclean-faces',
  detect: ({ check }) => {
    if (!check || check.flipped + check.degenerate === 0) return []
    const parts = [
      check.flipped > 0 ? `${counted(check.flipped, 'face looks', 'faces look')} the wrong way` : '',
      check.degenerate > 0 ? `${counted(check.degenerate, 'face has', 'faces have')} no area` : '',
    ].filter(Boolean)
    return [
      {
        rule: 'unclean-faces',
        severity: check.flipped > 0.01 * check.triangles ? 'warning' : 'note',
        value: check.flipped + check.degenerate,
        unit: 'faces',
        where: 'body',
        message: capital(`${parts.join(', ')}.`),
        mendable: true,
        remedy: 'Turns faces outwards piece by piece and removes those without area.',
        place: check.places.flipped ?? check.places.degenerate,
      },
    ]
  },
  mend: () => ({ cleanFaces: true }),
}
