import {
  compose,
  fromAxisAngle,
  multiply,
  seededNormal,
  seededRandom,
  type Mat4,
  type Quat,
  type Vec3,
  transformPoint,
} from '@chiraxis/core/math'
import { transformMesh, type Mesh } from '@chiraxis/core/mesh'
import type { MadeFigure } from './figure'

/** How a body is made awkward, as if it came out of somebody else's program. */
export interface Disturbance {
  /** Deviation of surface noise as a share of height. */
  readonly noise: number
  /** Turn about the vertical, degrees. */
  readonly turn: number
  /** Units in a metre: 1, 100 or 1000. */
  readonly unit: number
  readonly zUp: boolean
  readonly offset: Vec3
}

/** A disturbance nobody tuned on. */
export function variedDisturbance(seed: number): Disturbance {
  const random = seededRandom(seed * 104729 + 5)
  return {
    noise: random() < 0.5 ? 0 : 0.0015 * random(),
    turn: [0, 0, 90, 180, -90, 7, -12, 33][Math.floor(random() * 8)],
    unit: [1, 1, 100, 1000][Math.floor(random() * 4)],
    zUp: random() < 0.4,
    offset: [random() * 2 - 1, random() - 0.5, random() * 2 - 1],
  }
}

/** Applies a disturbance; also returns the matrix from the made body to the disturbed one. */
export function disturb(
  figure: MadeFigure,
  d: Disturbance,
  seed: number,
): { mesh: Mesh; matrix: Mat4; joints: Record<string, Vec3> } {
  const normal = seededNormal(seed)
  const noisy = figure.mesh.positions.slice()
  const n = figure.mesh.normals!
  for (let v = 0; v < noisy.length / 3; v++) {
    const push = normal() * d.noise * figure.height
    for (let k = 0; k < 3; k++) noisy[3 * v + k] += n[3 * v + k] * push
  }
  const turn = fromAxisAngle([0, 1, 0], (d.turn * Math.PI) / 180)
  const tip: Quat = d.zUp ? fromAxisAngle([1, 0, 0], Math.PI / 2) : [0, 0, 0, 1]
  const matrix = compose(d.offset.map(v => v * d.unit) as Vec3, multiply(tip, turn), [d.unit, d.unit, d.unit])
  const joints: Record<string, Vec3> = {}
  for (const [role, p] of Object.entries(figure.joints)) joints[role] = transformPoint(matrix, p)
  return { mesh: transformMesh({ ...figure.mesh, positions: noisy }, matrix), matrix, joints }
}
