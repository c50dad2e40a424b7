import { breather } from '../math'
import { landmarkKind, landmarkSection, placeLandmark } from '../landmarks'
import type { Finding, FindingContext, Rule } from './finding'

const LIMIT = 0.012
/** Landmarks that are held against the cut across their limb. */
export const isCentred = (id: string): boolean => /^(left|right)(Elbow|Wrist|Knee)$/.test(id)

/** A landmark of a limb that lies away from the middle of the limb, as a share of height. */
export const offCentre: Rule = {
  id: 'off-centre',
  detect: async ({ landmarks = [], mesh, straightened, weld }, work) => {
    if (!mesh || !straightened) return []
    const pulse = breather(work)
    const found: Finding[] = []
    for (const l of landmarks.filter(({ id }) => isCentred(id))) {
      await pulse()
      const cut = landmarkSection(mesh, landmarks, l.id, weld)
      if (!cut?.section.centre || cut.off < LIMIT * straightened.height) continue
      const label = landmarkKind(l.id)?.label ?? l.id
      found.push({
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
      })
    }
    return found
  },
  mend: (finding: Finding, { edits = {}, landmarks = [], mesh, straightened, weld }: FindingContext) => {
    if (!mesh || !straightened || !finding.target) return undefined
    const centre = landmarkSection(mesh, landmarks, finding.target, weld)?.section.centre
    if (!centre) return undefined
    return {
      edits: placeLandmark(landmarks, edits, finding.target, centre, { mirror: false, height: straightened.height }),
    }
  },
}
