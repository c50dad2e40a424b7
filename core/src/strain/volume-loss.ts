import { breather, setVec3, vec3At, type WorkOptions } from '../math'
import type { Mesh, Weld } from '../mesh'
import { atBind, bindPose, boneSegments, nearestOnBones, type Skeleton, type WorldPose } from '../skeleton'
import { jointMatrices } from '../skin'

/**
 * Measures a body in any number of poses: cubic metres per region; what looks inwards counts against.
 * @param triangles those that a pose may change; the others are as at rest
 */
export type FleshMeasure = (placed: Float32Array, pose: WorldPose, triangles: Uint32Array) => Float64Array

/**
 * Volume between skin and bone of each region: the sum of the tetrahedra from every triangle to the point of the
 * nearest bone that lies under it, which goes along with that bone.
 * @param corners 3·F welded vertices of the triangles  @param regionOf F  @param count regions
 * @returns the measure, and the volumes at rest
 */
export function fleshMeasure(
  { positions, indices }: Pick<Mesh, 'positions' | 'indices'>,
  corners: Uint32Array,
  regionOf: Uint8Array,
  count: number,
  skeleton: Skeleton,
  { places, riders }: FootPoints,
): { readonly measure: FleshMeasure; readonly atRest: Float64Array } {
  const triangles = regionOf.length
  const m = new Float32Array(12 * skeleton.names.length)
  /** Six times the tetrahedra of some triangles, i the place in `chosen` or in all. */
  function tetrahedra(p: Float32Array, chosen: Uint32Array | undefined, sum: (f: number, six: number) => void): void {
    const n = chosen ? chosen.length : triangles
    for (let i = 0; i < n; i++) {
      const f = chosen ? chosen[i] : i
      const q = 3 * f
      const a = 3 * indices[q],
        b = 3 * indices[q + 1],
        c = 3 * indices[q + 2],
        w = corners[q],
        o = 12 * riders[w]
      const fx = places[3 * w],
        fy = places[3 * w + 1],
        fz = places[3 * w + 2]
      // the point on the bone, where its joint takes it
      const x = m[o] * fx + m[o + 1] * fy + m[o + 2] * fz + m[o + 3],
        y = m[o + 4] * fx + m[o + 5] * fy + m[o + 6] * fz + m[o + 7],
        z = m[o + 8] * fx + m[o + 9] * fy + m[o + 10] * fz + m[o + 11]
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
      sum(f, ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx))
    }
  }
  const own = new Float64Array(triangles)
  const all = new Float64Array(count)
  jointMatrices(skeleton, bindPose(skeleton), m)
  tetrahedra(positions, undefined, (f, six) => {
    own[f] = six
    all[regionOf[f]] += six
  })
  return {
    atRest: all.map(v => v / 6),
    measure(placed, pose, chosen) {
      jointMatrices(skeleton, pose, m)
      const volumes = all.slice()
      tetrahedra(placed, chosen, (f, six) => {
        volumes[regionOf[f]] += six - own[f]
      })
      return volumes.map(v => v / 6)
    },
  }
}

/** Share of its volume that each region loses, 0..1; 0 where it gains. */
export const lostShare = (before: Float64Array, after: Float64Array): Float64Array =>
  before.map((b, r) => (b > 0 ? Math.max(0, 1 - Math.max(0, after[r]) / b) : 0))

/** The points of the nearest bones that lie under the welded vertices. */
export interface FootPoints {
  /** 3·W */
  readonly places: Float32Array
  /** W: the joint of its bone, which it goes along with. */
  readonly riders: Uint16Array
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
  const riders = new Uint16Array(n)
  const places = new Float32Array(3 * n)
  for (let w = 0; w < n; w++) {
    if ((w & 1023) === 0) await pulse(w / n)
    const nearest = nearestOnBones(bones, vec3At(mesh.positions, weld.first[w]))
    riders[w] = nearest.joint
    setVec3(places, w, nearest.place)
  }
  return { places, riders }
}
