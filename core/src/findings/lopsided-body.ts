import type { Rule } from './finding'

/** Left and right of the body differ. */
export const lopsidedBody: Rule = {
  id: 'lopsided-body',
  detect: ({ straightened: s }) =>
    !s || s.asymmetry <= 0.012
      ? []
      : [
          {
            rule: 'lopsided-body',
            severity: 'note',
            value: Math.round(s.asymmetry * 1000) / 10,
            unit: '% of size',
            where: 'symmetry',
            message: `Left and right differ by ${(s.asymmetry * 100).toFixed(1)} % of the body's size on average; mirrored edits keep each side its own shape.`,
            mendable: false,
          },
        ],
}
