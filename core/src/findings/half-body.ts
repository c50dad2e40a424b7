import type { Rule } from './finding'

/** Only one half of the body was modelled. */
export const halfBody: Rule = {
  id: 'half-body',
  detect: ({ half }) =>
    half
      ? [
          {
            rule: 'half-body',
            severity: 'error',
            value: Math.round(half.sure * 100),
            unit: '% of the rim',
            where: 'body',
            message: `Only one half of the body is here: it is cut open along ${half.axis} = 0.`,
            mendable: true,
            remedy: 'Adds its mirror image and closes the seam.',
          },
        ]
      : [],
  mend: () => ({ mirrorHalf: 'left' }),
}
