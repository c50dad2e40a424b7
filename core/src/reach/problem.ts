import {
  choleskyOf,
  conjugate,
  rotate,
  rotateAt,
  rotateBackAt,
  solveCholesky,
  timesAt,
  type Quat,
  type Vec3,
} from '../math'
import { forwardKinematics, waysTo, worldPoseBuffer, type Skeleton, type WorldPose } from '../skeleton'
import type { FigurePose, Goal, MassGoal, Residual } from './goals'
import type { JointFreedom } from './joint-freedom'

/** What missing a goal by one length costs, and the most it pulls with: far goals pull no harder than near ones. */
const STRENGTH = {
  hold: { cost: 1e5, most: 1e4 },
  pull: { cost: 1e4, most: 100 },
} as const
/** What a turn of one radian counts as, in lengths. */
const TURN_LENGTH = 0.3
/** What going beyond a range of motion costs, per radian squared. */
const LIMIT = 3000
/** What shifting the hips costs, per length squared. */
const SHIFT = 40
/** The farthest a step turns a joint, and all joints of a chain together, radians. */
const LONGEST_TURN = 0.6
const LONGEST_BEND = 4
const LONGEST_SHIFT = 0.4

/** What all problems of one figure share. */
export interface ReachBody {
  readonly skeleton: Skeleton
  readonly freedom: readonly JointFreedom[]
  /** The joint that is shifted: the hips. */
  readonly carrier: number
  /** Lengths a metre. */
  readonly scale: number
  /** The two level directions. */
  readonly level: readonly [Vec3, Vec3]
  /** 4·J: each joint's own axes and its local turn as bound. */
  readonly axes: Float64Array
  readonly bindLocal: Float64Array
}

/** Rows of one goal. */
interface Block {
  readonly from: number
  readonly to: number
  /** A place, a turn, or the centre of mass. */
  readonly kind: 'place' | 'turn' | 'mass'
  /** Which goal it is of. */
  readonly goal: number
  readonly hold: boolean
  /** Its columns, from the shift and the hips outwards, so that what moves two goals comes first in both; all for the mass. */
  readonly columns: Int32Array
}

/**
 * Goals of one kind asked of a figure: costs, how they change with every turn, and the step that lowers them. Made once for
 * goals on the same joints and used for many poses.
 */
export class ReachProblem {
  /** 4·J and 3·J, local: the pose at hand, and the one a step led to. */
  readonly R: Float64Array<ArrayBuffer>
  readonly T: Float64Array<ArrayBuffer>
  readonly triedR: Float64Array<ArrayBuffer>
  readonly triedT: Float64Array<ArrayBuffer>
  /** How much more what is held counts. */
  firmness = 1
  private readonly asideR: Float64Array
  private readonly asideT: Float64Array
  private readonly baseR: Float64Array
  private readonly base = new Float64Array(3)
  private readonly pose: WorldPose
  private readonly ways: Int32Array
  private readonly free: readonly JointFreedom[]
  /** First column of each free joint; those of the shift come last. */
  private readonly first: Int32Array
  private readonly turns: number
  private readonly n: number
  private readonly m: number
  private readonly shifts: boolean
  private readonly blocks: readonly Block[]
  /** How many first columns of a block an earlier one has too. */
  private readonly shared: readonly (readonly number[])[]
  /** m·n: how each error follows each column of its block, in units of what the column costs. */
  private readonly Bs: Float64Array
  /** 3·n: the axis of each column in space, and the joint it turns. */
  private readonly axis: Float64Array
  private readonly jointOf: Int32Array
  private readonly S: Float64Array
  private readonly A: Float64Array<ArrayBuffer>
  private readonly L: Float64Array<ArrayBuffer>
  private readonly slope: Float64Array
  private readonly D: Float64Array
  /** What columns are scaled by where no range is left: one by the root of what they cost. */
  private readonly plain: Float64Array
  private readonly h: Float64Array
  private readonly x: Float64Array
  private readonly e: Float64Array
  private readonly c: Float64Array
  private readonly u: Float64Array
  private readonly y: Float64Array<ArrayBuffer>
  /** Farthest swing, turn about the length, least and most about the hinge of each free joint. */
  private readonly range: Float64Array
  /** 6·F: how far each free joint is turned from where it began and from where it was bound, as `costs` saw it. */
  private readonly seen: Float64Array
  /** Which free joints are beyond their range, as `costs` saw it. */
  private readonly out: Uint8Array
  /** Cosine of half the narrowest range of each free joint about where it was bound; 0 where that is of no help. */
  private readonly narrow: Float64Array
  private readonly massBelow: Float64Array
  private readonly momentBelow: Float64Array
  private whole = 0
  private goals: readonly Goal[] = []
  private balance: MassGoal | undefined
  private outer: Quat = [0, 0, 0, 1]
  private readonly v = new Float64Array(3)
  private readonly o = new Float64Array(3)
  private readonly q = new Float64Array(4)
  private readonly p = new Float64Array(4)
  private readonly turned = new Float64Array(4)

  constructor(
    private readonly body: ReachBody,
    goals: readonly Goal[],
    balance: boolean,
    /** A joint that stays as it is with everything it hangs on; -1 for none. */
    still = -1,
  ) {
    const { skeleton, freedom, carrier } = body
    const { parents } = skeleton
    const J = parents.length
    const reached = goals.map(goal => goal.joint)
    this.ways = waysTo(skeleton, balance ? parents.keys() : [...reached, carrier])
    const onWay = new Uint8Array(J)
    for (const j of waysTo(skeleton, reached)) onWay[j] = 1
    if (balance) onWay[carrier] = 1
    for (let j = still; j >= 0; j = parents[j]) onWay[j] = 0
    this.shifts = onWay[carrier] === 1
    // what carries the hips stays where it is
    for (let j = parents[carrier]; j >= 0; j = parents[j]) onWay[j] = 0
    this.free = freedom.filter(f => onWay[f.joint])
    const F = this.free.length
    this.first = new Int32Array(F)
    let columns = 0
    this.free.forEach((f, i) => {
      this.first[i] = columns
      columns += f.about.length
    })
    this.turns = columns
    this.n = columns + (this.shifts ? 3 : 0)
    this.jointOf = new Int32Array(this.n).fill(-1)
    this.free.forEach((f, i) => this.jointOf.fill(f.joint, this.first[i], this.first[i] + f.about.length))
    const blocks: Block[] = []
    let rows = 0
    goals.forEach((goal, index) => {
      const columns = this.columnsTo(goal.joint)
      for (const kind of ['place', 'turn'] as const)
        if (goal[kind]) {
          blocks.push({ from: rows, to: rows + 3, kind, goal: index, hold: goal.strength === 'hold', columns })
          rows += 3
        }
    })
    if (balance) {
      const columns = Int32Array.from({ length: this.n }, (_, i) => i)
      blocks.push({ from: rows, to: rows + 2, kind: 'mass', goal: -1, hold: false, columns })
      rows += 2
    }
    this.m = rows
    this.blocks = blocks
    this.shared = blocks.map((one, i) =>
      blocks.slice(0, i + 1).map(({ columns }) => {
        let same = 0
        while (same < columns.length && one.columns[same] === columns[same]) same++
        return same
      }),
    )
    const { n, m } = this
    const make = (length: number): Float64Array<ArrayBuffer> => new Float64Array(length)
    this.R = make(4 * J)
    this.T = make(3 * J)
    this.triedR = make(4 * J)
    this.triedT = make(3 * J)
    this.asideR = make(4 * J)
    this.asideT = make(3)
    this.baseR = make(4 * J)
    this.pose = worldPoseBuffer(J)
    this.axis = make(3 * n)
    this.Bs = make(m * n)
    this.S = make(m * m)
    this.A = make(m * m)
    this.L = make(m * m)
    this.slope = make(n)
    this.D = make(n)
    this.plain = make(n).fill(1 / Math.sqrt(SHIFT))
    this.free.forEach((f, i) => this.plain.fill(1 / Math.sqrt(f.stiff), this.first[i], this.first[i] + f.about.length))
    this.h = make(n)
    this.x = make(n)
    this.e = make(m)
    this.c = make(m)
    this.u = make(m)
    this.y = make(m)
    this.range = make(4 * F)
    this.seen = make(6 * F)
    this.out = new Uint8Array(F)
    this.narrow = make(F)
    this.massBelow = make(J)
    this.momentBelow = make(3 * J)
  }

  private columnsTo(joint: number): Int32Array {
    const { carrier, skeleton } = this.body
    const chain: number[] = []
    let moved = false
    for (let j = joint; j >= 0; j = skeleton.parents[j]) {
      chain.unshift(j)
      moved ||= j === carrier
    }
    const turns = chain.flatMap(j => {
      const i = this.free.findIndex(f => f.joint === j)
      return i < 0 ? [] : this.free[i].about.map((_, k) => this.first[i] + k)
    })
    return Int32Array.from(this.shifts && moved ? [this.turns, this.turns + 1, this.turns + 2, ...turns] : turns)
  }

  /** Asks anew. @param start where the search begins; left out, `from` */
  begin(from: FigurePose, goals: readonly Goal[], balance?: MassGoal, start?: FigurePose): void {
    const { carrier, skeleton, bindLocal } = this.body
    const { parents } = skeleton
    this.goals = goals
    this.balance = balance
    this.firmness = 1
    const { baseR, R, T, triedR, triedT, ways } = this
    const first = start ? start.rotations : from.rotations
    // joints off the way are not looked at
    for (let i = 0; i < ways.length; i++) {
      const r = 4 * ways[i],
        t = 3 * ways[i]
      for (let k = r; k < r + 4; k++) {
        baseR[k] = from.rotations[k]
        R[k] = triedR[k] = first[k]
      }
      for (let k = t; k < t + 3; k++) T[k] = triedT[k] = from.translations[k]
    }
    for (let k = 3 * carrier; k < 3 * carrier + 3; k++) {
      this.base[k - 3 * carrier] = from.translations[k]
      if (start) T[k] = triedT[k] = start.translations[k]
    }
    // a pose that goes farther than living joints do may stay as far
    this.free.forEach(({ joint, swing, twist, hinge }, i) => {
      this.deviation(bindLocal, this.baseR, joint)
      const x = this.v[0],
        y = this.v[1],
        z = this.v[2]
      this.range[4 * i] = Math.max(swing, Math.sqrt(x * x + z * z))
      this.range[4 * i + 1] = Math.max(twist, Math.abs(y))
      this.range[4 * i + 2] = hinge ? Math.min(hinge[0], x) : -Infinity
      this.range[4 * i + 3] = hinge ? Math.max(hinge[1], x) : Infinity
      const { range } = this
      const narrow = Math.min(range[4 * i], range[4 * i + 1], -range[4 * i + 2], range[4 * i + 3])
      this.narrow[i] = narrow > 0 && narrow < Math.PI ? Math.cos(narrow / 2) : narrow >= Math.PI ? 1e-9 : 0
    })
    if (balance) {
      this.whole = 0
      for (let j = 0; j < parents.length; j++) this.whole += balance.masses[j]
    }
    const p = parents[carrier]
    if (p >= 0) {
      forwardKinematics(parents, waysTo(skeleton, [p]), this.T, this.baseR, 0, this.pose)
      this.outer = [0, 1, 2, 3].map(k => this.pose.rotations[4 * p + k]) as Quat
    }
  }

  /** Bends hinges that are straight a little: a chain in one line cannot tell which way it shortens. */
  unbend(least: number): void {
    const { axes, bindLocal } = this.body
    for (const { joint: j, hinge, straight } of this.free) {
      if (!hinge) continue
      this.deviation(bindLocal, this.R, j)
      const bent = this.v[0] - straight
      // one that is bent backwards stays so
      if (Math.abs(bent) > least) continue
      rotateAt(this.v, 0, axes, 4 * j, least - bent, 0, 0)
      this.turnOwn(this.R, this.R, j)
    }
  }

  /** Rotation vector from one local turn of a joint to another, in the joint's own axes, into `v`. @param from 4·J */
  private deviation(from: Float64Array, to: Float64Array, j: number): void {
    const { q, p, v } = this
    const { axes } = this.body
    const i = 4 * j
    q[0] = -from[i]
    q[1] = -from[i + 1]
    q[2] = -from[i + 2]
    q[3] = from[i + 3]
    timesAt(p, 0, q, 0, to, i)
    vectorOf(v, p)
    rotateBackAt(v, 0, axes, i, v[0], v[1], v[2])
  }

  /** What the goals a pose misses cost. Errors stay for `linearise` and `off`. */
  look(R: Float64Array, T: Float64Array): number {
    const { parents } = this.body.skeleton
    const { scale, level } = this.body
    const { e, v, q, p, o, pose, blocks } = this
    forwardKinematics(parents, this.ways, T, R, 0, pose)
    const W = pose.rotations
    let cost = 0
    for (let b = 0; b < blocks.length; b++) {
      const { from: row, kind, goal } = blocks[b]
      if (kind === 'place') {
        const { joint, point, place } = this.goals[goal]
        this.pointAt(v, joint, point)
        for (let k = 0; k < 3; k++) e[row + k] = scale * (place![k] - v[k])
      } else if (kind === 'turn') {
        const { joint, turn } = this.goals[goal]
        const i = 4 * joint
        p[0] = -W[i]
        p[1] = -W[i + 1]
        p[2] = -W[i + 2]
        p[3] = W[i + 3]
        for (let k = 0; k < 4; k++) q[k] = turn![k]
        timesAt(q, 0, q, 0, p, 0)
        vectorOf(v, q)
        for (let k = 0; k < 3; k++) e[row + k] = TURN_LENGTH * v[k]
      } else {
        this.weigh()
        for (let s = 0; s < 2; s++) {
          e[row + s] = 0
          for (let k = 0; k < 3; k++) e[row + s] += scale * level[s][k] * (this.balance!.place[k] - o[k] / this.whole)
        }
      }
      cost += this.counted(blocks[b])
    }
    return cost
  }

  /** Costs of a pose: goals missed, turns away from where it began and beyond what joints do. */
  costs(R: Float64Array, T: Float64Array): number {
    const { scale, bindLocal, carrier } = this.body
    const { v, o, seen, out } = this
    let cost = this.look(R, T)
    for (let i = 0; i < this.free.length; i++) {
      const { joint, stiff } = this.free[i]
      this.deviation(this.baseR, R, joint)
      seen[6 * i] = v[0]
      seen[6 * i + 1] = v[1]
      seen[6 * i + 2] = v[2]
      cost += 0.5 * stiff * (v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
      const beyond = !this.surelyWithin(i, R, joint) && (this.deviation(bindLocal, R, joint), this.beyond(i))
      out[i] = beyond ? 1 : 0
      if (!beyond) continue
      seen[6 * i + 3] = v[0]
      seen[6 * i + 4] = v[1]
      seen[6 * i + 5] = v[2]
      cost += 0.5 * LIMIT * (o[0] * o[0] + o[1] * o[1] + o[2] * o[2])
    }
    if (this.shifts)
      for (let k = 0; k < 3; k++) cost += 0.5 * SHIFT * (scale * (T[3 * carrier + k] - this.base[k])) ** 2
    return cost
  }

  /** Cost of a goal by Huber's loss; `c` receives the square roots of what its rows weigh. */
  private counted({ from, to, hold }: Block): number {
    const { e, c } = this
    const { cost: plain, most } = hold ? STRENGTH.hold : STRENGTH.pull
    const cost = hold ? this.firmness * plain : plain
    let far = 0
    for (let r = from; r < to; r++) far += e[r] * e[r]
    far = Math.sqrt(far)
    const near = most / cost
    const w = Math.sqrt(far <= near ? cost : most / far)
    for (let r = from; r < to; r++) c[r] = w
    return far <= near ? 0.5 * cost * far * far : most * (far - 0.5 * near)
  }

  /** Mass and moment of everything each joint carries; the moment of the whole into `o`. */
  private weigh(): void {
    const { massBelow, momentBelow, v, o, pose } = this
    const { masses, centres } = this.balance!
    const { parents } = this.body.skeleton
    const J = parents.length
    for (let j = 0; j < J; j++) {
      massBelow[j] = masses[j]
      rotateAt(v, 0, pose.rotations, 4 * j, centres[3 * j], centres[3 * j + 1], centres[3 * j + 2])
      for (let k = 0; k < 3; k++) momentBelow[3 * j + k] = masses[j] * (pose.positions[3 * j + k] + v[k])
    }
    o[0] = o[1] = o[2] = 0
    for (let j = J - 1; j >= 0; j--) {
      const a = parents[j]
      if (a >= 0) massBelow[a] += massBelow[j]
      for (let k = 0; k < 3; k++)
        if (a >= 0) momentBelow[3 * a + k] += momentBelow[3 * j + k]
        else o[k] += momentBelow[3 * j + k]
    }
  }

  /** Whether a joint is turned by less, from where it was bound, than its range is narrow: then nothing of it is looked at. */
  private surelyWithin(i: number, R: Float64Array, joint: number): boolean {
    const least = this.narrow[i]
    if (!(least > 0)) return false
    const { bindLocal } = this.body
    const j = 4 * joint
    const same =
      bindLocal[j] * R[j] + bindLocal[j + 1] * R[j + 1] + bindLocal[j + 2] * R[j + 2] + bindLocal[j + 3] * R[j + 3]
    return Math.abs(same) > least
  }

  /** How far the turn in `v` goes beyond the range of a free joint, into `o`. @returns whether it does */
  private beyond(i: number): boolean {
    const { v, o, range } = this
    const swing = range[4 * i],
      twist = range[4 * i + 1],
      least = range[4 * i + 2],
      most = range[4 * i + 3]
    const far = Math.sqrt(v[0] * v[0] + v[2] * v[2])
    const over = far > swing ? (far - swing) / far : 0
    o[0] = over * v[0] + (v[0] < least ? v[0] - least : v[0] > most ? v[0] - most : 0)
    o[1] = v[1] > twist ? v[1] - twist : v[1] < -twist ? v[1] + twist : 0
    o[2] = over * v[2]
    return o[0] !== 0 || o[1] !== 0 || o[2] !== 0
  }

  /** Adds how a cost over the rotation vector in `v`, of slope w there, changes with the joint's turn: Jᵣ⁻ᵀ·w (Chirikjian 2012). */
  private addSlope(i: number, wx: number, wy: number, wz: number): void {
    const { v, slope: g } = this
    const vx = v[0],
      vy = v[1],
      vz = v[2]
    const angle = Math.sqrt(vx * vx + vy * vy + vz * vz)
    const k = angle < 1e-4 ? 1 / 12 : 1 / (angle * angle) - (1 + Math.cos(angle)) / (2 * angle * Math.sin(angle))
    const cx = vy * wz - vz * wy,
      cy = vz * wx - vx * wz,
      cz = vx * wy - vy * wx
    const { about } = this.free[i]
    const at = this.first[i]
    for (let a = 0; a < about.length; a++)
      g[at + a] +=
        about[a] === 0
          ? wx - 0.5 * cx + k * (vy * cz - vz * cy)
          : about[a] === 1
            ? wy - 0.5 * cy + k * (vz * cx - vx * cz)
            : wz - 0.5 * cz + k * (vx * cy - vy * cx)
  }

  /** How every error follows every turn, slopes of all costs, and all that a step needs of them, at the pose `costs` saw last. */
  linearise(T: Float64Array): void {
    const { axes, scale, carrier } = this.body
    const { D, slope, h, v, o, pose, free, first, axis, turned, n, seen, out } = this
    slope.fill(0)
    D.set(this.plain)
    for (let i = 0; i < free.length; i++) {
      const { joint: j, stiff, about } = free[i]
      const col = first[i]
      timesAt(turned, 0, pose.rotations, 4 * j, axes, 4 * j)
      for (let a = 0; a < about.length; a++) {
        axisOf(axis, 3 * (col + a), turned, about[a])
      }
      v[0] = seen[6 * i]
      v[1] = seen[6 * i + 1]
      v[2] = seen[6 * i + 2]
      // along the turn itself its slope is what it is
      for (let a = 0; a < about.length; a++) slope[col + a] += stiff * v[about[a]]
      if (out[i]) {
        v[0] = seen[6 * i + 3]
        v[1] = seen[6 * i + 4]
        v[2] = seen[6 * i + 5]
        this.beyond(i)
        this.addSlope(i, LIMIT * o[0], LIMIT * o[1], LIMIT * o[2])
        for (let a = 0; a < about.length; a++) if (o[about[a]] !== 0) D[col + a] = 1 / Math.sqrt(stiff + LIMIT)
      }
    }
    if (this.shifts) {
      const col = this.turns
      // shifts are told in the skeleton's space
      const moved = rotate(this.outer, [0, 1, 2].map(k => scale * (T[3 * carrier + k] - this.base[k])) as Vec3)
      for (let k = 0; k < 3; k++) {
        slope[col + k] = SHIFT * moved[k]
      }
    }
    for (let i = 0; i < n; i++) {
      h[i] = -D[i] * slope[i]
    }
    for (let b = 0; b < this.blocks.length; b++) this.follow(this.blocks[b])
    this.gather()
  }

  /** How the errors of a block follow its columns. */
  private follow(block: Block): void {
    if (block.kind === 'mass') this.followMass(block)
    else this.followPoint(block)
  }

  /** How a point or a turn moves with its columns. */
  private followPoint({ from: row, kind, goal, columns }: Block): void {
    const { Bs, D, c, e, h, o, pose, axis, jointOf, n, turns } = this
    const { scale } = this.body
    const P = pose.positions
    const weight = c[row]
    const place = kind === 'place'
    if (place) this.pointAt(o, this.goals[goal].joint, this.goals[goal].point)
    const px = o[0],
      py = o[1],
      pz = o[2]
    const ex = weight * e[row],
      ey = weight * e[row + 1],
      ez = weight * e[row + 2]
    for (let i = 0; i < columns.length; i++) {
      const col = columns[i]
      let vx = 0,
        vy = 0,
        vz = 0
      if (col >= turns) {
        // shifts move places and turn nothing
        if (place) {
          vx = col === turns ? 1 : 0
          vy = col === turns + 1 ? 1 : 0
          vz = col === turns + 2 ? 1 : 0
        }
      } else {
        const ax = axis[3 * col],
          ay = axis[3 * col + 1],
          az = axis[3 * col + 2]
        if (place) {
          const j = 3 * jointOf[col]
          const dx = px - P[j],
            dy = py - P[j + 1],
            dz = pz - P[j + 2]
          vx = scale * (ay * dz - az * dy)
          vy = scale * (az * dx - ax * dz)
          vz = scale * (ax * dy - ay * dx)
        } else {
          vx = TURN_LENGTH * ax
          vy = TURN_LENGTH * ay
          vz = TURN_LENGTH * az
        }
      }
      const w = weight * D[col]
      const at = row * n + i
      const bx = (Bs[at] = w * vx),
        by = (Bs[at + n] = w * vy),
        bz = (Bs[at + 2 * n] = w * vz)
      h[col] += ex * bx + ey * by + ez * bz
    }
  }

  /** How the centre of mass moves with every column. */
  private followMass({ from: row, columns }: Block): void {
    const { Bs, D, c, e, h, o, pose, axis, jointOf, n, turns, massBelow, momentBelow } = this
    const { scale, carrier, level } = this.body
    const P = pose.positions
    const weight = c[row]
    for (let i = 0; i < columns.length; i++) {
      const col = columns[i]
      const at = row * n + i
      const shift = col >= turns
      const j = shift ? carrier : jointOf[col]
      const mass = massBelow[j]
      const share = mass / this.whole
      let vx = 0,
        vy = 0,
        vz = 0
      if (shift) {
        vx = col === turns ? share : 0
        vy = col === turns + 1 ? share : 0
        vz = col === turns + 2 ? share : 0
      } else {
        for (let k = 0; k < 3; k++) o[k] = mass > 0 ? momentBelow[3 * j + k] / mass : P[3 * j + k]
        const ax = axis[3 * col],
          ay = axis[3 * col + 1],
          az = axis[3 * col + 2]
        const dx = o[0] - P[3 * j],
          dy = o[1] - P[3 * j + 1],
          dz = o[2] - P[3 * j + 2]
        const w = scale * share
        vx = w * (ay * dz - az * dy)
        vy = w * (az * dx - ax * dz)
        vz = w * (ax * dy - ay * dx)
      }
      const w = weight * D[col]
      for (let s = 0; s < 2; s++) {
        const value = (Bs[at + s * n] = w * (level[s][0] * vx + level[s][1] * vy + level[s][2] * vz))
        h[col] += weight * e[row + s] * value
      }
    }
  }

  /** u = B·h and S = B·Bᵀ, both in units of what columns cost. */
  private gather(): void {
    const { Bs, S, h, u, blocks, shared, n, m } = this
    for (let b = 0; b < blocks.length; b++) {
      const { from, to, columns, kind } = blocks[b]
      for (let r = from; r < to; r++) {
        let sum = 0
        for (let i = 0, at = r * n; i < columns.length; i++, at++) sum += Bs[at] * h[columns[i]]
        u[r] = sum
      }
      for (let a = 0; a <= b; a++) {
        const other = blocks[a]
        const all = kind === 'mass' && a < b
        const both = all ? other.columns.length : shared[b][a]
        for (let r = from; r < to; r++)
          for (let t = other.from; t < other.to && t <= r; t++) {
            let sum = 0
            const x = r * n,
              y = t * n
            if (all) for (let i = 0; i < both; i++) sum += Bs[x + other.columns[i]] * Bs[y + i]
            else for (let i = 0; i < both; i++) sum += Bs[x + i] * Bs[y + i]
            S[r * m + t] = sum
          }
      }
    }
  }

  /** A step that lowers the costs, −(D(1+μ) + BᵀB)⁻¹·g, into the tried pose. @returns false where none was found */
  step(damping: number): boolean {
    const { A, L, S, u, y, x, h, D, n, m } = this
    const less = 1 / (1 + damping)
    for (let r = 0; r < m; r++) {
      for (let t = 0; t < r; t++) A[r * m + t] = less * S[r * m + t]
      A[r * m + r] = 1 + less * S[r * m + r]
      y[r] = less * u[r]
    }
    if (!choleskyOf(A, m, L)) return false
    solveCholesky(L, y, m, y)
    x.set(h)
    this.addRows(-1)
    for (let i = 0; i < n; i++) x[i] *= less * D[i]
    this.go()
    return true
  }

  /** x += sign·Bᵀ·y */
  private addRows(sign: number): void {
    const { Bs, x, y, blocks, n } = this
    for (let b = 0; b < blocks.length; b++) {
      const { from, to, columns } = blocks[b]
      for (let r = from; r < to; r++) {
        const w = sign * y[r]
        if (w !== 0) for (let i = 0, at = r * n; i < columns.length; i++, at++) x[columns[i]] += w * Bs[at]
      }
    }
  }

  /** Makes ready to meet goals, all weighing alike. @param rows of the goals  @returns false where that cannot be done */
  aim(rows: readonly number[]): boolean {
    const { A, L, S, m } = this
    this.c.fill(1)
    this.linearise(this.T)
    const w = rows.length
    for (let a = 0; a < w; a++) {
      for (let b = 0; b <= a; b++) A[a * w + b] = S[rows[a] * m + rows[b]]
      A[a * w + a] += 1e-9
    }
    return choleskyOf(A, w, L) !== undefined
  }

  /** The least turns that meet the goals aimed at, to first order, into the tried pose. */
  meet(rows: readonly number[]): void {
    const { L, e, y, x, D, u, n } = this
    const w = rows.length
    for (let a = 0; a < w; a++) y[a] = e[rows[a]]
    solveCholesky(L, y, w, y)
    u.set(y)
    y.fill(0)
    for (let a = 0; a < w; a++) y[rows[a]] = u[a]
    x.fill(0)
    this.addRows(1)
    for (let i = 0; i < n; i++) x[i] *= D[i]
    this.go()
  }

  /** The pose a step leads to. */
  private go(): void {
    const { x, free, first, turns, triedR, triedT, v, o } = this
    const { axes, carrier, scale } = this.body
    let longest = 0
    for (let i = 0; i < turns; i++) longest = Math.max(longest, Math.abs(x[i]))
    // many joints in a row turn their end by the sum of their turns
    for (let b = 0; b < this.blocks.length; b++) {
      const { columns } = this.blocks[b]
      let sum = 0
      for (let i = 0; i < columns.length; i++) if (columns[i] < turns) sum += Math.abs(x[columns[i]])
      longest = Math.max(longest, sum * (LONGEST_TURN / LONGEST_BEND))
    }
    const far = this.shifts ? Math.hypot(x[turns], x[turns + 1], x[turns + 2]) : 0
    const within = Math.min(
      1,
      LONGEST_TURN / Math.max(longest, LONGEST_TURN),
      LONGEST_SHIFT / Math.max(far, LONGEST_SHIFT),
    )
    for (let i = 0; i < free.length; i++) {
      const { joint: j, about } = free[i]
      o[0] = o[1] = o[2] = 0
      for (let a = 0; a < about.length; a++) o[about[a]] = within * x[first[i] + a]
      rotateAt(v, 0, axes, 4 * j, o[0], o[1], o[2])
      this.turnOwn(this.R, triedR, j)
    }
    if (!this.shifts) return
    const own = rotate(conjugate(this.outer), [x[turns], x[turns + 1], x[turns + 2]])
    for (let k = 0; k < 3; k++) triedT[3 * carrier + k] = this.T[3 * carrier + k] + (within / scale) * own[k]
  }

  /** Takes the tried pose. */
  accept(): void {
    const { free, R, T, triedR, triedT } = this
    for (let i = 0; i < free.length; i++) copyTurn(triedR, R, free[i].joint)
    const at = 3 * this.body.carrier
    if (this.shifts) for (let k = at; k < at + 3; k++) T[k] = triedT[k]
  }

  /** Keeps the pose at hand, to be taken back to. */
  keepAside(): void {
    for (let i = 0; i < this.free.length; i++) copyTurn(this.R, this.asideR, this.free[i].joint)
    for (let k = 0; k < 3; k++) this.asideT[k] = this.T[3 * this.body.carrier + k]
  }
  takeBack(): void {
    for (let i = 0; i < this.free.length; i++) copyTurn(this.asideR, this.R, this.free[i].joint)
    for (let k = 0; k < 3; k++) this.T[3 * this.body.carrier + k] = this.asideT[k]
  }

  /** The pose at hand; joints no goal moves as in the one given. */
  poseOver(given: FigurePose): { readonly rotations: Float32Array; readonly translations: Float32Array } {
    const { R, T, free } = this
    const rotations = new Float32Array(given.rotations)
    const translations = new Float32Array(given.translations)
    for (let i = 0; i < free.length; i++)
      for (let k = 4 * free[i].joint; k < 4 * free[i].joint + 4; k++) rotations[k] = R[k]
    const at = 3 * this.body.carrier
    for (let k = at; k < at + 3; k++) translations[k] = T[k]
    return { rotations, translations }
  }

  /** Rows of goals that are nearer than a length, by what is held and what is pulled. */
  rowsWithin(held: number, pulled: number): number[] {
    const out: number[] = []
    for (const { from: r, kind, hold } of this.blocks)
      if (kind !== 'mass' && this.missed(r) < (hold ? held : pulled)) out.push(r, r + 1, r + 2)
    return out
  }
  /** Whether every goal is nearer than a length. */
  isNear(held: number, pulled: number): boolean {
    for (const { from, kind, hold } of this.blocks)
      if (kind !== 'mass' && !(this.missed(from) < (hold ? held : pulled))) return false
    return true
  }

  /** How far goals are off together. */
  off(rows: readonly number[]): number {
    let sum = 0
    for (const r of rows) sum += this.e[r] * this.e[r]
    return Math.sqrt(sum)
  }

  /** Whether every goal is met, places within metres and turns within radians. */
  isMet(within: number): boolean {
    return this.blocks.every(
      ({ from, kind }) =>
        kind === 'mass' || this.missed(from) / (kind === 'place' ? this.body.scale : TURN_LENGTH) < within,
    )
  }

  /** Whether a place that is held is farther off than metres. */
  isLoose(metres: number): boolean {
    return this.blocks.some(
      ({ from, kind, hold }) => hold && kind === 'place' && this.missed(from) / this.body.scale > metres,
    )
  }

  /** How far the rows of a goal are off together. */
  private missed(r: number): number {
    const { e } = this
    return Math.sqrt(e[r] * e[r] + e[r + 1] * e[r + 1] + e[r + 2] * e[r + 2])
  }

  /** How far each goal is from being met, at the pose `costs` saw last. */
  residuals(): Residual[] {
    const out = this.goals.map(() => ({ place: 0, turn: 0 }))
    for (const { from: r, kind, goal } of this.blocks) {
      const far = this.missed(r)
      if (kind === 'place') out[goal].place = far / this.body.scale
      else if (kind === 'turn') out[goal].turn = far / TURN_LENGTH
    }
    return out
  }

  /** A point of a joint in the world. */
  private pointAt(out: Float64Array, j: number, point: Goal['point']): void {
    const { positions, rotations } = this.pose
    if (point) rotateAt(out, 0, rotations, 4 * j, point[0], point[1], point[2])
    else out[0] = out[1] = out[2] = 0
    for (let k = 0; k < 3; k++) out[k] += positions[3 * j + k]
  }

  /**
   * Turns a joint by the rotation vector in `v`, told in its own space: to second order in its angle (Cayley's map), as a step is no
   * more exact than that.
   */
  private turnOwn(from: Float64Array, to: Float64Array, j: number): void {
    const { v, q, p } = this
    q[0] = 0.5 * v[0]
    q[1] = 0.5 * v[1]
    q[2] = 0.5 * v[2]
    q[3] = 1
    timesAt(p, 0, from, 4 * j, q, 0)
    const long = 1 / Math.sqrt(p[0] * p[0] + p[1] * p[1] + p[2] * p[2] + p[3] * p[3])
    for (let i = 0; i < 4; i++) to[4 * j + i] = p[i] * long
  }
}

/** Axis k of a turn in space: a column of its matrix. */
function axisOf(out: Float64Array, o: number, q: Float64Array, k: number): void {
  const x = q[0],
    y = q[1],
    z = q[2],
    w = q[3]
  if (k === 0) {
    out[o] = 1 - 2 * (y * y + z * z)
    out[o + 1] = 2 * (x * y + w * z)
    out[o + 2] = 2 * (x * z - w * y)
  } else if (k === 1) {
    out[o] = 2 * (x * y - w * z)
    out[o + 1] = 1 - 2 * (x * x + z * z)
    out[o + 2] = 2 * (y * z + w * x)
  } else {
    out[o] = 2 * (x * z + w * y)
    out[o + 1] = 2 * (y * z - w * x)
    out[o + 2] = 1 - 2 * (x * x + y * y)
  }
}

/** The turn of a joint from one pose into another. */
function copyTurn(from: Float64Array, to: Float64Array, j: number): void {
  const i = 4 * j
  to[i] = from[i]
  to[i + 1] = from[i + 1]
  to[i + 2] = from[i + 2]
  to[i + 3] = from[i + 3]
}

/** Axis times angle of the shorter way, see `rotationVector`. */
function vectorOf(out: Float64Array, q: Float64Array): void {
  const s = Math.sqrt(q[0] * q[0] + q[1] * q[1] + q[2] * q[2])
  const k = s < 1e-12 ? 2 : (2 * Math.atan2(s, Math.abs(q[3]))) / s
  const sign = q[3] < 0 ? -k : k
  out[0] = sign * q[0]
  out[1] = sign * q[1]
  out[2] = sign * q[2]
}
