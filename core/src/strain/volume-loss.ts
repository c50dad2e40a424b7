import { breather, setVec3, vec3At, type WorkOptions } from '../math'
import type { Mesh, Weld } from '../mesh'
import { boneSegments, nearestOnBones, atBind, type Skeleton, type WorldPose } from '../skeleton'
import { jointMatrices } from '../skin'
import type { Regions } from './regions'

/** Measures a body in any number of poses: cubic metres per region; what looks inwards counts against. */
export type FleshMeasure = (placed: Float32Array, pose: WorldPose) => Float64Array

/**
 * Volume between skin and bone of each region: the sum of the tetrahedra from every triangle to the point of the
 * nearest bone that lies under it, which goes along with that bone.
 * @param corners 3·F welded vertices of the triangles
 */
export function fleshMeasure(
  { indices }: Pick<Mesh, 'indices'>,
  corners: Uint32Array,
  regionOf: Uint8Array,
  regions: Regions,
  skeleton: Skeleton,
  feet: FootPoints,
): FleshMeasure {
  const apexes = new Float32Array(feet.place.length)
  return (p, pose) => {
    moveFeet(apexes, pose, skeleton, feet)
    const volumes = new Float64Array(regions.list.length)
    for (let f = 0, q = 0; f < regionOf.length; f++, q += 3) {
      const a = 3 * indices[q],
        b = 3 * indices[q + 1],
        c = 3 * indices[q + 2],
        at = 3 * corners[q]
      const x = apexes[at],
        y = apexes[at + 1],
        z = apexes[at + 2]
      const ax = p[a] - x,
        ay = p[a + 1] - y,
        az = p[a + 2] - z
      const bx = p[b] - x,
        by = p[b + 1] - y,
        bz = p[b + 2] - z
      const cx = p[c] - x,
        cy = p[c + 1] - y,
        cz = p[c + 2] - z
      // a tetrahedron six times; positive where the triangle looks away from the bone
      volumes[regionOf[f]] += ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    }
    return volumes.map(v => v / 6)
  }
}

/** Share of its volume that each region loses, 0..1; 0 where it gains. */
export const lostShare = (before: Float64Array, after: Float64Array): Float64Array =>
  before.map((b, r) => (b > 0 ? Math.max(0, 1 - Math.max(0, after[r]) / b) : 0))

/** Puts the foot points where they are in a pose. @param out 3·W */
function moveFeet(out: Float32Array, pose: WorldPose, skeleton: Skeleton, feet: FootPoints): void {
  const m = jointMatrices(skeleton, pose)
  const from = feet.place
  for (let w = 0, p = 0; w < feet.joint.length; w++, p += 3) {
    const a = 12 * feet.joint[w]
    const x = from[p],
      y = from[p + 1],
      z = from[p + 2]
    out[p] = m[a] * x + m[a + 1] * y + m[a + 2] * z + m[a + 3]
    out[p + 1] = m[a + 4] * x + m[a + 5] * y + m[a + 6] * z + m[a + 7]
    out[p + 2] = m[a + 8] * x + m[a + 9] * y + m[a + 10] * z + m[a + 11]
  }
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
