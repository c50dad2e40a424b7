import { breather, setVec3, vec3At, type WorkOptions } from '../math'
import type { Mesh, Weld } from '../mesh'
import { boneSegments, nearestOnBones, atBind, type Skeleton, type WorldPose } from '../skeleton'
import { deform, type Skin } from '../skin'

/** Measures a body in any number of poses: cubic metres per region; what looks inwards counts against. */
export type FleshMeasure = (placed: Float32Array, pose: WorldPose) => Float64Array

/**
 * Volume between skin and bone of each region: the sum of the tetrahedra from every triangle to the point of the
 * nearest bone that lies under it, which goes along with that bone.
 * @param corners 3·F welded vertices of the triangles  @param regionOf F  @param count regions
 */
export function fleshMeasure(
  { indices }: Pick<Mesh, 'indices'>,
  corners: Uint32Array,
  regionOf: Uint8Array,
  count: number,
  skeleton: Skeleton,
  feet: FootPoints,
): FleshMeasure {
  return (p, pose) => {
    const apexes = deform(feet.places, skeleton, feet.ride, pose)
    const volumes = new Float64Array(count)
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

/** The points of the nearest bones that lie under the welded vertices. */
export interface FootPoints {
  /** 3·W */
  readonly places: Float32Array
  /** Each goes wholly with the joint of its bone. */
  readonly ride: Skin
}

/** The point of the nearest bone under every welded vertex, as bound; the same for every pose. */
export async function footPoints(
  mesh: Pick<Mesh, 'positions'>,
  weld: Weld,
  skeleton: Skeleton,
  work: WorkOptions = {},
): Promise<FootPoints> {
  const pulse = breather(work)
  const bones = boneSegments(atBind(skeleton))
  const n = weld.first.length
  const joints = new Uint16Array(n)
  const places = new Float32Array(3 * n)
  for (let w = 0; w < n; w++) {
    if ((w & 1023) === 0) await pulse(w / n)
    const nearest = nearestOnBones(bones, vec3At(mesh.positions, weld.first[w]))
    joints[w] = nearest.joint
    setVec3(places, w, nearest.place)
  }
  return { places, ride: { influences: 1, joints, weights: new Float32Array(n).fill(1) } }
}
