import type { Rule } from './finding'
import { inTakes } from './in-takes'

const LIMIT = 0.01

/** Feet that slide while they should rest, metres a second. */
export const footSkateRule: Rule = {
  id: 'foot-skate',
  detect: ({ performed = [], grounded }) =>
    inTakes(
      performed,
      ({ take, measures: { footSkateMetresPerSecond: slide } }) =>
        slide !== null && slide > LIMIT
          ? {
              rule: 'foot-skate',
              severity: 'warning',
              value: Math.round(slide * 1000) / 10,
              unit: 'cm/s',
              where: take.name,
              message: `In ${take.name} the feet slide ${(slide * 100).toFixed(1)} cm a second while they rest.`,
              mendable: grounded === false,
              remedy: 'Holds resting feet in place in every take.',
              target: take.name,
            }
          : undefined,
      (worst, count) =>
        `In ${count} takes the feet slide while they rest, up to ${worst.value.toFixed(1)} cm a second in ${worst.where}:`,
    ),
  mend: () => ({ ground: true }),
}
