import {
  add,
  conjugate,
  cross,
  dot,
  fromTo,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  rotationVector,
  scale,
  setQuat,
  slerp,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { createLimbSolver, limbOf, reachingLimb, type ReachGoal, type ReachingLimb } from '../motion'
import type { FigurePose } from '../reach'
import { atBind, worldPose, type Skeleton } from '../skeleton'
import type { DrivenLimb } from './set'

/** From this share of its reach on, an arm's girdle helps, and no farther than so much, radians. */
const HELPS = 0.88
/** The same where the end is to come to its place whatever it takes: a limb that is long enough needs no help. */
const FIRM = 1
const MOST_HELP = 0.35
const LOOKS = 5

/** Limbs that follow their ends, on one figure. */
export interface LimbReach {
  /**
   * Brings the end of a limb somewhere; its middle keeps its plane where no pole is given, its end its turn in space where none
   * is. Near the end of its reach it gives softly and the girdle helps.
   * @returns how far it stays off, metres
   */
  to(pose: FigurePose, limb: DrivenLimb, goal: ReachGoal): number
  /** Where a limb's end is, how it is turned, and where its middle points: what brings it back to this pose. */
  endOf(pose: FigurePose, limb: DrivenLimb): EndOfLimb
  /** How far the plane a limb is bent in lies from that of its hinge, degrees; nothing where it is straight. */
  off(pose: FigurePose, limb: DrivenLimb): number | undefined
}

/** What brings a limb back to a pose. */
export interface EndOfLimb extends ReachGoal {
  readonly place: Vec3
  readonly pole: Vec3
  readonly turn: Quat
  readonly firm: true
}

/** A pose to be worked on. */
export const copyOf = ({ translations, rotations }: FigurePose): FigurePose => ({
  translations: translations.slice(),
  rotations: rotations.slice(),
})

export function limbReach(skeleton: Skeleton, limbs: readonly DrivenLimb[]): LimbReach {
  const bind = worldPose(atBind(skeleton))
  const solver = createLimbSolver(skeleton)
  const made = new Map<string, ReachingLimb>(
    limbs.map(l => [l.ref, reachingLimb(skeleton, bind, limbOf(bind, l.upper, l.lower, l.end, l.way))]),
  )
  /** The way a limb's middle stands out by its hinge, in the upper joint's space. */
  const natural = (limb: DrivenLimb): Vec3 => rotate(conjugate(quatAt(bind.rotations, limb.upper)), limb.way)
  function to(pose: FigurePose, limb: DrivenLimb, goal: ReachGoal): number {
    let world = worldPose(skeleton, pose.translations, pose.rotations)
    const turn = goal.turn ?? quatAt(world.rotations, limb.end)
    const at = (j: number): Vec3 => vec3At(world.positions, j)
    const place: Vec3 = [goal.place[0], goal.place[1], goal.place[2]]
    const long = length(sub(at(limb.lower), at(limb.upper))) + length(sub(at(limb.end), at(limb.lower)))
    const easy = (goal.firm ? FIRM : HELPS) * long
    const before = Math.max(0, length(sub(at(limb.end), at(limb.upper))) - easy)
    let left = MOST_HELP
    // a girdle that is not asked for more than it gives already stays as it is
    for (let look = 0; look < LOOKS && limb.girdle !== undefined && left > 1e-3; look++) {
      const beyond = length(sub(place, at(limb.upper))) - easy - before
      if (beyond < 1e-5 * long) break
      const from = sub(at(limb.upper), at(limb.girdle))
      const want = add(from, scale(normalize(sub(place, at(limb.upper))), beyond))
      const whole = fromTo(normalize(from), normalize(want))
      const angle = length(rotationVector(whole))
      if (angle < 1e-9) break
      const gives = left * Math.tanh(angle / left)
      turnInSpace(skeleton, pose, world.rotations, limb.girdle, slerp([0, 0, 0, 1], whole, gives / angle))
      left -= gives
      world = worldPose(skeleton, pose.translations, pose.rotations)
      if (!goal.firm) break
    }
    solver.reach(made.get(limb.ref)!, world, pose, 0, { ...goal, turn })
    return length(sub(vec3At(worldPose(skeleton, pose.translations, pose.rotations).positions, limb.end), place))
  }
  function endOf(pose: FigurePose, limb: DrivenLimb): EndOfLimb {
    const world = worldPose(skeleton, pose.translations, pose.rotations)
    const at = (j: number): Vec3 => vec3At(world.positions, j)
    const [u, m, e] = [at(limb.upper), at(limb.lower), at(limb.end)]
    const line = normalize(sub(e, u), [0, -1, 0])
    const out = sub(sub(m, u), scale(line, dot(sub(m, u), line)))
    const far = length(sub(m, u))
    // a straight limb points where its hinge lets it
    const way = length(out) > 1e-4 * far ? normalize(out) : rotate(quatAt(world.rotations, limb.upper), natural(limb))
    return { place: e, turn: quatAt(world.rotations, limb.end), pole: add(m, scale(way, far)), firm: true }
  }
  function off(pose: FigurePose, limb: DrivenLimb): number | undefined {
    const world = worldPose(skeleton, pose.translations, pose.rotations)
    const at = (j: number): Vec3 => vec3At(world.positions, j)
    const [u, m, e] = [at(limb.upper), at(limb.lower), at(limb.end)]
    const line = normalize(sub(e, u), [0, -1, 0])
    const out = sub(sub(m, u), scale(line, dot(sub(m, u), line)))
    if (length(out) < 0.03 * length(sub(m, u))) return undefined
    const own = rotate(quatAt(world.rotations, limb.upper), natural(limb))
    const flat = sub(own, scale(line, dot(own, line)))
    if (length(flat) < 1e-6) return undefined
    const [a, b] = [normalize(out), normalize(flat)]
    return (Math.atan2(length(cross(a, b)), dot(a, b)) * 180) / Math.PI
  }
  return { to, endOf, off }
}

/** Turns a joint of a pose in space. @param world 4·J, turns in space before */
export function turnInSpace(skeleton: Skeleton, pose: FigurePose, world: ArrayLike<number>, j: number, by: Quat): void {
  const p = skeleton.parents[j]
  const turned = multiply(by, quatAt(world, j))
  setQuat(pose.rotations, j, p < 0 ? turned : multiply(conjugate(quatAt(world, p)), turned))
}
