import { distance, vec3At } from '../math'
import { worldPose, type Skeleton } from '../skeleton'

/** A place between two performer joints that a figure joint follows. */
export interface ChainShare { readonly a: number; readonly b: number; readonly t: number }

/**
 * Spines and necks with any number of joints: each figure joint follows the place on the performer's
 * chain that lies at the same share of its length.
 */
export function chainShares(
  figure: Skeleton, figureRoles: Readonly<Record<string, number>>, performer: Skeleton, performerRoles: Readonly<Record<string, number>>,
): (ChainShare & { readonly joint: number })[] {
  const out: (ChainShare & { joint: number })[] = []
  for (const [from, to] of [['hips', 'neck'], ['neck', 'head']]) {
    const mine = chain(figure, figureRoles, from, to)
    const theirs = chain(performer, performerRoles, from, to)
    if (!mine || !theirs) continue
    for (let i = 1; i < mine.joints.length - 1; i++) {
      const s = mine.shares[i]
      let k = 0
      while (k < theirs.joints.length - 2 && theirs.shares[k + 1] <= s + 1e-6) k++
      const span = theirs.shares[k + 1] - theirs.shares[k]
      let t = span > 1e-9 ? (s - theirs.shares[k]) / span : 0
      if (t < 1e-5) t = 0
      // the chain's last joint belongs to the next part; what lies above the last own joint follows that one
      const last = k + 1 === theirs.joints.length - 1
      out.push({ joint: mine.joints[i], a: theirs.joints[k], b: last ? theirs.joints[k] : theirs.joints[k + 1], t: last ? 0 : t })
    }
  }
  return out
}

function chain(skeleton: Skeleton, roles: Readonly<Record<string, number>>, from: string, to: string): { joints: number[]; shares: number[] } | undefined {
  const start = roles[from]
  const end = roles[to] ?? (to === 'neck' ? roles.head : undefined)
  if (start === undefined || end === undefined || start === end) return undefined
  const joints = [end]
  for (let p = skeleton.parents[end]; p >= 0 && p !== start; p = skeleton.parents[p]) joints.unshift(p)
  if (skeleton.parents[joints[0]] !== start) return undefined
  joints.unshift(start)
  const world = worldPose(skeleton)
  const shares = [0]
  for (let i = 1; i < joints.length; i++) shares.push(shares[i - 1] + distance(vec3At(world.positions, joints[i - 1]), vec3At(world.positions, joints[i])))
  const total = shares[shares.length - 1] || 1
  return { joints, shares: shares.map(s => s / total) }
}
