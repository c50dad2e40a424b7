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
            message: `The surface is open in ${check.holes} ${check.holes === 1 ? 'place' : 'places'} (${check.openEdges} edges). Landmarks and skin do not mind; a print or a simulation would.`,
            mendable: false,
            place: check.places.hole,
          },
        ],
}
