import { breather, type WorkOptions, maxOf } from '../math'
import type { Mesh } from '../mesh'
import type { Skeleton } from '../skeleton'
import type { TurnedShape } from '../corrective'
import type { Skin } from '../skin'
import { excess } from './assess'
import type { CheckPose } from './check-poses'
import { regionsOf } from './regions'
import { bend } from './show'
import { restTriangles, triangleStrain } from './triangle-strain'

/** Strain of each region on the way into a pose. */
export interface StrainRange {
  /** How far into the pose, 0..1. */
  readonly shares: readonly number[]
  /** Regions that are strained at all, worst first, percent at every share. */
  readonly regions: readonly { readonly id: string; readonly label: string; readonly scores: readonly number[] }[]
}

/** Follows the skin from rest into a pose in even steps. */
export async function strainRange(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  pose: CheckPose,
  work: WorkOptions = {},
  shapes: readonly TurnedShape[] = [],
  steps = 10,
): Promise<StrainRange> {
  const pulse = breather(work)
  const rest = restTriangles(mesh.positions, mesh.indices)
  const { areas } = rest
  const regions = await regionsOf(mesh, skeleton, work)
  const whole = new Float64Array(regions.list.length)
  for (let f = 0; f < areas.length; f++) whole[regions.of[mesh.indices[3 * f]]] += areas[f]
  const shares = Array.from({ length: steps + 1 }, (_, i) => i / steps)
  const scores: number[][] = regions.list.map(() => [])
  for (const share of shares) {
    const strain = triangleStrain(rest, bend(mesh.positions, skeleton, skin, pose, share, 'linear', shapes))
    const sums = new Float64Array(regions.list.length)
    for (let f = 0; f < areas.length; f++) sums[regions.of[mesh.indices[3 * f]]] += areas[f] * excess(strain, f) ** 2
    sums.forEach((s, r) => scores[r].push(whole[r] > 0 ? 100 * Math.sqrt(s / whole[r]) : 0))
    await pulse(share)
  }
  const list = regions.list.map((r, i) => ({ ...r, scores: scores[i] })).filter(r => maxOf(r.scores) > 1)
  return { shares, regions: list.sort((a, b) => maxOf(b.scores) - maxOf(a.scores)) }
}
