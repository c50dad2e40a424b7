import { rotateAt, timesAt } from '../math'
import { forwardKinematics, type Skeleton, type WorldPose } from '../skeleton'
import { jointsBetween, shareTwistAt, twistSegment, type TwistSegment } from './share-twist'
import type { Take } from './take'

/** Share of a limb's length from which reaching farther gets harder and harder, so that it never snaps straight. */
const SOFT = 0.97

/** A limb of two bones: joints of its upper and lower part and of its end; twist joints may lie between. */
export interface Limb {
  readonly upper: number
  readonly lower: number
  readonly end: number
  /** The way the middle joint stands out where the limb is straight, in the upper joint's own space. */
  readonly bend: readonly [number, number, number]
}

export interface LimbSolver {
  /**
   * Moves the end of a limb by a shift told in the skeleton's space: the limb is solved anew as two bones, its middle joint
   * in the plane it had, its end keeping its turn. The shift fades out where the limb cannot follow.
   * @param pose world pose of the frame, brought up to date for lower and end
   * @param rotations 4·J·N, changed at `offset`
   */
  solve(limb: Limb, pose: WorldPose, rotations: Float32Array, offset: number, sx: number, sy: number, sz: number): void
  /**
   * Brings the end of a limb to a place, its middle joint pointing to a pole and its end turned as asked; what is not
   * asked keeps as it is. Twist is shared over the joints between. Beyond its reach a limb stretches towards the place.
   * @param pose world pose of the frame, brought up to date for the whole limb
   * @param frames local turns (4·J·N, changed at `offset`) and translations (3·J·N)
   */
  reach(limb: ReachingLimb, pose: WorldPose, frames: Frames, offset: number, goal: ReachGoal): void
}

/** The part of a take that a pose is told by. */
type Frames = Pick<Take, 'rotations' | 'translations'>

/** A limb with what its twist is shared over. */
export interface ReachingLimb extends Limb {
  readonly twists: readonly TwistSegment[]
  /** Every joint from the upper one to the end, from above. */
  readonly chain: Int32Array
}

/** What a limb is asked for; all in the skeleton's space. */
export interface ReachGoal {
  /** Where its end is to be, metres. */
  readonly place: ArrayLike<number>
  /** A point its middle joint is to point to, seen from the line between its ends; left out, it keeps its plane. */
  readonly pole?: ArrayLike<number>
  /** How its end is to be turned, xyzw; left out, it keeps its turn. */
  readonly turn?: ArrayLike<number>
  /** Brought there to the hair as long as the limb is long enough; left out, it gives softly before it is straight. */
  readonly firm?: boolean
}

/** A solver with its scratch memory, for loops over frames. */
export function createLimbSolver(skeleton: Skeleton): LimbSolver {
  const { parents } = skeleton
  const turn = new Float64Array(4)
  const second = new Float64Array(4)
  const upperTurned = new Float64Array(4)
  const lowerTurned = new Float64Array(4)
  const middle = new Float64Array(4)

  function solve(
    limb: Limb,
    pose: WorldPose,
    rotations: Float32Array,
    offset: number,
    sx: number,
    sy: number,
    sz: number,
    goal?: ReachGoal,
  ): void {
    const P = pose.positions,
      R = pose.rotations
    const u = 3 * limb.upper,
      l = 3 * limb.lower,
      e = 3 * limb.end
    const ux = P[u],
      uy = P[u + 1],
      uz = P[u + 2]
    const lx = P[l] - ux,
      ly = P[l + 1] - uy,
      lz = P[l + 2] - uz
    const ex = P[e] - ux,
      ey = P[e + 1] - uy,
      ez = P[e + 2] - uz
    const a = Math.sqrt(lx * lx + ly * ly + lz * lz)
    const bx = ex - lx,
      by = ey - ly,
      bz = ez - lz
    const b = Math.sqrt(bx * bx + by * by + bz * bz)
    const d0 = Math.sqrt(ex * ex + ey * ey + ez * ez)
    let gx = ex + sx,
      gy = ey + sy,
      gz = ez + sz
    const wanted = Math.sqrt(gx * gx + gy * gy + gz * gz)
    if (a < 1e-9 || b < 1e-9 || d0 < 1e-9 || wanted < 1e-9) return
    const d = Math.max(
      Math.abs(a - b) + 1e-6 * (a + b),
      goal?.firm ? Math.min(wanted, a + b) : within(wanted, Math.max(SOFT * (a + b), d0), 0.99999 * (a + b)),
    )
    const ix = gx / wanted,
      iy = gy / wanted,
      iz = gz / wanted
    gx = ix * d
    gy = iy * d
    gz = iz * d
    // swing the middle joint's own plane with the limb, so that it keeps pointing where it did
    between(turn, ex / d0, ey / d0, ez / d0, ix, iy, iz)
    rotateAt(middle, 0, turn, 0, lx, ly, lz)
    const along = middle[0] * ix + middle[1] * iy + middle[2] * iz
    let ox = middle[0] - along * ix,
      oy = middle[1] - along * iy,
      oz = middle[2] - along * iz
    // a nearly straight limb takes its plane from how it is made
    const q = 4 * limb.upper
    second[0] = R[q]
    second[1] = R[q + 1]
    second[2] = R[q + 2]
    second[3] = R[q + 3]
    rotateAt(middle, 0, second, 0, limb.bend[0], limb.bend[1], limb.bend[2])
    const lean = middle[0] * ix + middle[1] * iy + middle[2] * iz
    const little = 0.01 * a
    ox += little * (middle[0] - lean * ix)
    oy += little * (middle[1] - lean * iy)
    oz += little * (middle[2] - lean * iz)
    if (goal?.pole) {
      const px = goal.pole[0] - ux,
        py = goal.pole[1] - uy,
        pz = goal.pole[2] - uz
      const t = px * ix + py * iy + pz * iz
      const qx = px - t * ix,
        qy = py - t * iy,
        qz = pz - t * iz
      // a pole on the line between the ends tells nothing
      if (qx * qx + qy * qy + qz * qz > 1e-8 * (a + b) * (a + b)) {
        ox = qx
        oy = qy
        oz = qz
      }
    }
    const o = Math.sqrt(ox * ox + oy * oy + oz * oz) || 1
    const cos = Math.max(-1, Math.min(1, (a * a + d * d - b * b) / (2 * a * d)))
    const sin = Math.sqrt(1 - cos * cos)
    const kx = a * (ix * cos + (ox / o) * sin),
      ky = a * (iy * cos + (oy / o) * sin),
      kz = a * (iz * cos + (oz / o) * sin)
    between(turn, lx / a, ly / a, lz / a, kx / a, ky / a, kz / a)
    between(second, bx / b, by / b, bz / b, (gx - kx) / b, (gy - ky) / b, (gz - kz) / b)
    timesAt(upperTurned, 0, turn, 0, R, q)
    timesAt(lowerTurned, 0, second, 0, R, 4 * limb.lower)
    local(rotations, offset, limb.upper, upperTurned, R, parents[limb.upper], undefined)
    local(rotations, offset, limb.lower, lowerTurned, R, parents[limb.lower], turn)
    for (let k = 0; k < 4; k++) middle[k] = goal?.turn ? goal.turn[k] : R[4 * limb.end + k]
    local(rotations, offset, limb.end, middle, R, parents[limb.end], second)
    R.set(upperTurned, q)
    R.set(lowerTurned, 4 * limb.lower)
    P[l] = ux + kx
    P[l + 1] = uy + ky
    P[l + 2] = uz + kz
    P[e] = ux + gx
    P[e + 1] = uy + gy
    P[e + 2] = uz + gz
  }

  function reach(
    limb: ReachingLimb,
    pose: WorldPose,
    { rotations, translations }: Frames,
    offset: number,
    goal: ReachGoal,
  ): void {
    const { place } = goal
    const e = 3 * limb.end
    const P = pose.positions
    solve(limb, pose, rotations, offset, place[0] - P[e], place[1] - P[e + 1], place[2] - P[e + 2], goal)
    for (const segment of limb.twists) shareTwistAt(skeleton, segment, rotations, offset)
    forwardKinematics(parents, limb.chain, translations, rotations, offset, pose)
  }
  return { solve, reach }
}

/** A limb that reaches, with the joints its twist is shared over: those in line along its two bones. */
export function reachingLimb(skeleton: Skeleton, rest: WorldPose, limb: Limb): ReachingLimb {
  const { upper, lower, end } = limb
  const twists = [twistSegment(skeleton, rest, upper, lower, 'near'), twistSegment(skeleton, rest, lower, end, 'far')]
  const between = (from: number, to: number): readonly number[] => jointsBetween(skeleton, from, to) ?? []
  return {
    ...limb,
    twists: twists.filter(s => s !== undefined),
    chain: Int32Array.from([upper, ...between(upper, lower), lower, ...between(lower, end), end]),
  }
}

/** How a limb is made: its joints, and where its middle joint stands out at rest, `way` where it is straight. */
export function limbOf(
  rest: WorldPose,
  upper: number,
  lower: number,
  end: number,
  way: readonly [number, number, number],
): Limb {
  const at = (j: number): [number, number, number] => [
    rest.positions[3 * j],
    rest.positions[3 * j + 1],
    rest.positions[3 * j + 2],
  ]
  const u = at(upper),
    m = at(lower),
    e = at(end)
  const line = [e[0] - u[0], e[1] - u[1], e[2] - u[2]]
  const long = line[0] ** 2 + line[1] ** 2 + line[2] ** 2 || 1
  const t = ((m[0] - u[0]) * line[0] + (m[1] - u[1]) * line[1] + (m[2] - u[2]) * line[2]) / long
  const off = [m[0] - u[0] - t * line[0], m[1] - u[1] - t * line[1], m[2] - u[2] - t * line[2]]
  const far = Math.hypot(off[0], off[1], off[2])
  const agrees = off[0] * way[0] + off[1] * way[1] + off[2] * way[2] > 0 && far > 0.01 * Math.sqrt(long)
  const out = agrees ? off.map(v => v / far) : way
  const back = new Float64Array([
    -rest.rotations[4 * upper],
    -rest.rotations[4 * upper + 1],
    -rest.rotations[4 * upper + 2],
    rest.rotations[4 * upper + 3],
  ])
  const own = new Float64Array(4)
  rotateAt(own, 0, back, 0, out[0], out[1], out[2])
  return { upper, lower, end, bend: [own[0], own[1], own[2]] }
}

/** A length kept below `most`, unchanged up to `easy` and ever less beyond. */
function within(length: number, easy: number, most: number): number {
  if (length <= easy) return length
  const room = most - easy
  return room < 1e-9 ? Math.min(length, easy) : easy + room * (1 - Math.exp(-(length - easy) / room))
}

/** The shortest turn from one unit direction to another. */
function between(out: Float64Array, ax: number, ay: number, az: number, bx: number, by: number, bz: number): void {
  const w = 1 + ax * bx + ay * by + az * bz
  if (w < 1e-9) {
    // straight back: half a turn about anything across
    const flat = Math.abs(ax) < 0.7
    const x = flat ? 0 : -az,
      y = flat ? az : 0,
      z = flat ? -ay : ax
    const l = Math.sqrt(x * x + y * y + z * z)
    out[0] = x / l
    out[1] = y / l
    out[2] = z / l
    out[3] = 0
    return
  }
  const x = ay * bz - az * by,
    y = az * bx - ax * bz,
    z = ax * by - ay * bx
  const l = 1 / Math.sqrt(x * x + y * y + z * z + w * w)
  out[0] = x * l
  out[1] = y * l
  out[2] = z * l
  out[3] = w * l
}

/** Writes a joint's local turn from its world turn; `carried` has turned its parent since the pose was worked out. */
function local(
  rotations: Float32Array,
  offset: number,
  j: number,
  world: Float64Array,
  R: Float64Array,
  parent: number,
  carried: Float64Array | undefined,
): void {
  const r = 4 * (offset + j)
  if (parent < 0) {
    rotations[r] = world[0]
    rotations[r + 1] = world[1]
    rotations[r + 2] = world[2]
    rotations[r + 3] = world[3]
    return
  }
  const p = 4 * parent
  let px = R[p],
    py = R[p + 1],
    pz = R[p + 2],
    pw = R[p + 3]
  if (carried) {
    const cx = carried[0],
      cy = carried[1],
      cz = carried[2],
      cw = carried[3]
    const x = cw * px + cx * pw + cy * pz - cz * py,
      y = cw * py - cx * pz + cy * pw + cz * px
    const z = cw * pz + cx * py - cy * px + cz * pw,
      w = cw * pw - cx * px - cy * py - cz * pz
    px = x
    py = y
    pz = z
    pw = w
  }
  const bx = world[0],
    by = world[1],
    bz = world[2],
    bw = world[3]
  rotations[r] = pw * bx - px * bw - py * bz + pz * by
  rotations[r + 1] = pw * by + px * bz - py * bw - pz * bx
  rotations[r + 2] = pw * bz - px * by + py * bx - pz * bw
  rotations[r + 3] = pw * bw + px * bx + py * by + pz * bz
}
