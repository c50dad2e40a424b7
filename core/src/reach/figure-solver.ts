import { conjugate, rotate, type Quat, type ReadonlyQuat, type ReadonlyVec3 } from '../math'
import { atBind, forwardKinematics, waysTo, worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'
import type { FigurePose, Goal, MassGoal, Residual } from './goals'
import { jointFreedom } from './joint-freedom'
import { ReachProblem, type ReachBody } from './problem'

export interface Reached extends FigurePose {
  readonly residuals: readonly Residual[]
  readonly rounds: number
}

export interface FigureSolver {
  /**
   * The pose nearest to `from` that meets the goals; where they cannot all be met, what is held before what is pulled, and
   * contrary holds halfway.
   * @param start where the search begins, such as the answer before; left out, `from`
   */
  solve(from: FigurePose, goals: readonly Goal[], options?: { start?: FigurePose; balance?: MassGoal }): Reached
}

/** Lengths are told in bodies of this size, metres. */
const SIZE = 1.6
/** Rounds of a search that begins afresh, and of one that goes on. */
const ROUNDS = { afresh: 24, on: 5 } as const
/** The search ends where a round wins less than this share of the costs. */
const SETTLED = 1e-3
/** One that wins less than this ends at once. */
const SURE = 2e-4
const ATTEMPTS = 10
/** A straight hinge begins this far bent, radians. */
const UNBENT = { afresh: 0.035, on: 0.004 } as const
/** Goals this near are met to the hair in the end, lengths. */
const NEARLY = { held: 0.03, pulled: 0.005 } as const
const MEETING = 8
const LOOKS = 3
const MET = 1e-6
/** Holds farther off than this, metres, are searched for once more and count so much more. */
const LOOSE = 1e-4
const FIRM = 100
const FIRM_ROUNDS = 10
/** Sets of goals that are kept ready. */
const READY = 6

/**
 * A solver over all joints of a figure: damped least squares in the space of the goals (Levenberg and Marquardt's method in
 * Woodbury's form, so that each round solves a system as large as the goals and not as the joints; Wampler 1986; Nakamura and
 * Hanafusa 1986, "Inverse kinematic solutions with singularity robustness"), pulled towards the pose it began with by the
 * stiffness of each joint (Liégeois 1977), goals far off counted by Huber's loss, ranges of motion as costs beyond them; what
 * is nearly met is brought to its place by Newton's method in the end. The answer depends on the pose it began with and the
 * goals, so that it follows a pointer without jumps.
 * @param joints joint by role  @param frame from the skeleton's space to Y up, facing +Z
 */
export function createFigureSolver(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
): FigureSolver {
  const freedom = jointFreedom(skeleton, joints, frame)
  const back = conjugate(frame)
  const body: ReachBody = {
    skeleton,
    freedom,
    carrier: joints.hips ?? 0,
    scale: SIZE / sizeOf(skeleton),
    level: [rotate(back, [1, 0, 0]), rotate(back, [0, 0, 1])],
    axes: Float64Array.from(freedom.flatMap(f => f.axes)),
    bindLocal: Float64Array.from(freedom.flatMap(f => f.bindLocal)),
  }
  const ready: { goals: readonly Goal[]; balance: boolean; still: number; problem: ReachProblem }[] = []
  /**
   * The hold that carries all else: of a joint held by place and turn, whose goals all hang on it, nothing above moves, so it need
   * not be asked for at all. Only where it stands as it is held.
   */
  function carryingHold(from: FigurePose, goals: readonly Goal[], start: FigurePose | undefined): number {
    return goals.findIndex(({ joint, point, place, turn, strength }, i) => {
      if (strength !== 'hold' || point || !place || !turn) return false
      const below = goals.every((g, k) => k === i || hangsOn(g.joint, joint))
      return below && [from, start].every(p => !p || standsAt(p, joint, place, turn))
    })
  }
  const hangsOn = (j: number, on: number): boolean => {
    let p = skeleton.parents[j]
    while (p >= 0 && p !== on) p = skeleton.parents[p]
    return p === on
  }
  const pose = worldPoseBuffer(skeleton.names.length)
  function standsAt(
    { rotations, translations }: FigurePose,
    j: number,
    place: ReadonlyVec3,
    turn: ReadonlyQuat,
  ): boolean {
    let way = wayTo.get(j)
    if (!way) wayTo.set(j, (way = waysTo(skeleton, [j])))
    forwardKinematics(skeleton.parents, way, translations, rotations, 0, pose)
    let same = 0,
      far = 0
    for (let k = 0; k < 4; k++) same += pose.rotations[4 * j + k] * turn[k]
    for (let k = 0; k < 3; k++) far += (pose.positions[3 * j + k] - place[k]) ** 2
    return Math.abs(same) > 1 - 1e-9 && far < 1e-12
  }
  const wayTo = new Map<number, Int32Array>()
  function problemOf(goals: readonly Goal[], balance: boolean, still: number): ReachProblem {
    const at = ready.findIndex(r => r.still === still && r.balance === balance && asksAlike(r.goals, goals))
    if (at >= 0) return ready[at].problem
    const problem = new ReachProblem(body, goals, balance, still)
    if (ready.length >= READY) ready.shift()
    ready.push({ goals: [...goals], balance, still, problem })
    return problem
  }
  return {
    solve(from, all, { start, balance } = {}) {
      const carrying = balance ? -1 : carryingHold(from, all, start)
      const goals = carrying < 0 ? all : all.filter((_, i) => i !== carrying)
      const problem = problemOf(goals, balance !== undefined, carrying < 0 ? -1 : all[carrying].joint)
      problem.begin(from, goals, balance, start)
      let rounds = 0
      problem.look(problem.R, problem.T)
      // what is met as it stands is left as it stands
      const met = !start && !balance && problem.isMet(1e-6)
      if (!met) {
        problem.unbend(start ? UNBENT.on : UNBENT.afresh)
        rounds = start ? search(problem, ROUNDS.on, 1) : search(problem, ROUNDS.afresh, 2)
        meet(problem, false)
        // a figure at its limits gives way between what is held and what is pulled: what is held is kept before
        if (problem.isLoose(LOOSE)) meet(problem, true)
        if (problem.isLoose(LOOSE)) {
          problem.firmness = FIRM
          rounds += search(problem, FIRM_ROUNDS, 1)
          meet(problem, true)
        }
      }
      const residuals = problem.residuals()
      if (carrying >= 0) residuals.splice(carrying, 0, { place: 0, turn: 0 })
      const others = start ? { rotations: start.rotations, translations: from.translations } : from
      return { ...problem.poseOver(others), residuals, rounds }
    },
  }
}

/** Whether goals ask for the same of the same joints, wherever that is. */
function asksAlike(a: readonly Goal[], b: readonly Goal[]): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++)
    if (
      a[i].joint !== b[i].joint ||
      !a[i].place !== !b[i].place ||
      !a[i].turn !== !b[i].turn ||
      a[i].strength !== b[i].strength
    )
      return false
  return true
}

/** Lowers the costs as far as they go. @param patience rounds in a row that win little before it ends  @returns rounds taken */
function search(problem: ReachProblem, most: number, patience: number): number {
  const { R, T, triedR, triedT } = problem
  let cost = problem.costs(R, T)
  let damping = 1e-3
  let little = 0
  let before = 0
  for (let round = 0; round < most; round++) {
    problem.linearise(T)
    let won = 0
    for (let attempt = 0; attempt < ATTEMPTS && won === 0; attempt++) {
      const then = problem.step(damping) ? problem.costs(triedR, triedT) : Infinity
      if (then < cost) {
        won = cost - then
        cost = then
        problem.accept()
        damping = Math.max(1e-6, damping * 0.2)
      } else damping = Math.max(1e-2, damping * 8)
    }
    // where goals are near and it wins less and less, the next round is told by this one and the one before
    const near = problem.isNear(NEARLY.held, NEARLY.pulled)
    const next = near && won < before ? (won * won) / before : won
    before = won
    little = next <= SETTLED * cost + 1e-9 ? little + 1 : 0
    if (won <= SURE * cost || (near && little > 0) || little === patience) {
      // where no step won, the pose at hand is not the one seen last
      if (won === 0) problem.look(R, T)
      return round + 1
    }
  }
  return most
}

/**
 * Brings what is nearly met to its place to the hair, by the least turns that do it (Newton's method on the goals alone, how they
 * follow turns being looked at anew only where it comes nearer too slowly). Contrary goals, which no turns meet, stay as they
 * were settled.
 */
function meet(problem: ReachProblem, holdsAlone: boolean): void {
  const { R, T, triedR, triedT } = problem
  const rows = problem.rowsWithin(NEARLY.held, holdsAlone ? 0 : NEARLY.pulled)
  let off = problem.off(rows)
  if (off <= MET) return
  problem.keepAside()
  let looks = 0
  let afresh = true
  let nearer = true
  for (let round = 0; round < MEETING && off > MET && nearer; round++) {
    if (afresh && (looks++ === LOOKS || !problem.aim(rows))) break
    problem.meet(rows)
    problem.look(triedR, triedT)
    const now = problem.off(rows)
    nearer = now < 0.8 * off
    if (nearer) problem.accept()
    afresh = now > 0.1 * off
    off = nearer ? now : off
  }
  // halfway there would be neither: what cannot be met stays as the search left it
  if (off > LOOSE) problem.takeBack()
  if (off > LOOSE || !nearer) problem.look(R, T)
}

/** The longest side of the box around the joints as bound, metres. */
function sizeOf(skeleton: Skeleton): number {
  const { positions } = worldPose(atBind(skeleton))
  let size = 0
  for (let k = 0; k < 3; k++) {
    let least = Infinity,
      most = -Infinity
    for (let i = k; i < positions.length; i += 3) {
      least = Math.min(least, positions[i])
      most = Math.max(most, positions[i])
    }
    size = Math.max(size, most - least)
  }
  return size > 1e-9 ? size : 1
}

/** A figure's pose as it rests. */
export const restingPose = (s: Skeleton): FigurePose => ({
  translations: s.restTranslations,
  rotations: s.restRotations,
})
