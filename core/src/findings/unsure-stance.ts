import type { Finding, Rule } from './finding'

/** Swapped sides are found late and spoil everything: a chance of one in five is asked about. */
const SURE_FACING = 0.8

/** Up, facing or unit of the body could not be told for sure. */
export const unsureStance: Rule = {
  id: 'unsure-stance',
  detect: ({ straightened }) => {
    if (!straightened) return []
    const out: Finding[] = []
    const add = (what: string, confidence: number, message: string, sure = 0.6): void => {
      if (confidence < sure)
        out.push({
          rule: 'unsure-stance',
          severity: 'warning',
          value: Math.round(confidence * 100) / 100,
          unit: 'confidence',
          where: what,
          message,
          mendable: false,
        })
    }
    add('up axis', straightened.confidence.up, 'Which way is up could not be told for sure. Check it in Shape.')
    add(
      'facing',
      straightened.confidence.facing,
      'Which way the body looks could not be told for sure. Check it in Shape, or left and right may be swapped.',
      SURE_FACING,
    )
    add(
      'unit',
      straightened.confidence.unit,
      `The body is ${straightened.height.toFixed(2)} m tall by its file; check the unit in Shape.`,
    )
    return out
  },
}
