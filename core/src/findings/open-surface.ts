import { counted } from '../words'
import type { Rule } from './finding'

/** The surface has holes. */
export const openSurface: Rule = {
  id: 'open-surface',
  detect: ({ check }) =>
    !check || check.holes === 0
      ? []
      : [
          {
            rule: 'open-surface',
            severity: 'note',
            value: check.holes,
            unit: check.holes === 1 ? 'hole' : 'holes',
            where: 'body',
            message: `The surface is open in ${counted(check.holes, 'place')} (${check.openEdges} edges). Landmarks and skin do not mind; a print or a simulation would.`,
            mendable: false,
            place: check.places.hole,
          },
        ],
}
