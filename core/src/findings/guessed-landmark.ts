import { landmarkKind } from '../landmarks'
import type { Rule } from './finding'

/** A landmark the body did not show clearly. */
export const guessedLandmark: Rule = {
  id: 'guessed-landmark',
  detect: ({ landmarks = [] }) =>
    landmarks
      .filter(l => l.confidence < 0.6)
      .map(l => {
        const kind = landmarkKind(l.id)
        return {
          rule: 'guessed-landmark',
          severity: 'warning',
          value: l.confidence,
          unit: 'confidence',
          where: kind?.label ?? l.id,
          message: `${kind?.label ?? l.id}: the body does not show it clearly. ${kind?.hint ?? ''}`.trim(),
          mendable: false,
          target: l.id,
          place: l.position,
        }
      }),
}
