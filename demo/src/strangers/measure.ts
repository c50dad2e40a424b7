import { cross, dot, normalize, seededRandom, sub, transformPoint, type Vec3 } from '@chiraxis/core/math'
import type { Straightened } from '@chiraxis/core/shape'
import { disturb, variedDisturbance, type MadeFigure } from '../figures'
import type { Stranger } from './index'

/**
 * A stranger as files bring bodies: any way up and facing, in any unit, off its place.
 * @param turned whether it is turned about the vertical too; left out, most are
 */
export function asItComes(
  stranger: Stranger,
  seed: number,
  turned = seededRandom(seed)() < 0.7,
): Pick<MadeFigure, 'mesh' | 'joints'> {
  const noise = variedDisturbance(seed)
  return disturb(
    { ...stranger, labels: [], near: () => [] },
    { ...noise, noise: 0, turn: turned ? noise.turn : 0 },
    seed,
  )
}

/** What is wrong about how a body was stood up; undefined where nothing is. */
export type WrongStance = 'up' | 'side' | 'facing' | 'midline'
/** @param joints true ones, in the body's own space as it came */
export function wrongStance(
  joints: Readonly<Record<string, Vec3>>,
  { matrix, height }: Pick<Straightened, 'matrix' | 'height'>,
): WrongStance | undefined {
  const up = normalize(sub(joints.head, joints.hips))
  const left = normalize(sub(joints.leftUpperLeg, joints.rightUpperLeg))
  const row = (r: number): Vec3 => normalize([matrix[r], matrix[4 + r], matrix[8 + r]])
  if (dot(row(1), up) < 0.7) return 'up'
  if (Math.abs(dot(row(0), left)) < 0.8) return 'side'
  if (dot(row(2), cross(left, up)) < 0) return 'facing'
  return Math.abs(transformPoint(matrix, joints.hips)[0]) > 0.02 * height ? 'midline' : undefined
}
