import {
  add,
  conjugate,
  fromAxisAngle,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import type { FigurePose } from '../reach'
import { atBind, worldPose, type Skeleton } from '../skeleton'
import { copyOf, type LimbReach } from './limb-reach'
import type { OwnPivot } from './choices'
import { handleId } from './handle'
import type { DrivenLimb, HandleSet } from './set'

/** Where a foot is rolled over, from behind to ahead, and its edges. */
export const PIVOTS = ['heel', 'ball', 'tip', 'inner', 'outer'] as const
export type Pivot = (typeof PIVOTS)[number]
/** Every place a foot can be rolled over: those found, and those of one's own by their ids. */
export type FootPivots = Readonly<Record<Pivot, FootPivot>> & Readonly<Record<string, FootPivot>>

/** A place of the sole that stays while the foot rolls over it. */
export interface FootPivot {
  /** In the foot joint's own space. */
  readonly place: Vec3
  /** What it rolls about, in the foot joint's own space; a positive turn lifts what lies on the other side. */
  readonly axis: Vec3
}

/** Where the ball lies along a foot without toes, from the heel. */
const BALL = 0.7

/** The pivots of a foot, found on its sole's own outline. @param joints joint by role */
export function footPivots(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  set: HandleSet,
  limb: DrivenLimb,
  more: readonly OwnPivot[] = [],
): FootPivots | undefined {
  const sole = limb.leg ? set.handles.find(h => h.id === handleId('end', limb.ref))?.shape : undefined
  if (!sole || sole.points.length < 9) return undefined
  const bind = worldPose(atBind(skeleton))
  const turn = quatAt(bind.rotations, limb.end)
  const at = vec3At(bind.positions, limb.end)
  const points = Array.from({ length: sole.points.length / 3 }, (_, i) => add(at, rotate(turn, vec3At(sole.points, i))))
  // a foot points to its toes, else the way its sole is longest ahead of the ankle
  const toes = joints[limb.ref.replace(/Foot$/, 'Toes')]
  const far = toes !== undefined ? vec3At(bind.positions, toes) : points.reduce((a, b) => (b[2] > a[2] ? b : a))
  const ahead = normalize([far[0] - at[0], 0, far[2] - at[2]], [0, 0, 1])
  const left: Vec3 = [ahead[2], 0, -ahead[0]]
  const along = (p: Vec3): number => p[0] * ahead[0] + p[2] * ahead[2]
  const across = (p: Vec3): number => p[0] * left[0] + p[2] * left[2]
  const most = (value: (p: Vec3) => number): Vec3 => points.reduce((a, b) => (value(b) > value(a) ? b : a))
  const [heel, tip] = [most(p => -along(p)), most(along)]
  const t =
    toes === undefined
      ? undefined
      : (along(vec3At(bind.positions, toes)) - along(heel)) / (along(tip) - along(heel) || 1)
  const share = t !== undefined && t > 0.3 && t < 0.95 ? t : BALL
  const ball: Vec3 = [0, 1, 2].map(k => heel[k] + share * (tip[k] - heel[k])) as Vec3
  const outwards = limb.ref.startsWith('right') ? -1 : 1
  const [outer, inner] = [most(p => outwards * across(p)), most(p => -outwards * across(p))]
  const own = (v: Vec3): Vec3 => rotate(conjugate(turn), v)
  const pivot = (place: Vec3, axis: Vec3): FootPivot => ({ place: own(sub(place, at)), axis: own(axis) })
  const back = (v: Vec3, sign: number): Vec3 => [sign * v[0], sign * v[1], sign * v[2]]
  // places of one's own: between heel and tip, between the middle line and an edge
  const placeOf = ({ along: t, across: s }: OwnPivot): Vec3 => {
    const middle = [0, 1, 2].map(k => heel[k] + t * (tip[k] - heel[k])) as Vec3
    const side = s < 0 ? inner : outer
    const wide = Math.abs(across(side) - across(middle))
    const sign = (s < 0 ? -1 : 1) * outwards * Math.abs(s) * wide
    return add(middle, [sign * left[0], 0, sign * left[2]])
  }
  const ofOnesOwn = Object.fromEntries(
    more
      .filter(p => p.foot === limb.ref)
      .map(p => [p.id, pivot(placeOf(p), p.along < share / 2 ? back(left, -1) : left)]),
  )
  return {
    ...ofOnesOwn,
    // over the heel the toes rise, over ball and tip the heel, over an edge the other one
    heel: pivot(heel, back(left, -1)),
    ball: pivot(ball, left),
    tip: pivot(tip, left),
    inner: pivot(inner, back(ahead, outwards)),
    outer: pivot(outer, back(ahead, -outwards)),
  }
}

/**
 * A pose in which a foot is rolled over one of its pivots, which stays where it is; the leg follows. Over the ball the toes stay
 * as they lie.
 * @param by radians
 */
export function rollFoot(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  reach: LimbReach,
  from: FigurePose,
  limb: DrivenLimb,
  pivots: FootPivots,
  over: string,
  by: number,
): FigurePose {
  const pose = copyOf(from)
  const w = worldPose(skeleton, from.translations, from.rotations)
  const foot = quatAt(w.rotations, limb.end)
  const at = vec3At(w.positions, limb.end)
  const { place, axis } = pivots[over]
  const stays = add(at, rotate(foot, place))
  const roll = fromAxisAngle(normalize(rotate(foot, axis)), by)
  const turn: Quat = multiply(roll, foot)
  reach.to(pose, limb, { place: add(stays, rotate(roll, sub(at, stays))), turn, firm: true })
  const toes = joints[limb.ref.replace(/Foot$/, 'Toes')]
  if (over === 'ball' && toes !== undefined && skeleton.parents[toes] === limb.end) {
    const now = worldPose(skeleton, pose.translations, pose.rotations)
    setQuat(pose.rotations, toes, multiply(conjugate(quatAt(now.rotations, limb.end)), quatAt(w.rotations, toes)))
  }
  return pose
}
