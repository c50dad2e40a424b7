import {
  add,
  conjugate,
  fromAxisAngle,
  fromTo,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { createFigureSolver, type FigurePose, type Goal, type MassGoal, type Reached } from '../reach'
import { atBind, findJoint, worldPose, type Skeleton, type WorldPose } from '../skeleton'
import type { DriveChoice, Followed, Hold } from './choices'
import type { Handle } from './handle'
import { copyOf, limbReach, turnInSpace, type LimbReach } from './limb-reach'
import type { DrivenChain, DrivenLimb, HandleSet } from './set'

/** How a figure follows what is pulled. */
export interface DragOptions {
  /** The limb alone, or every joint of the figure. */
  readonly reach: 'limb' | 'whole'
  readonly drives?: Readonly<Record<string, DriveChoice>>
  readonly holds?: readonly Hold[]
  /** Keeps the centre of mass where it is asked for; with the whole figure alone. */
  readonly balance?: MassGoal
}

export interface Dragged extends FigurePose {
  /** How far what is pulled stays off, metres. */
  readonly off: number
  /** What could not be held: joint, metres and radians. */
  readonly loose: readonly { readonly joint: number; readonly place: number; readonly turn: number }[]
}

export interface Poser {
  readonly reach: LimbReach
  /**
   * Takes hold of a handle.
   * @param grab where it is taken, in space
   * @returns the pose for every place it is brought to, told from the pose it began with; undefined where nothing would move
   */
  begin(pose: FigurePose, handle: Handle, grab: Vec3, options: DragOptions): ((place: Vec3) => Dragged) | undefined
  /** A pose in which one joint is turned in space, all that follows its end brought back to where it stays. */
  turn(pose: FigurePose, joint: number, by: Quat, options: DragOptions): Dragged
  /** The pose nearest to another that keeps every hold and meets the balance. */
  settle(pose: FigurePose, options: DragOptions): Dragged
}

/** Legs stand on the ground, arms are turned joint by joint. */
export const driveOfLimb = ({ leg, ref }: DrivenLimb, drives: DragOptions['drives']): DriveChoice =>
  drives?.[ref] ?? { by: leg ? 'end' : 'joints', follows: leg ? 'ground' : 'trunk' }

/** The limbs of a figure with hinges that were set by hand. */
export function withHinges(set: HandleSet, skeleton: Skeleton, drives: DragOptions['drives']): HandleSet {
  if (!set.limbs.some(l => drives?.[l.ref]?.hinge !== undefined)) return set
  const bind = worldPose(atBind(skeleton))
  return {
    ...set,
    limbs: set.limbs.map((limb): DrivenLimb => {
      const hinge = drives?.[limb.ref]?.hinge
      if (hinge === undefined) return limb
      const line = normalize(sub(vec3At(bind.positions, limb.end), vec3At(bind.positions, limb.upper)), [0, -1, 0])
      return { ...limb, way: rotate(fromAxisAngle(line, (hinge * Math.PI) / 180), limb.way), fixed: true }
    }),
  }
}

/** Whether a handle is of use as its limb is driven: a limb that follows its end is not turned in its middle. */
export function isDriven(set: HandleSet, handle: Handle, drives: DragOptions['drives']): boolean {
  for (const limb of set.limbs) {
    const byEnd = driveOfLimb(limb, drives).by === 'end'
    if (handle.kind === 'turn' && (handle.joint === limb.upper || handle.joint === limb.lower)) return !byEnd
    if (handle.kind === 'bend' && handle.joint === limb.lower) return byEnd && drives?.[limb.ref]?.hinge === undefined
    if (handle.kind === 'end' && handle.joint === limb.end) return byEnd
  }
  return true
}

const HELD = 1e-3
const HELD_TURN = 0.01

/** @param joints joint by role  @param frame from the skeleton's space to Y up, facing +Z */
export function createPoser(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  frame: Quat,
  set: HandleSet,
): Poser {
  const solver = createFigureSolver(skeleton, joints, frame)
  const reach = limbReach(skeleton, set.limbs)
  const carrier = joints.hips ?? 0
  const trunk = ['upperChest', 'chest', 'spine', 'hips'].map(r => joints[r]).find(j => j !== undefined) ?? 0
  const world = (p: FigurePose): WorldPose => worldPose(skeleton, p.translations, p.rotations)
  const spaceOf = (w: WorldPose, follows: Followed): { at: Vec3; turn: Quat } => {
    if (follows === 'ground') return { at: [0, 0, 0], turn: [0, 0, 0, 1] }
    const j = follows === 'hips' ? carrier : trunk
    return { at: vec3At(w.positions, j), turn: quatAt(w.rotations, j) }
  }
  const bind = worldPose(atBind(skeleton))
  /** Where the middle of a limb whose hinge was set by hand points; others keep their plane. */
  function poleOf(limb: DrivenLimb, w: WorldPose, place: Vec3): Vec3 | undefined {
    if (!limb.fixed) return undefined
    const p = skeleton.parents[limb.upper]
    const carried =
      p < 0 ? limb.way : rotate(multiply(quatAt(w.rotations, p), conjugate(quatAt(bind.rotations, p))), limb.way)
    const from = vec3At(w.positions, limb.upper)
    const far = 2 * length(sub(vec3At(w.positions, limb.lower), from))
    return [0, 1, 2].map(k => 0.5 * (from[k] + place[k]) + far * carried[k]) as Vec3
  }
  const jointOf = (ref: string): number => joints[ref] ?? findJoint(skeleton, ref)
  /** Limbs whose ends stay with something, and what with: those that are held stay with the ground. */
  const staying = ({ drives, holds = [] }: DragOptions): { limb: DrivenLimb; follows: Followed; turn: boolean }[] =>
    set.limbs.flatMap((limb): { limb: DrivenLimb; follows: Followed; turn: boolean }[] => {
      const held = holds.find(h => jointOf(h.joint) === limb.end && h.place)
      if (held) return [{ limb, follows: 'ground' as const, turn: held.turn }]
      const { by, follows } = driveOfLimb(limb, drives)
      return by === 'end' ? [{ limb, follows, turn: true }] : []
    })

  /** Brings ends back to where they stay, after something above them moved. @param except the limb that is pulled */
  function bringBack(pose: FigurePose, from: FigurePose, options: DragOptions, except?: number): void {
    const before = world(from)
    for (const { limb, follows } of staying(options)) {
      if (limb.end === except) continue
      const now = world(pose)
      const [a, b] = [spaceOf(before, follows), spaceOf(now, follows)]
      const moved = multiply(b.turn, conjugate(a.turn))
      const place = add(b.at, rotate(moved, sub(vec3At(before.positions, limb.end), a.at)))
      const turn = multiply(moved, quatAt(before.rotations, limb.end))
      const at = vec3At(now.positions, limb.end)
      const still = length(sub(place, at)) < 1e-7 && sameTurn(turn, quatAt(now.rotations, limb.end))
      if (!still) reach.to(pose, limb, { place, turn, pole: poleOf(limb, now, place), firm: true })
    }
  }
  /** What is held of the whole figure, as goals. */
  function goalsOf(from: FigurePose, options: DragOptions, except?: number): Goal[] {
    const w = world(from)
    const held = new Map<number, { place: boolean; turn: boolean }>()
    for (const { limb, follows, turn } of staying(options))
      // what stays with the trunk or the hips goes along by itself
      if (follows === 'ground') held.set(limb.end, { place: true, turn })
    for (const h of options.holds ?? []) {
      const j = jointOf(h.joint)
      if (j >= 0 && (h.place || h.turn)) held.set(j, { place: h.place, turn: h.turn })
    }
    return [...held].flatMap(([joint, { place, turn }]): Goal[] =>
      joint === except
        ? []
        : [
            {
              joint,
              ...(place && { place: vec3At(w.positions, joint) }),
              ...(turn && { turn: quatAt(w.rotations, joint) }),
              strength: 'hold',
            },
          ],
    )
  }
  function told(found: Reached, goals: readonly Goal[], pulled: boolean): Dragged {
    const held = pulled ? goals.slice(0, -1) : goals
    return {
      translations: found.translations,
      rotations: found.rotations,
      off: pulled ? (found.residuals.at(-1)?.place ?? 0) : 0,
      loose: held.flatMap(({ joint }, i) => {
        const { place, turn } = found.residuals[i]
        return place > HELD || turn > HELD_TURN ? [{ joint, place, turn }] : []
      }),
    }
  }
  function wholeTo(
    from: FigurePose,
    joint: number,
    point: Vec3 | undefined,
    options: DragOptions,
  ): (place: Vec3) => Dragged {
    const holds = goalsOf(from, options, joint)
    let start: FigurePose | undefined
    return place => {
      const goals: Goal[] = [...holds, { joint, point, place, strength: 'pull' }]
      const found = solver.solve(from, goals, { start, balance: options.balance })
      start = found
      return told(found, goals, true)
    }
  }
  const shifted = (from: FigurePose, by: Vec3): FigurePose => {
    const pose = copyOf(from)
    const p = skeleton.parents[carrier]
    const own = p < 0 ? by : rotate(conjugate(quatAt(world(from).rotations, p)), by)
    setVec3(pose.translations, carrier, add(vec3At(pose.translations, carrier), own))
    return pose
  }
  function turnedTo(from: FigurePose, joint: number, by: Quat, options: DragOptions): Dragged {
    const pose = copyOf(from)
    turnInSpace(skeleton, pose, world(from).rotations, joint, by)
    const limb = set.limbs.find(l => l.end === joint)
    if (options.reach === 'limb' || limb) {
      bringBack(pose, from, options, limb?.end)
      return { ...pose, off: 0, loose: [] }
    }
    const goals = goalsOf(from, options)
    return told(solver.solve(pose, goals, { balance: options.balance }), goals, false)
  }

  return {
    reach,
    turn: turnedTo,
    settle(pose, options) {
      const goals = goalsOf(pose, options)
      return told(solver.solve(pose, goals, { balance: options.balance }), goals, false)
    },
    begin(from, handle, grab, options) {
      const w = world(from)
      const { joint, kind } = handle
      const at = vec3At(w.positions, joint)
      const whole = options.reach === 'whole'
      if (kind === 'figure')
        return place => {
          // over the ground, and not into it
          const pose = shifted(from, [place[0] - grab[0], 0, place[2] - grab[2]])
          return { ...pose, off: 0, loose: [] }
        }
      if (kind === 'turn') {
        const a = sub(grab, at)
        if (length(a) < 1e-6) return undefined
        return place => {
          const b = sub(place, at)
          if (length(b) < 1e-6) return { ...copyOf(from), off: 0, loose: [] }
          return turnedTo(from, joint, fromTo(normalize(a), normalize(b)), options)
        }
      }
      if (kind === 'move') {
        if (whole) {
          const pulled = wholeTo(from, joint, undefined, options)
          return place => pulled(add(at, sub(place, grab)))
        }
        return place => {
          const pose = shifted(from, sub(place, grab))
          bringBack(pose, from, options)
          return { ...pose, off: 0, loose: [] }
        }
      }
      const limb = set.limbs.find(l => (kind === 'end' ? l.end : l.lower) === joint)
      if (kind === 'bend') {
        if (!limb) return undefined
        const { place, turn } = reach.endOf(from, limb)
        return pole => {
          const pose = copyOf(from)
          const off = reach.to(pose, limb, { place, turn, pole, firm: true })
          return { ...pose, off, loose: [] }
        }
      }
      if (whole) {
        const pulled = wholeTo(from, joint, undefined, options)
        return place => pulled(add(at, sub(place, grab)))
      }
      if (limb) {
        const { turn } = reach.endOf(from, limb)
        return place => {
          const pose = copyOf(from)
          const to = add(at, sub(place, grab))
          const off = reach.to(pose, limb, { place: to, turn, pole: poleOf(limb, w, to) })
          return { ...pose, off, loose: [] }
        }
      }
      const chain = set.chains.find(c => c.joints.at(-1) === joint)
      return chain && chainTo(from, chain, at, grab)
    },
  }

  /** A chain bends along its whole length while what it hangs on stays. */
  function chainTo(from: FigurePose, chain: DrivenChain, at: Vec3, grab: Vec3): (place: Vec3) => Dragged {
    const w = world(from)
    const base = skeleton.parents[chain.joints[0]]
    const root: Goal[] =
      base < 0
        ? []
        : [{ joint: base, place: vec3At(w.positions, base), turn: quatAt(w.rotations, base), strength: 'hold' }]
    let start: FigurePose | undefined
    return place => {
      const goals: Goal[] = [
        ...root,
        { joint: chain.joints.at(-1)!, place: add(at, sub(place, grab)), strength: 'pull' },
      ]
      const found = solver.solve(from, goals, { start })
      start = found
      // what the chain hangs on is where it was, to the bit
      const pose = copyOf(from)
      for (const j of chain.joints) setQuat(pose.rotations, j, quatAt(found.rotations, j))
      return { ...pose, off: found.residuals.at(-1)!.place, loose: [] }
    }
  }
}

const sameTurn = (a: Quat, b: Quat): boolean =>
  Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]) > 1 - 1e-12
