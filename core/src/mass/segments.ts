import { z } from 'zod'
import { add, ChiraxisError, conjugate, quatAt, rotate, scale, sub, vec3At, type Vec3 } from '../math'
import { kindOf } from '../body'
import { atBind, findJoint, worldPose, type Skeleton } from '../skeleton'
import type { JointVolumes } from './by-volume'
import { PUBLISHED } from './published'

/** What was settled by hand about a figure's mass. */
export const massSettingsSchema = z.object({
  /** From its own volume, or by published shares of living bodies. */
  by: z.enum(['volume', 'published']).optional(),
  /** Of the whole, kilograms; left out, of a body as dense as living ones. */
  total: z.number().min(1e-6).max(1e9).optional(),
  /** Kilograms of one joint, by role or by what it is known by; the others keep theirs. */
  own: z.record(z.string().max(200), z.number().min(0).max(1e9)).optional(),
})
export type MassSettings = z.infer<typeof massSettingsSchema>

/** Of living bodies, kilograms a cubic metre: about that of water (Siri 1956: 985 to 1100). */
export const DENSITY = 1010

/** What each joint carries: kilograms, and where their centre lies in the joint's own space, metres. */
export interface BodyMass {
  /** J */
  readonly masses: Float64Array
  /** 3·J */
  readonly centres: Float64Array
}

/** Whether a figure's parts can be told by published shares: they are of bodies on two legs. */
export const hasPublished = (joints: Readonly<Record<string, number>>): boolean =>
  kindOf(joints) === 'biped' &&
  ['hips', 'leftUpperLeg', 'rightUpperLeg', 'leftUpperArm', 'rightUpperArm'].every(r => joints[r] !== undefined)

/**
 * Mass by joint, as it was settled.
 * @throws ChiraxisError `no-roles` where published shares are asked of another body than one on two legs
 */
export function bodyMass(
  skeleton: Skeleton,
  joints: Readonly<Record<string, number>>,
  volumes: JointVolumes,
  settings: MassSettings = {},
): BodyMass {
  const J = skeleton.names.length
  const whole = volumes.volumes.reduce((a, b) => a + b, 0)
  const total = settings.total ?? DENSITY * whole
  const found =
    settings.by === 'published'
      ? published(skeleton, joints, total)
      : {
          masses: volumes.volumes.map(v => (whole > 0 ? (total * v) / whole : 0)),
          centres: volumes.centres,
        }
  const masses = Float64Array.from(found.masses)
  const centres = Float64Array.from(found.centres)
  for (const [ref, kilograms] of Object.entries(settings.own ?? {})) {
    const j = joints[ref] ?? findJoint(skeleton, ref)
    if (j < 0 || j >= J) continue
    masses[j] = kilograms
  }
  return { masses, centres }
}

function published(skeleton: Skeleton, joints: Readonly<Record<string, number>>, total: number): BodyMass {
  if (!hasPublished(joints))
    throw new ChiraxisError(
      'no-roles',
      'Published shares are of bodies on two legs with arms; this figure is told by its own volume.',
    )
  const J = skeleton.names.length
  const bind = worldPose(atBind(skeleton))
  const at = (j: number): Vec3 => vec3At(bind.positions, j)
  const masses = new Float64Array(J)
  const moments = new Float64Array(3 * J)
  for (const { role, mass, along, to, else: others } of PUBLISHED) {
    const j = [role, ...others].map(r => joints[r]).find(k => k !== undefined)
    if (j === undefined) continue
    const own = joints[role] ?? j
    const next = to.map(r => joints[r]).find(k => k !== undefined)
    const back = conjugate(quatAt(bind.rotations, own))
    const tip = skeleton.tips ? vec3At(skeleton.tips, own) : ([0, 0, 0] as Vec3)
    const end: Vec3 = next === undefined ? add(at(own), rotate(quatAt(bind.rotations, own), tip)) : at(next)
    const centre = add(at(own), scale(sub(end, at(own)), along))
    const inJoint = rotate(j === own ? back : conjugate(quatAt(bind.rotations, j)), sub(centre, at(j)))
    masses[j] += mass * total
    for (let k = 0; k < 3; k++) moments[3 * j + k] += mass * total * inJoint[k]
  }
  return { masses, centres: moments.map((m, i) => (masses[Math.floor(i / 3)] > 0 ? m / masses[Math.floor(i / 3)] : 0)) }
}
