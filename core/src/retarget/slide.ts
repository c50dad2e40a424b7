import { rotateAt } from '../math'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { TransferPlan } from './prepare'

/** Joints that slide less than this are taken for still, share of a leg. */
const STILL = 0.002
/** What is told of: joints that slide more than this. */
const TOLD = 0.01

/** How far each joint goes from where it hangs, 3·N against `base` of the same joint, squared, at most. */
function farthest(take: Take, J: number, j: number, base: readonly [number, number, number]): number {
  let most = 0
  for (let f = 0; f < take.frames; f++) {
    const o = 3 * (f * J + j)
    const x = take.translations[o] - base[0],
      y = take.translations[o + 1] - base[1],
      z = take.translations[o + 2] - base[2]
    most = Math.max(most, x * x + y * y + z * z)
  }
  return Math.sqrt(most)
}

/** Whether a joint surely stays within a distance of where it mostly is: told from its first place, without sorting. */
const stays = (take: Take, J: number, j: number, within: number): boolean =>
  2 * farthest(take, J, j, [0, 1, 2].map(k => take.translations[3 * j + k]) as [number, number, number]) < within

const restOf = ({ restTranslations: T }: Skeleton, j: number): [number, number, number] => [
  T[3 * j],
  T[3 * j + 1],
  T[3 * j + 2],
]

/** Where a joint is in the middle of a take: half of all frames to either side, axis by axis. */
function middleOf(take: Take, J: number, j: number): [number, number, number] {
  const step = Math.max(1, Math.floor(take.frames / 200))
  return [0, 1, 2].map(k => {
    const values: number[] = []
    for (let f = 0; f < take.frames; f += step) values.push(take.translations[3 * (f * J + j) + k])
    return values.sort((a, b) => a - b)[values.length >> 1]
  }) as [number, number, number]
}

/**
 * Carries joints that slide on what they hang on, as shoulders that are drawn in, stretched limbs and roots do: where the
 * figure's joint and what it hangs on follow the performer's. On skeletons called alike a slide counts from rest, so that
 * the take comes back as it was; on others from where the joint mostly is, as recordings write other bone lengths than
 * their rest pose has.
 * @param out translations of the figure, 3·F·N, changed
 */
export function carrySlides(plan: TransferPlan, take: Take, out: Float32Array, scale: number): void {
  const { performerSkeleton, figureSkeleton, slides, alike, performerStance } = plan
  const P = performerSkeleton.names.length,
    F = figureSkeleton.names.length
  const still = STILL * performerStance.leg
  const v = new Float64Array(3)
  for (let i = 0; i < slides.joints.length; i++) {
    const j = slides.joints[i],
      p = slides.from[i]
    const rest = restOf(performerSkeleton, p)
    if (alike ? farthest(take, P, p, rest) < 1e-6 * performerStance.leg : stays(take, P, p, still)) continue
    const base = alike ? rest : middleOf(take, P, p)
    if (!alike && farthest(take, P, p, base) < still) continue
    const own = restOf(figureSkeleton, j)
    for (let f = 0; f < take.frames; f++) {
      const o = 3 * (f * P + p),
        to = 3 * (f * F + j)
      rotateAt(
        v,
        0,
        slides.turns,
        4 * i,
        take.translations[o] - base[0],
        take.translations[o + 1] - base[1],
        take.translations[o + 2] - base[2],
      )
      for (let k = 0; k < 3; k++) out[to + k] = own[k] + scale * v[k]
    }
  }
}

/** A joint of the performer that slides in a take, and whether the figure has one that goes along. */
export interface Sliding {
  readonly joint: string
  /** How far from where it mostly is, share of a leg. */
  readonly most: number
  readonly carried: boolean
}

/** The joints of a performer that slide in a take, hips and what carries them left out, the farthest first. */
export function slidingJoints(plan: TransferPlan, take: Take): Sliding[] {
  const { performerSkeleton, performer, performerStance, slides } = plan
  const P = performerSkeleton.names.length
  const above = new Set<number>()
  for (let j = performer.joints.hips; j >= 0; j = performerSkeleton.parents[j]) above.add(j)
  const carried = new Set(slides.from)
  return performerSkeleton.names
    .flatMap((joint, p): Sliding[] => {
      if (above.has(p) || stays(take, P, p, TOLD * performerStance.leg)) return []
      const most = farthest(take, P, p, middleOf(take, P, p)) / (performerStance.leg || 1)
      return most > TOLD ? [{ joint, most, carried: carried.has(p) }] : []
    })
    .sort((a, b) => b.most - a.most)
}
