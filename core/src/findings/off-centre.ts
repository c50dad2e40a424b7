import { landmarkKind, landmarkSection, ON_SKIN, placeLandmark } from '../landmarks'
import type { Finding, FindingContext, Rule } from './finding'

const LIMIT = 0.012

/** A landmark of a limb that lies away from the middle of the limb, as a share of height. */
export const offCentre: Rule = {
  id: 'off-centre',
  detect: ({ landmarks = [], mesh, straightened }) => {
    if (!mesh || !straightened) return []
    return landmarks
      .filter(l => /^(left|right)(Elbow|Wrist|Knee)$/.test(l.id) && !ON_SKIN.has(l.id))
      .flatMap((l): Finding[] => {
        const cut = landmarkSection(mesh, landmarks, l.id)
        if (!cut?.section.centre || cut.off < LIMIT * straightened.height) return []
        const label = landmarkKind(l.id)?.label ?? l.id
        return [
          {
            rule: 'off-centre',
            severity: 'warning',
            value: Math.round(cut.off * 1000) / 10,
            unit: 'cm',
            where: label,
            message: `${label} lies ${(cut.off * 100).toFixed(1)} cm off the middle of the limb; the skin will bend unevenly around it.`,
            mendable: true,
            remedy: `Moves ${label.toLowerCase()} to the middle of the cut across its limb.`,
            target: l.id,
            place: l.position,
          },
        ]
      })
  },
  mend: (finding: Finding, { edits = {}, landmarks = [], mesh, straightened }: FindingContext) => {
    if (!mesh || !straightened || !finding.target) return undefined
    const centre = landmarkSection(mesh, landmarks, finding.target)?.section.centre
    if (!centre) return undefined
    return {
      edits: placeLandmark(landmarks, edits, finding.target, centre, { mirror: false, height: straightened.height }),
    }
  },
}
