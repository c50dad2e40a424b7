import {
  add,
  addScaled,
  cross,
  distance,
  dot,
  lerp,
  normalize,
  perpendicular,
  scale,
  sub,
  type ReadonlyVec3,
  type Vec3,
} from '../math'

/** A place along the middle of a limb, with the frame its rings lie in: `across` × `deep` = `along`. */
export interface AxisFrame {
  readonly place: Vec3
  readonly along: Vec3
  readonly across: Vec3
  readonly deep: Vec3
}

/** The middle of a limb from its root to its tip, rounded where it bends, metres along it; it goes on straight beyond both ends. */
export interface LimbAxis {
  readonly length: number
  at(s: number): AxisFrame
  /** How far along the nearest point of the axis is, within its ends. */
  nearest(p: ReadonlyVec3): number
  /** How far along the rounded axis each of the points it was made from is. */
  readonly joints: readonly number[]
}

const SAMPLES = 16

/**
 * @param points from root to tip, two at least
 * @param deep about the way `deep` looks at the root; it is carried along without twist (Wang and others 2008,
 *   "Computation of rotation minimizing frames", double reflection)
 * @param radius how far from a bend rounding begins, metres; at most nearly half of either bone
 */
export function limbAxis(points: readonly ReadonlyVec3[], deep: ReadonlyVec3, radius: number): LimbAxis {
  const clean = points.filter((p, i) => i === 0 || distance(p, points[i - 1]) > 1e-6)
  if (clean.length < 2) clean.push(add(clean[0], [0, 1e-3, 0]))
  const line: Vec3[] = [[...clean[0]] as Vec3]
  const bends: number[] = [0]
  for (let i = 1; i + 1 < clean.length; i++) {
    const [a, b, c] = [clean[i - 1], clean[i], clean[i + 1]]
    const reach = Math.min(radius, 0.45 * distance(a, b), 0.45 * distance(b, c))
    const from = addScaled(b, normalize(sub(a, b)), reach)
    const to = addScaled(b, normalize(sub(c, b)), reach)
    for (let k = 0; k <= SAMPLES; k++) {
      const t = k / SAMPLES
      line.push(lerp(lerp(from, b, t), lerp(b, to, t), t))
      if (k === SAMPLES / 2) bends.push(line.length - 1)
    }
  }
  line.push([...clean[clean.length - 1]] as Vec3)
  bends.push(line.length - 1)
  const run = new Float64Array(line.length)
  for (let i = 1; i < line.length; i++) run[i] = run[i - 1] + distance(line[i], line[i - 1])
  const length = run[line.length - 1]
  const tangents = line.map((_, i) => normalize(sub(line[Math.min(line.length - 1, i + 1)], line[Math.max(0, i - 1)])))
  const heads: Vec3[] = []
  const square = (v: ReadonlyVec3, t: ReadonlyVec3): Vec3 => {
    const out = addScaled(v, t, -dot(v, t))
    return Math.hypot(...out) > 1e-6 ? normalize(out) : perpendicular(t)
  }
  heads.push(square(deep, tangents[0]))
  for (let i = 1; i < line.length; i++) {
    const v1 = sub(line[i], line[i - 1])
    const c1 = dot(v1, v1) || 1
    const head = addScaled(heads[i - 1], v1, (-2 / c1) * dot(v1, heads[i - 1]))
    const t = addScaled(tangents[i - 1], v1, (-2 / c1) * dot(v1, tangents[i - 1]))
    const v2 = sub(tangents[i], t)
    const c2 = dot(v2, v2)
    heads.push(square(c2 > 1e-12 ? addScaled(head, v2, (-2 / c2) * dot(v2, head)) : head, tangents[i]))
  }
  const frame = (place: Vec3, along: Vec3, head: Vec3): AxisFrame => {
    const deep = square(head, along)
    // across × deep = along
    return { place, along, across: cross(deep, along), deep }
  }
  return {
    length,
    joints: bends.map(i => run[i]),
    at(s) {
      const last = line.length - 1
      if (s <= 0) return frame(addScaled(line[0], tangents[0], s), tangents[0], heads[0])
      if (s >= length) return frame(addScaled(line[last], tangents[last], s - length), tangents[last], heads[last])
      let i = 1
      while (run[i] < s) i++
      const t = (s - run[i - 1]) / (run[i] - run[i - 1] || 1)
      return frame(
        lerp(line[i - 1], line[i], t),
        normalize(lerp(tangents[i - 1], tangents[i], t)),
        lerp(heads[i - 1], heads[i], t),
      )
    },
    nearest(p) {
      let best = Infinity,
        at = 0
      for (let i = 1; i < line.length; i++) {
        const d = sub(line[i], line[i - 1])
        const l2 = dot(d, d) || 1
        const t = Math.min(1, Math.max(0, dot(sub(p, line[i - 1]), d) / l2))
        const q = add(line[i - 1], scale(d, t))
        const far = dot(sub(p, q), sub(p, q))
        if (far >= best) continue
        best = far
        at = run[i - 1] + t * (run[i] - run[i - 1])
      }
      return at
    },
  }
}
