import type { Rule } from './finding'

const LIMIT = 0.01

/** Feet that slide while they should rest, metres a second. */
export const footSkateRule: Rule = {
  id: 'foot-skate',
  detect: ({ performed = [], grounded }) =>
    performed
      .filter(p => p.measures.footSkateMetresPerSecond > LIMIT)
      .map(p => ({
        rule: 'foot-skate',
        severity: 'warning',
        value: Math.round(p.measures.footSkateMetresPerSecond * 1000) / 10,
        unit: 'cm/s',
        where: p.take.name,
        message: `In ${p.take.name} the feet slide ${(p.measures.footSkateMetresPerSecond * 100).toFixed(1)} cm a second while they rest.`,
        mendable: grounded === false,
        remedy: 'Holds resting feet in place in every take.',
        target: p.take.name,
      })),
  mend: () => ({ ground: true }),
}
