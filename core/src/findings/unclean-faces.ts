import type { Rule } from './finding'

/** Faces that look the wrong way or have no area. */
export const uncleanFaces: Rule = {
  id: 'unclean-faces',
  detect: ({ check }) => {
    if (!check || check.flipped + check.degenerate === 0) return []
    const parts = [
      check.flipped > 0 ? `${check.flipped} faces look the wrong way` : '',
      check.degenerate > 0 ? `${check.degenerate} have no area` : '',
    ].filter(Boolean)
    return [
      {
        rule: 'unclean-faces',
        severity: check.flipped > 0.01 * check.triangles ? 'warning' : 'note',
        value: check.flipped + check.degenerate,
        unit: 'faces',
        where: 'body',
        message: `${parts.join(', ')}.`.replace(/^./, c => c.toUpperCase()),
        mendable: true,
        remedy: 'Turns faces outwards piece by piece and takes out those without area.',
        place: check.places.flipped ?? check.places.degenerate,
      },
    ]
  },
  mend: () => ({ cleanFaces: true }),
}
