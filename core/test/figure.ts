import { join, tube } from './shapes'
import { meshOf, type Mesh } from '../src/mesh'
import { fromDirections, normalize, sub, type Vec3 } from '../src/math'
import { bind, type Skin } from '../src/skin'
import { rebuildRig, sameJoints, type Rig, aimJoints } from '../src/rig'
import { boneDirection, worldPose, type Skeleton } from '../src/skeleton'
import { biped, wildTake } from './skeletons'

/** A straight tube between two points. */
export function limb(a: Vec3, b: Vec3, radius: number): Mesh {
  const n = 14
  const flat = tube(
    Array.from({ length: n }, (_, i) => [0, i / (n - 1), 0]),
    radius,
    14,
  )
  const d = sub(b, a)
  const long = Math.hypot(...d)
  const y = normalize(d)
  const x = normalize(Math.abs(y[1]) < 0.9 ? [y[1], -y[0], 0] : [1, 0, 0])
  const q = fromDirections(y, x)
  const p = flat.positions.slice()
  for (let i = 0; i < p.length; i += 3) {
    const v: Vec3 = [p[i], p[i + 1] * long, p[i + 2]]
    const t: Vec3 = [2 * (q[1] * v[2] - q[2] * v[1]), 2 * (q[2] * v[0] - q[0] * v[2]), 2 * (q[0] * v[1] - q[1] * v[0])]
    p[i] = a[0] + v[0] + q[3] * t[0] + q[1] * t[2] - q[2] * t[1]
    p[i + 1] = a[1] + v[1] + q[3] * t[1] + q[2] * t[0] - q[0] * t[2]
    p[i + 2] = a[2] + v[2] + q[3] * t[2] + q[0] * t[1] - q[1] * t[0]
  }
  return meshOf(p, flat.indices)
}

/** A jointed doll about the biped of the tests: arms straight out, 1.72 m tall, facing +Z. */
export function doll(): Mesh {
  const both = (x: (s: 1 | -1) => Mesh): Mesh[] => [x(1), x(-1)]
  return join(
    limb([0, 0.88, 0], [0, 1.5, 0], 0.13),
    limb([0, 1.44, 0], [0, 1.56, 0.005], 0.05),
    limb([0, 1.53, 0.01], [0, 1.72, 0.01], 0.09),
    ...both(s => limb([s * 0.02, 1.42, 0], [s * 0.86, 1.42, 0.005], 0.045)),
    ...both(s => limb([s * 0.09, 1, 0], [s * 0.1, 0.02, 0], 0.065)),
    ...both(s => limb([s * 0.1, 0.045, -0.04], [s * 0.115, 0.03, 0.2], 0.035)),
  )
}

/** A clean skeleton for the doll: along its bones, elbows and knees bent a little, roles told. */
export function cleanSkeleton(): Skeleton {
  const raw = biped()
  return aimJoints({ skeleton: raw, takes: [] }, { along: '+y', hinge: '+x' }).skeleton
}

let made: Promise<Rig & { mesh: Mesh; skin: Skin }> | undefined
/** The doll with skeleton, skin and a take, all in order. */
export function cleanDoll(): Promise<Rig & { mesh: Mesh; skin: Skin }> {
  made ??= (async () => {
    const mesh = doll()
    const skeleton = cleanSkeleton()
    return { mesh, skeleton, skin: await bind(mesh, skeleton, { cells: 90 }), takes: [wildTake(skeleton, 3)] }
  })()
  return made
}

/** The same rig with every joint turned in its own space. */
export const turned = <T extends Rig>(rig: T, turn: (j: number) => [number, number, number, number] | undefined): Rig =>
  rebuildRig(
    rig,
    sameJoints(rig.skeleton).map((joint, j) => ({ ...joint, rotation: turn(j) })),
  )

export const boneOf = (s: Skeleton, role: string): Vec3 =>
  boneDirection(s, s.roles.indexOf(role), undefined, worldPose(s))!
