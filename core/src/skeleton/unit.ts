import { maxOf, minOf } from '../math'
import { jointsInWorld, type Skeleton } from './skeleton'

/** A unit of length a file may be told in, and metres in one of it. */
export interface LengthUnit {
  readonly name: 'm' | 'cm' | 'mm'
  readonly metres: number
}

/** The unit a skeleton is told in: a standing body spans some metres, or hundreds of centimetres. */
export function unitOfSkeleton(skeleton: Skeleton): LengthUnit {
  const joints = jointsInWorld(skeleton)
  const spans = [0, 1, 2].map(k => maxOf(joints.map(j => j.position[k])) - minOf(joints.map(j => j.position[k])))
  const span = maxOf(spans)
  return span < 8 ? { name: 'm', metres: 1 } : span < 450 ? { name: 'cm', metres: 0.01 } : { name: 'mm', metres: 0.001 }
}
