import { add, distance, quatAt, rotate, sub, vec3At, type Vec3 } from '../math'
import { worldPose, type Skeleton } from '../skeleton'
import { FINGERS, PHALANGES, SIDES, tailOf } from '../body'

/** A place between two performer joints that a figure joint follows. */
export interface ChainShare {
  readonly a: number
  readonly b: number
  readonly t: number
}

type Joints = Readonly<Record<string, number>>
/** Joints in a row, from above, and the share of the whole length each lies at. */
interface Chain {
  readonly joints: readonly number[]
  readonly shares: readonly number[]
}

/**
 * Spines, necks and tails with any number of joints: each figure joint follows the place on the performer's
 * chain that lies at the same share of its length. Fingers of other joint counts share their curl, see {@link fingerShares}.
 */
export function chainShares(
  figure: Skeleton,
  figureRoles: Joints,
  performer: Skeleton,
  performerRoles: Joints,
): (ChainShare & { readonly joint: number })[] {
  const out: (ChainShare & { joint: number })[] = []
  for (const [from, to] of [
    ['hips', 'neck'],
    ['neck', 'head'],
  ]) {
    const mine = chain(figure, figureRoles, from, to)
    const theirs = chain(performer, performerRoles, from, to)
    if (!mine || !theirs) continue
    // both ends are parts of their own
    for (let i = 1; i < mine.joints.length - 1; i++)
      out.push({ joint: mine.joints[i], ...placeOn(theirs, mine.shares[i]) })
  }
  out.push(...fingerShares(figure, figureRoles, performer, performerRoles))
  const mine = tail(figure, figureRoles),
    theirs = tail(performer, performerRoles)
  if (mine && theirs)
    mine.joints.slice(0, -1).forEach((joint, i) => out.push({ joint, ...placeOn(theirs, mine.shares[i]) }))
  return out
}

/**
 * Fingers whose joints are not as many on both sides: each bone of the figure's turns as the performer's bones do that lie along the
 * same share of the finger, so that the tip curls as far.
 */
function fingerShares(
  figure: Skeleton,
  figureRoles: Joints,
  performer: Skeleton,
  performerRoles: Joints,
): (ChainShare & { readonly joint: number })[] {
  return SIDES.flatMap(side =>
    FINGERS.flatMap(finger => {
      const bones = (skeleton: Skeleton, roles: Joints): Chain | undefined =>
        boned(
          skeleton,
          PHALANGES.flatMap(part => roles[side + finger + part] ?? []),
        )
      const mine = bones(figure, figureRoles),
        theirs = bones(performer, performerRoles)
      if (!mine || !theirs || mine.joints.length === theirs.joints.length) return []
      return mine.joints
        .slice(0, -1)
        .map((joint, i) => ({ joint, ...bonesOver(theirs, mine.shares[i], mine.shares[i + 1]) }))
    }),
  )
}

/** The two neighbouring bones that cover most of a stretch of a chain, and the second's share of what both cover. */
function bonesOver(chain: Chain, from: number, to: number): ChainShare {
  const covers = chain.joints
    .slice(0, -1)
    .map((_, k) => Math.max(0, Math.min(to, chain.shares[k + 1]) - Math.max(from, chain.shares[k])))
  let best = 0
  for (let k = 0; k + 1 < covers.length; k++)
    if (covers[k] + covers[k + 1] > covers[best] + (covers[best + 1] ?? 0)) best = k
  const both = covers[best] + (covers[best + 1] ?? 0)
  const t = both > 1e-9 ? (covers[best + 1] ?? 0) / both : 0
  if (t < 1e-5) return { a: chain.joints[best], b: chain.joints[best], t: 0 }
  return t > 1 - 1e-5
    ? { a: chain.joints[best + 1], b: chain.joints[best + 1], t: 0 }
    : { a: chain.joints[best], b: chain.joints[best + 1], t }
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
  return sharesOf(
    joints,
    joints.map(j => vec3At(world.positions, j)),
  )
}

const tail = (skeleton: Skeleton, roles: Joints): Chain | undefined => boned(skeleton, tailOf(roles))

/** Joints in a row and, standing for the end of the last bone, the last once more; an end that is not told lies as far again as the bone before. */
function boned(skeleton: Skeleton, joints: readonly number[]): Chain | undefined {
  if (joints.length === 0) return undefined
  const world = worldPose(skeleton)
  const places = joints.map(j => vec3At(world.positions, j))
  const last = joints[joints.length - 1]
  const tip = skeleton.tips ? vec3At(skeleton.tips, last) : ([0, 0, 0] as Vec3)
  const before = places[places.length - 2] ?? ([places[0][0], places[0][1] - 1e-3, places[0][2]] as Vec3)
  const end =
    Math.hypot(...tip) > 1e-9
      ? add(places[places.length - 1], rotate(quatAt(world.rotations, last), tip))
      : add(places[places.length - 1], sub(places[places.length - 1], before))
  return sharesOf([...joints, last], [...places, end])
}

function sharesOf(joints: readonly number[], places: readonly Vec3[]): Chain {
  const shares = [0]
  for (let i = 1; i < joints.length; i++) shares.push(shares[i - 1] + distance(places[i - 1], places[i]))
  const total = shares[shares.length - 1] || 1
  return { joints, shares: shares.map(s => s / total) }
}
