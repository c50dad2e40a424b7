import {
  breather,
  CORNERS_A_LOOK,
  conjugate,
  multiply,
  quatAt,
  setVec3,
  compose,
  vec3At,
  type WorkOptions,
} from '../math'
import type { Mesh, Weld } from '../mesh'
import { bindPose, boneSegments, nearestOnBones, atBind, type Skeleton, type WorldPose } from '../skeleton'
import type { Regions } from './regions'

/**
 * Volume between skin and bone of each region: the sum of the tetrahedra from every triangle to the point of the
 * nearest bone that lies under it, which goes along with that bone.
 * @param placed 3·V the body as it stands in the pose
 * @returns cubic metres per region; what looks inwards counts against
 */
export async function fleshVolumes(
  mesh: Pick<Mesh, 'indices'>,
  weld: Weld,
  regions: Regions,
  placed: Float32Array,
  pose: WorldPose,
  skeleton: Skeleton,
  feet: FootPoints,
  { signal }: WorkOptions = {},
): Promise<Float64Array> {
  const pulse = breather({ signal })
  const moved = await movedFeet(pose, skeleton, feet, pulse)
  const volumes = new Float64Array(regions.list.length)
  const { indices } = mesh
  for (let f = 0; f < indices.length; f += 3) {
    if (f % CORNERS_A_LOOK === 0) await pulse()
    const v = indices[f]
    volumes[regions.of[v]] += tetrahedron(placed, indices, f, moved, 3 * weld.of[v])
  }
  return volumes
}

/** Share of its volume that each region loses, 0..1; 0 where it gains. */
export const lostShare = (before: Float64Array, after: Float64Array): Float64Array =>
  before.map((b, r) => (b > 0 ? Math.max(0, 1 - Math.max(0, after[r]) / b) : 0))

/** 3·W: where the foot points are in a pose. */
async function movedFeet(
  pose: WorldPose,
  skeleton: Skeleton,
  feet: FootPoints,
  pulse: () => Promise<void> | undefined,
): Promise<Float32Array> {
  const bound = bindPose(skeleton)
  const turns = skeleton.names.map((_, j) =>
    compose([0, 0, 0], multiply(quatAt(pose.rotations, j), conjugate(quatAt(bound.rotations, j)))),
  )
  const from = feet.place
  const out = new Float32Array(from.length)
  for (let w = 0; w < feet.joint.length; w++) {
    if ((w & 32767) === 0) await pulse()
    const j = feet.joint[w]
    const m = turns[j]
    const x = from[3 * w] - bound.positions[3 * j],
      y = from[3 * w + 1] - bound.positions[3 * j + 1],
      z = from[3 * w + 2] - bound.positions[3 * j + 2]
    for (let k = 0; k < 3; k++) out[3 * w + k] = pose.positions[3 * j + k] + m[k] * x + m[4 + k] * y + m[8 + k] * z
  }
  return out
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
function tetrahedron(p: Float32Array, indices: Mesh['indices'], f: number, apexes: Float32Array, at: number): number {
  const a = 3 * indices[f],
    b = 3 * indices[f + 1],
    c = 3 * indices[f + 2]
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
  return (ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)) / 6
}
