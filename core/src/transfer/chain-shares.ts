import { add, distance, quatAt, rotate, sub, vec3At, type Vec3 } from '../math'
import { tailOf, worldPose, type Skeleton } from '../skeleton'

/** A place between two performer joints that a figure joint follows. */
export interface ChainShare { readonly a: number; readonly b: number; readonly t: number }

type Joints = Readonly<Record<string, number>>
/** Joints in a row, from above, and the share of the whole length each lies at. */
interface Chain { readonly joints: readonly number[]; readonly shares: readonly number[] }

/**
 * Spines, necks and tails with any number of joints: each figure joint follows the place on the performer's
 * chain that lies at the same share of its length.
 */
export function chainShares(figure: Skeleton, figureRoles: Joints, performer: Skeleton, performerRoles: Joints): (ChainShare & { readonly joint: number })[] {
  const out: (ChainShare & { joint: number })[] = []
  for (const [from, to] of [['hips', 'neck'], ['neck', 'head']]) {
    const mine = chain(figure, figureRoles, from, to)
    const theirs = chain(performer, performerRoles, from, to)
    if (!mine || !theirs) continue
    // both ends are parts of their own
    for (let i = 1; i < mine.joints.length - 1; i++) out.push({ joint: mine.joints[i], ...placeOn(theirs, mine.shares[i]) })
  }
  const mine = tail(figure, figureRoles), theirs = tail(performer, performerRoles)
  if (mine && theirs) mine.joints.slice(0, -1).forEach((joint, i) => out.push({ joint, ...placeOn(theirs, mine.shares[i]) }))
  return out
}

function placeOn(theirs: Chain, s: number): ChainShare {
  let k = 0
  while (k < theirs.joints.length - 2 && theirs.shares[k + 1] <= s + 1e-6) k++
  const span = theirs.shares[k + 1] - theirs.shares[k]
  let t = span > 1e-9 ? (s - theirs.shares[k]) / span : 0
  if (t < 1e-5) t = 0
  // the chain's last joint belongs to the next part; what lies above the last own joint follows that one
  const last = k + 1 === theirs.joints.length - 1
  return { a: theirs.joints[k], b: last ? theirs.joints[k] : theirs.joints[k + 1], t: last ? 0 : t }
}

function chain(skeleton: Skeleton, roles: Joints, from: string, to: string): Chain | undefined {
  const start = roles[from]
  const end = roles[to] ?? (to === 'neck' ? roles.head : undefined)
  if (start === undefined || end === undefined || start === end) return undefined
  const joints = [end]
  for (let p = skeleton.parents[end]; p >= 0 && p !== start; p = skeleton.parents[p]) joints.unshift(p)
  if (skeleton.parents[joints[0]] !== start) return undefined
  joints.unshift(start)
  const world = worldPose(skeleton)
  return sharesOf(joints, joints.map(j => vec3At(world.positions, j)))
}

/** The joints of a tail and, standing for its end, the last once more; an end that is not told lies as far again as the bone before. */
function tail(skeleton: Skeleton, roles: Joints): Chain | undefined {
  const joints = tailOf(roles)
  if (joints.length === 0) return undefined
  const world = worldPose(skeleton)
  const places = joints.map(j => vec3At(world.positions, j))
  const last = joints[joints.length - 1]
  const tip = skeleton.tips ? vec3At(skeleton.tips, last) : ([0, 0, 0] as Vec3)
  const before = places[places.length - 2] ?? places[0]
  const end = Math.hypot(...tip) > 1e-9 ? add(places[places.length - 1], rotate(quatAt(world.rotations, last), tip)) : add(places[places.length - 1], sub(places[places.length - 1], before))
  return sharesOf([...joints, last], [...places, end])
}

function sharesOf(joints: readonly number[], places: readonly Vec3[]): Chain {
  const shares = [0]
  for (let i = 1; i < joints.length; i++) shares.push(shares[i - 1] + distance(places[i - 1], places[i]))
  const total = shares[shares.length - 1] || 1
  return { joints, shares: shares.map(s => s / total) }
}
