import {
  dot,
  pseudoInverse,
  multiply,
  conjugate,
  normalizeQuat,
  quatAt,
  rotationVector,
  type Quat,
  type ReadonlyQuat,
  type Vec3,
} from '../math'
import {
  atBind,
  boneDirection,
  childrenOf,
  findJoint,
  turnOf,
  worldPose,
  type PoseTurn,
  type Skeleton,
} from '../skeleton'

/** How strongly shapes show for given turns of the joints. */
export interface Drive {
  /**
   * @param rotations local rotations of all joints, from `first` joints on
   * @returns one weight a shape, 0..1
   */
  weights(rotations: ArrayLike<number>, first?: number): Float64Array
}

/** A shape as far as it is driven. */
export interface Driven {
  readonly turns: readonly PoseTurn[]
  readonly ease: number
}

/** A twist about the bone smaller than this in every pose of a group drives nothing, radians. */
const LEAST_TWIST = (15 * Math.PI) / 180
/** Poses nearer to rest than this drive nothing, radians. */
const LEAST_TURN = 0.02

/**
 * Shapes told at poses, interpolated over all others: pose space deformation (Lewis, Cordner and Fong 2000, "Pose space
 * deformation"), a group for every set of joints that drive together. A pose is a point: rotation vectors of its joints (Grassia
 * 1998), where the twist about a bone counts only if some pose of the group is told by it. Each shape has a cone about
 * its own pose that ends at rest; solved together they show in full at their own pose and not at all at rest and at the
 * others. Turned farther than any pose of the group, the joints count as turned as far as the farthest: what goes on
 * bending keeps its shape. What comes on late does so on the way from rest alone: between two poses the one gives way to
 * the other evenly.
 */
export function driveOf(skeleton: Skeleton, poses: readonly Driven[]): Drive {
  const rest = atBind(skeleton)
  const world = worldPose(rest)
  const children = childrenOf(rest)
  const groups = new Map<string, { joints: number[]; shapes: number[]; turns: Quat[][] }>()
  poses.forEach(({ turns }, shape) => {
    const found = turns
      .map(t => ({ j: findJoint(skeleton, t.joint), by: t.by as Quat }))
      .filter(t => t.j >= 0)
      .sort((a, b) => a.j - b.j)
    // a pose that lost a joint is another pose
    if (found.length < turns.length || found.length === 0) return
    const key = found.map(t => t.j).join()
    const group = groups.get(key) ?? { joints: found.map(t => t.j), shapes: [], turns: [] }
    group.shapes.push(shape)
    group.turns.push(found.map(t => t.by))
    groups.set(key, group)
  })
  const made = [...groups.values()].map(group => {
    const bones = group.joints.map(j => boneDirection(rest, j, children, world))
    const twists = bones.map((b, i) =>
      b && group.turns.some(t => Math.abs(parted(t[i], b).twist) > LEAST_TWIST) ? 1 : 0,
    )
    const pointOf = (turns: readonly ReadonlyQuat[]): number[] =>
      turns.flatMap((q, i) => {
        const bone = bones[i]
        if (!bone) return [...rotationVector(q), 0]
        const { swing, twist } = parted(q, bone)
        return [...rotationVector(swing), twists[i] * twist]
      })
    const points = group.turns.map(pointOf)
    const reach = points.map(p => Math.hypot(...p))
    const far = reach.reduce((a, b) => Math.max(a, b), 0)
    const cone = (p: readonly number[], s: number): number =>
      reach[s] < LEAST_TURN ? 0 : Math.max(0, 1 - away(p, points[s]) / reach[s])
    const shares = pseudoInverse(points.map(p => points.map((_, s) => cone(p, s))))
    return { ...group, pointOf, cone, shares, far }
  })
  return {
    weights(rotations, first = 0) {
      const out = new Float64Array(poses.length)
      for (const { joints, shapes, pointOf, cone, shares, far } of made) {
        const p = pointOf(
          joints.map(j => turnOf(world.rotations, skeleton.parents[j], j, quatAt(rotations, first + j))),
        )
        const size = Math.hypot(...p)
        if (size > far && size > 0) p.forEach((v, i) => (p[i] = (v * far) / size))
        const cones = shapes.map((_, s) => cone(p, s))
        const even = shapes.map((_, s) => unit(cones.reduce((sum, c, i) => sum + shares[i][s] * c, 0)))
        const all = unit(even.reduce((a, b) => a + b, 0))
        shapes.forEach((shape, s) => (out[shape] = even[s] > 0 ? even[s] * all ** (poses[shape].ease - 1) : 0))
      }
      return out
    },
  }
}

const unit = (v: number): number => Math.min(1, Math.max(0, v))
const away = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((v, i) => v - b[i]))

/** A turn as a swing of a direction after a twist about it, radians in -π..π. */
function parted(q: ReadonlyQuat, axis: Vec3): { swing: Quat; twist: number } {
  const along = dot([q[0], q[1], q[2]], axis)
  const l = Math.hypot(along, q[3])
  // half a turn across the axis tells no twist
  if (l < 1e-9) return { swing: [...q], twist: 0 }
  const twist: Quat = [(axis[0] * along) / l, (axis[1] * along) / l, (axis[2] * along) / l, q[3] / l]
  const angle = 2 * Math.atan2(along, q[3])
  return {
    swing: normalizeQuat(multiply(q, conjugate(twist))),
    twist: angle > Math.PI ? angle - 2 * Math.PI : angle < -Math.PI ? angle + 2 * Math.PI : angle,
  }
}
