import {
  breather,
  conjugate,
  cross,
  fromAxes,
  IDENTITY,
  length,
  multiply,
  normalize,
  quatAt,
  rotate,
  sub,
  vec3At,
  type Quat,
  type Vec3,
  type WorkOptions,
  maxOf,
} from '../math'
import type { Mesh } from '../mesh'
import { kindOf, requiredRoles } from '../body'
import { bodyFrame } from '../retarget'
import { bindPose, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** Rows of a table along its bone. */
export const ROWS = 14
const COLUMNS = 24

/**
 * How thick the body is around a bone: the outermost flesh by height along the bone and direction around it, as a table that
 * rides on the joint. Space of the joint: y along the bone, lengths in metres.
 */
export interface LimbRadii {
  readonly joint: number
  /** From the table's axes to the joint's own. */
  readonly axes: Quat
  readonly low: number
  readonly high: number
  /** ROWS · COLUMNS radii, outermost. */
  readonly radii: Float32Array
  /** ROWS mean radii. */
  readonly mean: Float32Array
  /** ROWS largest radii of each row and those beside it. */
  readonly widest: Float32Array
  /** Radius of the ball around the middle of the table that holds all of it. */
  readonly reach: number
  /** Length of the bone. */
  readonly bone: number
}

/** The body's thickness by role. */
export type BodyRadii = Readonly<Record<string, LimbRadii>>

/** The bones there are tables of, and where each ends: at the first of these a skeleton has. */
export const BONES: readonly (readonly [string, readonly string[]])[] = [
  ['hips', ['spine', 'chest', 'neck']],
  ['spine', ['chest', 'upperChest', 'neck', 'head']],
  ['chest', ['upperChest', 'neck', 'head']],
  ['upperChest', ['neck', 'head']],
  ['head', []],
  ...['left', 'right'].flatMap((s): [string, string[]][] => [
    [`${s}UpperArm`, [`${s}LowerArm`]],
    [`${s}LowerArm`, [`${s}Hand`]],
    [`${s}Hand`, [`${s}MiddleProximal`, `${s}IndexProximal`]],
    [`${s}UpperLeg`, [`${s}LowerLeg`]],
    [`${s}LowerLeg`, [`${s}Foot`]],
  ]),
]

/** Axes of a table around a bone that points along `y` in the body's own frame: the same on every body that stands alike. */
export function axesAlong(y: Vec3): Quat {
  const ahead: Vec3 = Math.abs(y[2]) > 0.9 ? [1, 0, 0] : [0, 0, 1]
  const x = normalize(cross(y, ahead))
  return fromAxes(x, y, cross(x, y))
}

/**
 * Measures the body around its bones, from the vertices each bone moves most.
 * @param joints joint by role
 */
export async function bodyRadiiOf(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  joints: Readonly<Record<string, number>>,
  work: WorkOptions = {},
): Promise<BodyRadii> {
  const pulse = breather(work)
  const bind = bindPose(skeleton)
  // a plan of its own stands as it was drawn
  const known = requiredRoles(kindOf(joints)).every(r => joints[r] !== undefined)
  const frame = known ? bodyFrame(skeleton, joints) : ([...IDENTITY] as Quat)
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const tables = new Map<number, { role: string; axes: Quat; bone: number; points: number[] }>()
  for (const [role, ends] of BONES) {
    const j = joints[role]
    if (j === undefined) continue
    const end = ends.map(r => joints[r]).find(e => e !== undefined && e !== j)
    const tip = skeleton.tips && vec3At(skeleton.tips, j)
    const along: Vec3 =
      end !== undefined
        ? sub(at(end), at(j))
        : tip && length(tip) > 1e-9
          ? rotate(quatAt(bind.rotations, j), tip)
          : [0, 1, 0]
    const y = normalize(along)
    tables.set(j, {
      role,
      axes: multiply(conjugate(quatAt(bind.rotations, j)), multiply(conjugate(frame), axesAlong(rotate(frame, y)))),
      bone: length(along),
      points: [],
    })
  }
  // a twist or finger joint counts for the bone it rides on; feet and necks for none
  const counts = skeleton.names.map((_, j) => {
    const stops = new Set(
      ['neck', 'leftFoot', 'rightFoot', 'leftShoulder', 'rightShoulder']
        .map(r => joints[r])
        .filter(s => s !== undefined && !tables.has(s)),
    )
    for (let p = j; p >= 0; p = skeleton.parents[p]) {
      if (tables.has(p)) return p
      if (stops.has(p)) return -1
    }
    return -1
  })
  const inverse = new Map([...tables].map(([j, t]) => [j, conjugate(multiply(quatAt(bind.rotations, j), t.axes))]))
  const { influences: K } = skin
  const vertices = mesh.positions.length / 3
  for (let v = 0; v < vertices; v++) {
    if ((v & 8191) === 0) await pulse((0.8 * v) / vertices)
    // influences are kept strongest first
    const j = counts[skin.joints[K * v]]
    if (j === undefined || j < 0) continue
    const p = rotate(inverse.get(j)!, sub(vec3At(mesh.positions, v), at(j)))
    tables.get(j)!.points.push(p[0], p[1], p[2])
  }
  const out: Record<string, LimbRadii> = {}
  for (const [joint, t] of tables) {
    await pulse(0.9)
    if (t.points.length >= 36) out[t.role] = { joint, axes: t.axes, bone: t.bone, ...tableOf(t.points) }
  }
  return out
}

export function tableOf(
  points: readonly number[],
): Pick<LimbRadii, 'low' | 'high' | 'radii' | 'mean' | 'widest' | 'reach'> {
  let low = Infinity,
    high = -Infinity
  for (let i = 1; i < points.length; i += 3) {
    low = Math.min(low, points[i])
    high = Math.max(high, points[i])
  }
  const radii = new Float32Array(ROWS * COLUMNS).fill(-1)
  const mean = new Float32Array(ROWS)
  const counts = new Float32Array(ROWS)
  for (let i = 0; i < points.length; i += 3) {
    const row = Math.min(ROWS - 1, Math.floor((ROWS * (points[i + 1] - low)) / (high - low || 1)))
    const column = columnOf(points[i], points[i + 2])
    const r = Math.hypot(points[i], points[i + 2])
    radii[row * COLUMNS + column] = Math.max(radii[row * COLUMNS + column], r)
    mean[row] += r
    counts[row]++
  }
  for (let row = 0; row < ROWS; row++)
    mean[row] = counts[row] > 0 ? mean[row] / counts[row] : row > 0 ? mean[row - 1] : 0
  fill(radii)
  const widest = Float32Array.from({ length: ROWS }, (_, row) =>
    maxOf(radii.subarray(Math.max(0, row - 1) * COLUMNS, Math.min(ROWS, row + 2) * COLUMNS)),
  )
  return { low, high, radii, mean, widest, reach: Math.hypot((high - low) / 2, maxOf(radii)) }
}

/** Where a direction lies around the bone, 0..4: grows with the angle, without trigonometry. */
function around(x: number, z: number): number {
  const d = Math.abs(x) + Math.abs(z)
  if (d < 1e-12) return 0
  const t = z / d
  return x >= 0 ? (t >= 0 ? t : 4 + t) : 2 - t
}
/** The directions around a bone the table tells of, as [x, z]. */
export const AROUND: readonly (readonly [number, number])[] = Array.from({ length: COLUMNS }, (_, c) => {
  const t = ((c + 0.5) * 4) / COLUMNS
  const z = t < 1 ? t : t < 3 ? 2 - t : t - 4
  const x = (t < 1 || t > 3 ? 1 : -1) * (1 - Math.abs(z))
  const l = Math.hypot(x, z)
  return [x / l, z / l] as const
})
const columnOf = (x: number, z: number): number => Math.floor((around(x, z) * COLUMNS) / 4) % COLUMNS

/** Gives places of the table without flesh the mean of their filled neighbours, until none is left. */
function fill(radii: Float32Array): void {
  for (let round = 0; round < ROWS + COLUMNS; round++) {
    const before = radii.slice()
    let open = false
    for (let row = 0; row < ROWS; row++)
      for (let c = 0; c < COLUMNS; c++) {
        if (before[row * COLUMNS + c] >= 0) continue
        open = true
        let sum = 0,
          n = 0
        for (const [dr, dc] of [
          [0, 1],
          [0, -1],
          [1, 0],
          [-1, 0],
        ]) {
          const r = row + dr
          if (r < 0 || r >= ROWS) continue
          const value = before[r * COLUMNS + ((c + dc + COLUMNS) % COLUMNS)]
          if (value >= 0) {
            sum += value
            n++
          }
        }
        if (n > 0) radii[row * COLUMNS + c] = sum / n
      }
    if (!open) return
  }
}

/** How thick the flesh is at a height along the bone in the direction [x, z], metres. */
export function fleshAt({ low, high, radii }: LimbRadii, x: number, y: number, z: number): number {
  const span = (high - low) / ROWS || 1
  const row = Math.min(ROWS - 1, Math.max(0, (y - low) / span - 0.5))
  const turn = (around(x, z) * COLUMNS) / 4 - 0.5
  const r0 = Math.floor(row),
    r1 = Math.min(ROWS - 1, r0 + 1),
    fr = row - r0
  const below = Math.floor(turn)
  const c0 = below < 0 ? COLUMNS - 1 : below,
    c1 = c0 + 1 === COLUMNS ? 0 : c0 + 1,
    fc = turn - below
  return (
    (1 - fr) * ((1 - fc) * radii[r0 * COLUMNS + c0] + fc * radii[r0 * COLUMNS + c1]) +
    fr * ((1 - fc) * radii[r1 * COLUMNS + c0] + fc * radii[r1 * COLUMNS + c1])
  )
}

/** How far a point in the table's axes is outside the flesh around a bone, metres; negative inside. The way out is [x, 0, z] made unit. */
export function clearOf(limb: LimbRadii, x: number, y: number, z: number): number {
  const { low, high } = limb
  const beyond = Math.max(0, low - y, y - high)
  const off = Math.sqrt(x * x + z * z) - fleshAt(limb, x, y, z)
  if (beyond === 0) return off
  return off <= 0 ? beyond : Math.sqrt(off * off + beyond * beyond)
}

/** Whether a point is surely farther from the flesh than `limit`: told by its height along the bone and the square of its distance from the axis. */
export function surelyFar(limb: LimbRadii, y: number, across: number, limit: number): boolean {
  const { low, high, widest } = limb
  if (low - y >= limit || y - high >= limit) return true
  const row = Math.floor((ROWS * (y - low)) / (high - low || 1))
  const reach = widest[row < 0 ? 0 : row >= ROWS ? ROWS - 1 : row] + limit
  return reach <= 0 || across >= reach * reach
}

/** Mean thickness around a bone at a share of its length. */
export function thicknessAt(limb: LimbRadii, share: number): number {
  const row = Math.floor((ROWS * (share * limb.bone - limb.low)) / (limb.high - limb.low || 1))
  return limb.mean[Math.min(ROWS - 1, Math.max(0, row))]
}

/** The rows of a table: their heights along the bone and radii by direction, see {@link AROUND}. */
export const rowsOf = ({ low, high, radii }: LimbRadii): { readonly y: number; readonly radii: Float32Array }[] =>
  Array.from({ length: ROWS }, (_, r) => ({
    y: low + ((r + 0.5) * (high - low)) / ROWS,
    radii: radii.subarray(r * COLUMNS, (r + 1) * COLUMNS),
  }))
