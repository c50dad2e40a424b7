import { ChiraxisError } from '@chiraxis/core/math'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { Assessment } from '@chiraxis/core/strain'
import type { Recipe } from '@chiraxis/core/recipe'
import type { Derivation } from '@chiraxis/core/steps'

const round = (x: number): number => Math.round(x * 100) / 100

/** An assessment as reports carry it: percent, places in metres, joints by name. */
export function strainReport(a: Assessment, skeleton: Skeleton): Record<string, unknown> {
  return {
    strain: {
      score: round(a.score),
      regions: a.regions.map(r => ({
        region: r.id,
        score: round(r.score),
        volumeLoss: round(r.volumeLoss),
        worstPose: r.worstPose,
      })),
      poses: a.poses.map(p => ({ pose: p.id, score: round(p.score) })),
      worst: a.worst.map(w => ({
        region: w.region,
        pose: w.pose,
        kind: w.kind,
        value: round(w.value),
        joint: skeleton.names[w.joint],
        place: w.place.map(x => Math.round(x * 1e5) / 1e5),
      })),
    },
  }
}

/** The same for a figure that may have no joint any pose knows: then the reason stands in its place. */
export async function regionScores(derivation: Derivation, recipe: Recipe): Promise<Record<string, unknown>> {
  try {
    return strainReport(await derivation.get('strain', recipe), (await derivation.get('rig', recipe)).skeleton)
  } catch (error) {
    if (error instanceof ChiraxisError) return { strain: { reason: error.message } }
    throw error
  }
}
