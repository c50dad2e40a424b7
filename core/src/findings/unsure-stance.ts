import type { Finding, Rule } from './finding'

/** What is less likely is asked about. Swapped sides are found late and spoil everything: one in five is too many. */
export const SURE_STANCE = { up: 0.6, facing: 0.8, unit: 0.6 } as const

/** Up, facing or unit of the body could not be told for sure. */
export const unsureStance: Rule = {
  id: 'unsure-stance',
  detect: ({ straightened }) => {
    if (!straightened) return []
    const out: Finding[] = []
    const add = (what: string, confidence: number, message: string, sure: number): void => {
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
    add('up axis', straightened.confidence.up, 'Which way is up is doubtful. Check it in Shape.', SURE_STANCE.up)
    add(
      'facing',
      straightened.confidence.facing,
      'Which way the body looks is doubtful. Check it in Shape, or left and right may be swapped.',
      SURE_STANCE.facing,
    )
    add(
      'unit',
      straightened.confidence.unit,
      `The body is ${straightened.height.toFixed(2)} m tall by its file; check the unit in Shape.`,
      SURE_STANCE.unit,
    )
    return out
  },
}
