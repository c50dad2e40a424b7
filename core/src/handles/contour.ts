import {
  conjugate,
  cross,
  dot,
  normalize,
  quatAt,
  rotate,
  scale,
  sub,
  symmetricEigen,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import { outlineAround } from '../mass'
import { sectionOf, type Mesh, type Weld } from '../mesh'
import type { WorldPose } from '../skeleton'
import type { Contour } from './handle'

/** Points of a line around a limb. */
const POINTS = 40

/** The body's own cut across a bone, as a line on the joint. @param at a point in the limb  @param way along it */
export function cutAround(
  mesh: Mesh,
  weld: Weld,
  bind: WorldPose,
  joint: number,
  at: Vec3,
  way: Vec3,
): Contour | undefined {
  const { outlines, chosen, u, v } = sectionOf(mesh, at, way, weld)
  const outline = outlines[chosen]
  if (!outline || outline.points.length < 6) return undefined
  const n = outline.points.length / 2
  const world = Array.from(
    { length: n },
    (_, i): Vec3 => [0, 1, 2].map(k => at[k] + outline.points[2 * i] * u[k] + outline.points[2 * i + 1] * v[k]) as Vec3,
  )
  return onJoint(evenly(world, POINTS), bind, joint)
}

/** The outline of some vertices as seen along a direction, laid in the plane through a point. */
export function outlineAlong(
  points: readonly Vec3[],
  bind: WorldPose,
  joint: number,
  through: Vec3,
  along: Vec3,
): Contour | undefined {
  if (points.length < 3) return undefined
  const n = normalize(along)
  const u = normalize(Math.abs(n[1]) < 0.9 ? cross([0, 1, 0], n) : cross([1, 0, 0], n))
  const v = cross(n, u)
  const flat = outlineAround(points.map(p => [dot(sub(p, through), u), dot(sub(p, through), v)] as const))
  if (flat.length < 3) return undefined
  const world = flat.map(([a, b]): Vec3 => [0, 1, 2].map(k => through[k] + a * u[k] + b * v[k]) as Vec3)
  return onJoint(evenly(world, POINTS), bind, joint)
}

/** The direction points lie flattest along, and their middle. */
export function flattest(points: readonly Vec3[]): { readonly along: Vec3; readonly middle: Vec3 } {
  const middle: Vec3 = [0, 0, 0]
  for (const p of points) for (const k of [0, 1, 2] as const) middle[k] += p[k] / points.length
  const m = [0, 0, 0, 0, 0, 0]
  for (const p of points) {
    const [x, y, z] = sub(p, middle)
    m[0] += x * x
    m[1] += x * y
    m[2] += x * z
    m[3] += y * y
    m[4] += y * z
    m[5] += z * z
  }
  return { along: symmetricEigen(m).vectors[2], middle }
}

/** A closed line through points at even steps of its length. */
function evenly(points: readonly Vec3[], count: number): Vec3[] {
  const steps = points.map((p, i) => Math.hypot(...sub(points[(i + 1) % points.length], p)))
  const whole = steps.reduce((a, b) => a + b, 0)
  if (!(whole > 0)) return [...points]
  const out: Vec3[] = []
  let i = 0,
    gone = 0
  for (let k = 0; k < count; k++) {
    const want = (whole * k) / count
    while (i < points.length - 1 && gone + steps[i] < want) gone += steps[i++]
    const t = steps[i] > 0 ? (want - gone) / steps[i] : 0
    const a = points[i],
      b = points[(i + 1) % points.length]
    out.push([a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])])
  }
  return out
}

function onJoint(world: readonly Vec3[], bind: WorldPose, joint: number): Contour {
  const back = conjugate(quatAt(bind.rotations, joint))
  const at = vec3At(bind.positions, joint)
  return { joint, points: Float32Array.from(world.flatMap(p => rotate(back, sub(p, at)))), closed: true }
}

/** A contour made larger about its middle by a share and a length, shifted and turned. */
export function contourWith(
  { joint, points, closed }: Contour,
  { grow = 1, by = 0, offset, turn }: { grow?: number; by?: number; offset?: Vec3; turn?: Quat },
): Contour {
  const n = points.length / 3
  const middle: Vec3 = [0, 0, 0]
  for (let i = 0; i < n; i++) for (const k of [0, 1, 2] as const) middle[k] += points[3 * i + k] / n
  const out = new Float32Array(points.length)
  for (let i = 0; i < n; i++) {
    const d = sub(vec3At(points, i), middle)
    const far = Math.hypot(...d)
    let p = scale(d, grow + (far > 1e-9 ? by / far : 0))
    if (turn) p = rotate(turn, p)
    for (const k of [0, 1, 2] as const) out[3 * i + k] = middle[k] + p[k] + (offset?.[k] ?? 0)
  }
  return { joint, points: out, closed }
}
