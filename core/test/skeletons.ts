import { fromAxisAngle, normalize, seededRandom, type Quat, type Vec3 } from '../src/math'
import type { Take } from '../src/motion'
import { skeletonFromWorld, type Skeleton, type WorldJoint } from '../src/skeleton'

const PLACES: readonly (readonly [string, string, Vec3])[] = [
  ['hips', '', [0, 1, 0]],
  ['spine', 'hips', [0, 1.1, 0]],
  ['chest', 'spine', [0, 1.22, 0]],
  ['upperChest', 'chest', [0, 1.34, 0]],
  ['neck', 'upperChest', [0, 1.48, 0]],
  ['head', 'neck', [0, 1.56, 0.01]],
  ...(['left', 'right'] as const).flatMap((s): [string, string, Vec3][] => {
    const k = s === 'left' ? 1 : -1
    return [
      [`${s}Shoulder`, 'upperChest', [k * 0.03, 1.43, 0]],
      [`${s}UpperArm`, `${s}Shoulder`, [k * 0.17, 1.42, 0]],
      [`${s}LowerArm`, `${s}UpperArm`, [k * 0.44, 1.42, -0.01]],
      [`${s}Hand`, `${s}LowerArm`, [k * 0.69, 1.42, 0.01]],
      [`${s}UpperLeg`, 'hips', [k * 0.09, 0.95, 0]],
      [`${s}LowerLeg`, `${s}UpperLeg`, [k * 0.1, 0.52, 0.015]],
      [`${s}Foot`, `${s}LowerLeg`, [k * 0.1, 0.09, 0]],
      [`${s}Toes`, `${s}Foot`, [k * 0.11, 0.03, 0.13]],
    ]
  }),
]

export const ROLES = PLACES.map(p => p[0])

/** A standing biped. `axes` gives each joint's own axes, `place` moves each joint. */
export function biped(
  options: {
    axes?: (role: string) => Quat
    place?: (p: Vec3) => Vec3
    name?: (role: string) => string
    roles?: boolean
  } = {},
): Skeleton {
  const joints: WorldJoint[] = PLACES.map(([role, parent, position]) => ({
    name: options.name?.(role) ?? role,
    role: options.roles === false ? undefined : role,
    parent: parent ? ROLES.indexOf(parent) : -1,
    position: options.place?.(position) ?? position,
    rotation: options.axes?.(role) ?? [0, 0, 0, 1],
  }))
  return skeletonFromWorld(joints)
}

/** Joint axes that follow no convention. */
export function wildAxes(seed: number): (role: string) => Quat {
  const table = new Map<string, Quat>()
  const random = seededRandom(seed)
  for (const role of ROLES)
    table.set(role, fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), random() * 6))
  return role => table.get(role)!
}

/** A take of small random turns on a skeleton, walking along. */
export function wildTake(skeleton: Skeleton, seed: number, frames = 12): Take {
  const random = seededRandom(seed)
  const n = skeleton.names.length
  const rotations = new Float32Array(4 * n * frames)
  const translations = new Float32Array(3 * n * frames)
  for (let f = 0; f < frames; f++)
    for (let j = 0; j < n; j++) {
      const rest = skeleton.restRotations.subarray(4 * j, 4 * j + 4)
      const turn = fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 0.6 * (random() - 0.5))
      const [ax, ay, az, aw] = rest
      const [bx, by, bz, bw] = turn
      rotations.set(
        [
          aw * bx + ax * bw + ay * bz - az * by,
          aw * by - ax * bz + ay * bw + az * bx,
          aw * bz + ax * by - ay * bx + az * bw,
          aw * bw - ax * bx - ay * by - az * bz,
        ],
        4 * (f * n + j),
      )
      translations.set(skeleton.restTranslations.subarray(3 * j, 3 * j + 3), 3 * (f * n + j))
      if (j === 0) translations[3 * f * n + 2] += 0.02 * f
    }
  return { name: 'wild', fps: 30, frames, rotations, translations }
}
