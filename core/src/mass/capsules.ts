import { add, conjugate, dot, length, normalize, quatAt, rotate, scale, sub, vec3At, type Vec3 } from '../math'
import type { Mesh } from '../mesh'
import { bindPose, childrenOf, nextJoint, type Skeleton } from '../skeleton'
import { verticesByJoint, type Skin } from '../skin'

/** A volume around a bone: a ball at either end, of different size, and what lies between. All in the joint's own space, metres. */
export interface Capsule {
  readonly joint: number
  readonly from: Vec3
  readonly to: Vec3
  readonly fromRadius: number
  readonly toRadius: number
}

/** Share of the surface around a bone that its volume holds. */
const WITHIN = 0.75
/** Joints that move less of the surface have none, vertices. */
const FEWEST = 12

/** Volumes fitted to the skinned surface, one for each joint that moves enough of it. */
export function capsulesOf(mesh: Mesh, skeleton: Skeleton, skin: Skin): Capsule[] {
  const bind = bindPose(skeleton)
  const children = childrenOf(skeleton)
  const own = verticesByJoint(skin, skeleton.names.length)
  return skeleton.names.flatMap((_, j): Capsule[] => {
    if (own[j].length < FEWEST) return []
    const back = conjugate(quatAt(bind.rotations, j))
    const at = vec3At(bind.positions, j)
    const flesh = own[j].map(v => rotate(back, sub(vec3At(mesh.positions, v), at)))
    const next = nextJoint(skeleton, children, j)
    const tip = skeleton.tips ? vec3At(skeleton.tips, j) : ([0, 0, 0] as Vec3)
    const way: Vec3 = next !== undefined ? rotate(back, sub(vec3At(bind.positions, next), at)) : tip
    const long = length(way)
    const dir = long > 1e-6 ? normalize(way) : normalize(mean(flesh), [0, 1, 0])
    // bones of a trunk lie near its back: the volume lies in the middle of its flesh
    const middleOf = mean(flesh)
    const beside = sub(middleOf, scale(dir, dot(middleOf, dir)))
    const points = flesh.map(p => sub(p, beside))
    const told = points
      .map(p => {
        const t = p[0] * dir[0] + p[1] * dir[1] + p[2] * dir[2]
        return { t, r: Math.hypot(p[0] - t * dir[0], p[1] - t * dir[1], p[2] - t * dir[2]) }
      })
      .sort((a, b) => a.t - b.t)
    const [low, high] = [told[Math.floor(0.04 * told.length)].t, told[Math.floor(0.96 * (told.length - 1))].t]
    const middle = 0.5 * (low + high)
    const radius = (list: readonly { r: number }[]): number => {
      const sorted = list.map(p => p.r).sort((a, b) => a - b)
      return sorted.length > 0 ? sorted[Math.floor(WITHIN * (sorted.length - 1))] : 0
    }
    const whole = radius(told)
    const r0 = radius(told.filter(p => p.t <= middle)) || whole
    const r1 = radius(told.filter(p => p.t > middle)) || whole
    // balls end where the surface does
    const from = Math.min(middle, low + r0),
      to = Math.max(middle, high - r1)
    return [
      { joint: j, from: add(beside, scale(dir, from)), to: add(beside, scale(dir, to)), fromRadius: r0, toRadius: r1 },
    ]
  })
}

function mean(points: readonly Vec3[]): Vec3 {
  const sum: Vec3 = [0, 0, 0]
  for (const p of points) for (const k of [0, 1, 2] as const) sum[k] += p[k] / points.length
  return sum
}
