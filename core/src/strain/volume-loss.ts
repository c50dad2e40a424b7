import {
  breather,
  conjugate,
  multiply,
  quatAt,
  rotate,
  setVec3,
  sub,
  vec3At,
  type Vec3,
  type WorkOptions,
} from '../math'
import type { Mesh, Weld } from '../mesh'
import { bindPose, boneSegments, nearestOnBones, atBind, type Skeleton, type WorldPose } from '../skeleton'
import type { Regions } from './regions'

/**
 * Share of the volume between skin and bone that each region loses in a pose: the sum of the tetrahedra from every
 * triangle to the point of the nearest bone that lies under it, which goes along with that bone.
 * @param bent 3·V the posed body
 * @returns per region, 0..1; 0 where it gains
 */
export function volumeLoss(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  weld: Weld,
  regions: Regions,
  bent: Float32Array,
  posed: WorldPose,
  skeleton: Skeleton,
  feet: FootPoints,
): Float64Array {
  const bound = bindPose(skeleton)
  const turns = skeleton.names.map((_, j) =>
    multiply(quatAt(posed.rotations, j), conjugate(quatAt(bound.rotations, j))),
  )
  const before = new Float64Array(regions.list.length),
    after = new Float64Array(regions.list.length)
  const { positions, indices } = mesh
  for (let f = 0; f < indices.length; f += 3) {
    const v = indices[f]
    const r = regions.of[v]
    const w = weld.of[v]
    const j = feet.joint[w]
    const foot = vec3At(feet.place, w)
    const offset = rotate(turns[j], sub(foot, vec3At(bound.positions, j)))
    const now: Vec3 = [
      posed.positions[3 * j] + offset[0],
      posed.positions[3 * j + 1] + offset[1],
      posed.positions[3 * j + 2] + offset[2],
    ]
    before[r] += tetrahedron(positions, indices, f, foot)
    after[r] += tetrahedron(bent, indices, f, now)
  }
  return before.map((b, r) => (b > 0 ? Math.max(0, 1 - Math.max(0, after[r]) / b) : 0))
}

/** For every welded vertex the joint whose bone is nearest, and the point of it that lies under the vertex. */
export interface FootPoints {
  readonly joint: Uint16Array
  /** 3·W */
  readonly place: Float32Array
}

/** The point of the nearest bone under every welded vertex, and the joint that carries it; the same for every pose. */
export async function footPoints(
  mesh: Pick<Mesh, 'positions'>,
  weld: Weld,
  skeleton: Skeleton,
  work: WorkOptions = {},
): Promise<FootPoints> {
  const pulse = breather(work)
  const bones = boneSegments(atBind(skeleton))
  const n = weld.first.length
  const joint = new Uint16Array(n)
  const place = new Float32Array(3 * n)
  for (let w = 0; w < n; w++) {
    if ((w & 1023) === 0) await pulse(w / n)
    const nearest = nearestOnBones(bones, vec3At(mesh.positions, weld.first[w]))
    joint[w] = nearest.joint
    setVec3(place, w, nearest.place)
  }
  return { joint, place }
}

/** Signed volume between a triangle and a point; positive where the triangle looks away from it. */
function tetrahedron(p: Float32Array, indices: Mesh['indices'], f: number, apex: Vec3): number {
  const a = 3 * indices[f],
    b = 3 * indices[f + 1],
    c = 3 * indices[f + 2]
  const ax = p[a] - apex[0],
    ay = p[a + 1] - apex[1],
    az = p[a + 2] - apex[2]
  const bx = p[b] - apex[0],
    by = p[b + 1] - apex[1],
    bz = p[b + 2] - apex[2]
  const cx = p[c] - apex[0],
    cy = p[c + 1] - apex[1],
    cz = p[c + 2] - apex[2]
  return (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6
}
