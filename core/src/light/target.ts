import { breather, type ReadonlyVec3, type Vec3, type WorkOptions } from '../math'
import { closestOnSurface, type ClosestOnSurface } from '../mesh'
import type { Skin } from '../skin'

/** The surface a light body is laid on: a sculpt's triangles, and which limb each belongs to. */
export interface Target {
  readonly positions: Float32Array
  readonly indices: Uint32Array
  /** 3·F, unit length; zeros where a triangle has no area. */
  readonly normals: Float32Array
  /** F: the limb of each triangle. */
  readonly limbOf: Int16Array
  readonly surface: ClosestOnSurface
}

/** Triangles of a body parted by the limb whose joints move them most. @param limbOfJoint limb of each joint, -1 for none */
export async function targetOf(
  positions: Float32Array,
  indices: Uint32Array,
  skin: Skin,
  limbOfJoint: ArrayLike<number>,
  limbs: number,
  work: WorkOptions = {},
): Promise<Target> {
  const pulse = breather(work)
  const faces = indices.length / 3
  const normals = new Float32Array(3 * faces)
  const limbOf = new Int16Array(faces)
  const sums = new Float64Array(limbs)
  for (let f = 0; f < faces; f++) {
    if (f % 20000 === 0) await pulse(f / faces)
    const n = faceNormal(positions, indices, f)
    normals[3 * f] = n[0]
    normals[3 * f + 1] = n[1]
    normals[3 * f + 2] = n[2]
    sums.fill(0)
    for (let c = 0; c < 3; c++) {
      const row = indices[3 * f + c] * skin.influences
      for (let i = 0; i < skin.influences; i++) {
        const limb = limbOfJoint[skin.joints[row + i]]
        if (limb >= 0) sums[limb] += skin.weights[row + i]
      }
    }
    let best = 0
    for (let l = 1; l < limbs; l++) if (sums[l] > sums[best]) best = l
    limbOf[f] = best
  }
  return { positions, indices, normals, limbOf, surface: closestOnSurface(positions, indices) }
}

export function faceNormal(p: ArrayLike<number>, indices: ArrayLike<number>, f: number): Vec3 {
  const a = 3 * indices[3 * f],
    b = 3 * indices[3 * f + 1],
    c = 3 * indices[3 * f + 2]
  const ux = p[b] - p[a],
    uy = p[b + 1] - p[a + 1],
    uz = p[b + 2] - p[a + 2]
  const vx = p[c] - p[a],
    vy = p[c + 1] - p[a + 1],
    vz = p[c + 2] - p[a + 2]
  const n: Vec3 = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const l = Math.hypot(n[0], n[1], n[2])
  return l > 0 ? [n[0] / l, n[1] / l, n[2] / l] : [0, 0, 0]
}

/** How much a triangle looks the way told, -1 to 1. */
export const looks = ({ normals }: Target, f: number, way: ReadonlyVec3): number =>
  normals[3 * f] * way[0] + normals[3 * f + 1] * way[1] + normals[3 * f + 2] * way[2]

/** How far along a ray the outermost triangle of those accepted lies that looks outward; -1 where there is none. */
export function outermostAlong(
  target: Target,
  from: ReadonlyVec3,
  way: ReadonlyVec3,
  reach: number,
  accept: (triangle: number, at: number) => boolean,
): number {
  let best = -1
  target.surface.along([from[0], from[1], from[2]], [way[0], way[1], way[2]], reach, (f, at) => {
    if (at > best && looks(target, f, way) > 0.02 && accept(f, at)) best = at
  })
  return best
}
