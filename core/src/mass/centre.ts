import { rotateAt, type Vec3 } from '../math'
import type { WorldPose } from '../skeleton'
import type { BodyMass } from './segments'

/** A mass that a figure carries, at a place in the world. */
export interface Load {
  readonly mass: number
  readonly place: Vec3
}

/**
 * Where the mass of a posed figure lies.
 * @param only joints that count; left out, all  @param loads what it carries
 * @returns undefined where there is no mass
 */
export function centreOfMass(
  { masses, centres }: BodyMass,
  pose: WorldPose,
  only?: (joint: number) => boolean,
  loads: readonly Load[] = [],
): { readonly mass: number; readonly place: Vec3 } | undefined {
  const own = new Float64Array(3)
  const sum: Vec3 = [0, 0, 0]
  let mass = 0
  for (let j = 0; j < masses.length; j++) {
    if (masses[j] <= 0 || (only && !only(j))) continue
    rotateAt(own, 0, pose.rotations, 4 * j, centres[3 * j], centres[3 * j + 1], centres[3 * j + 2])
    for (let k = 0; k < 3; k++) sum[k] += masses[j] * (pose.positions[3 * j + k] + own[k])
    mass += masses[j]
  }
  for (const load of loads) {
    mass += load.mass
    for (let k = 0; k < 3; k++) sum[k] += load.mass * load.place[k]
  }
  return mass > 0 ? { mass, place: [sum[0] / mass, sum[1] / mass, sum[2] / mass] } : undefined
}
