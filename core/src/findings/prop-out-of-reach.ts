import { maxOf } from '../math'
import type { Finding, Rule } from './finding'

/** Metres a hand may be off the place it should hold. */
const LIMIT = 0.01

/** Hands that do not reach the place of a prop they are told to hold. */
export const propOutOfReachRule: Rule = {
  id: 'prop-out-of-reach',
  detect: ({ performed = [] }) =>
    performed.flatMap(({ take, courses = [] }) =>
      courses.flatMap(({ name, off }): Finding[] => {
        const most = maxOf(off, 0)
        if (most <= LIMIT) return []
        const at = off.indexOf(most) / take.fps
        return [
          {
            rule: 'prop-out-of-reach',
            severity: 'warning',
            value: Math.round(most * 1000) / 10,
            unit: 'cm',
            where: take.name,
            message: `In ${take.name} a hand stays up to ${(100 * most).toFixed(1)} cm off its place on ${name}, at ${at.toFixed(2)} s.`,
            mendable: false,
            target: take.name,
          },
        ]
      }),
    ),
}
