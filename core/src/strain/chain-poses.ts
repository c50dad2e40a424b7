import { fromAxisAngle, cross, length, normalize, type Vec3 } from '../math'
import {
  atBind,
  boneDirection,
  childrenOf,
  freeJoints,
  jointRef,
  skinJoints,
  worldPose,
  type Skeleton,
} from '../skeleton'
import type { CheckPose } from './check-poses'

/** How far a whole chain is bent in its poses, degrees, shared among its joints, and one joint at the most. */
const BENT = 80
const MOST = 45

/**
 * Poses for what no plan of a body knows: every chain of joints without a role that ends free, as tails, wings, cables and
 * skirts do, is curled up, down and to both sides. Single joints beside a limb are no chains.
 */
export function chainPoses(skeleton: Skeleton): CheckPose[] {
  const chains = freeChains(skeleton)
  if (chains.length === 0) return []
  const bound = atBind(skeleton)
  const world = worldPose(bound)
  const children = childrenOf(bound)
  const pose = (id: string, label: string, about: (bone: Vec3) => Vec3, way: 1 | -1): CheckPose => ({
    id,
    label,
    group: 'chains',
    turns: chains.flatMap(chain => {
      const each = (way * Math.min(MOST, BENT / chain.length) * Math.PI) / 180
      return chain.flatMap(j => {
        const bone = boneDirection(bound, j, children, world)
        return bone ? [{ joint: jointRef(skeleton, j), by: fromAxisAngle(about(bone), each) }] : []
      })
    }),
  })
  /** Level and across the bone, so that its end goes up or down; about the body's left where it stands upright. */
  const level = (bone: Vec3): Vec3 => {
    const axis = cross(bone, [0, 1, 0])
    return length(axis) > 0.2 ? normalize(axis) : [1, 0, 0]
  }
  const aside = (bone: Vec3): Vec3 => normalize(cross(level(bone), bone))
  return [
    pose('chains-up', 'Chains curled up', level, 1),
    pose('chains-down', 'Chains curled down', level, -1),
    pose('chains-left', 'Chains curled one way', aside, 1),
    pose('chains-right', 'Chains curled the other way', aside, -1),
  ]
}

/** Runs of joints without a role that move skin, from where they branch off to where they end free. */
export function freeChains(skeleton: Skeleton): number[][] {
  const children = childrenOf(skeleton)
  const free = freeJoints(skeleton, skinJoints(skeleton))
  const out: number[][] = []
  const walk = (from: number): void => {
    const run = [from]
    let j = from
    while (children[j].length === 1) run.push((j = children[j][0]))
    if (run.length > 1) out.push(run)
    for (const c of children[j]) walk(c)
  }
  skeleton.parents.forEach((p, j) => {
    if (free[j] && (p < 0 || !free[p])) walk(j)
  })
  return out
}
