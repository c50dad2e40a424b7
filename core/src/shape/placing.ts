import {
  AXIS_VECTORS as AXES,
  nearestAxis,
  type AxisName,
  compose,
  conjugate,
  cross,
  dot,
  fromAxes,
  fromAxisAngle,
  minOf,
  multiply,
  multiplyMat4,
  type Mat4,
  type Vec3,
} from '../math'
import { boundsOf, transformMesh, type Mesh } from '../mesh'
import type { Standing } from './standing'

export type UnitName = 'm' | 'cm' | 'mm'
export const METRES_IN: Readonly<Record<UnitName, number>> = { m: 1, cm: 0.01, mm: 0.001 }

/** What a person may settle in place of a guess. */
export interface StraightenChoice {
  /** The file's axis that points up. */
  readonly up?: AxisName
  /** The file's axis the body looks along; left out, it is guessed. */
  readonly facing?: AxisName
  readonly unit?: UnitName
  /** Metres a unit of the file is, in place of any unit; how tall the body is to be, metres, in place of both. */
  readonly scale?: number
  readonly height?: number
  /** Tilted forwards and leant to its left by hand, degrees, before it is put on the ground. */
  readonly tilt?: number
  readonly lean?: number
  /** Turned further about the vertical by hand, degrees; lifted and shifted along the midline's normal, metres. */
  readonly turn?: number
  readonly lift?: number
  readonly shift?: number
}

/** Metres a unit of the file stands for: as tall as asked, by a free factor, else by its unit. */
function metresIn({ height, scale: factor }: StraightenChoice, unit: UnitName, tall: () => number): number {
  if (height !== undefined) return height / (tall() || 1)
  return factor ?? METRES_IN[unit]
}

/** Where a body that stands so is put, and what of the file's space that took. */
export interface Placed {
  /** Column-major 4×4 from the file's space to metres, Y up, facing +Z, left at +X. */
  readonly matrix: readonly number[]
  readonly up: AxisName
  readonly facing: AxisName
  readonly unit: UnitName
  /** Metres a unit of the file was taken for. */
  readonly scale: number
  /** Turn about the vertical that was taken out beyond whole axes, degrees. */
  readonly turn: number
  /** How far off the midline and the ground the body stood, metres. */
  readonly offMidline: number
  readonly offGround: number
  readonly height: number
}

/**
 * Puts a body on the ground and its midline, looking ahead, in metres. What is already right is left untouched.
 * @param forward the way it looks in the file, unit, at right angles to its up
 */
export function placeBody(
  body: Pick<Mesh, 'positions' | 'indices'>,
  { up: upward, lateral, offset, tall }: Pick<Standing, 'up' | 'lateral' | 'offset'> & { readonly tall: number },
  forward: Vec3,
  choice: StraightenChoice,
): Placed {
  let axes: readonly [Vec3, Vec3, Vec3] = [cross(upward, forward), upward, forward]
  // hair-breadth turns are noise of the estimate, not of the body
  const snapped = axes.map(a => AXES[nearestAxis(a)]) as unknown as typeof axes
  const turn = Math.acos(Math.min(1, Math.max(-1, minOf(axes.map((a, k) => dot(a, snapped[k]))))))
  const up = nearestAxis(upward)
  const facing = nearestAxis(forward)
  const isWhole = turn < (0.8 * Math.PI) / 180
  if (isWhole) axes = snapped
  const unit = choice.unit ?? guessUnit(tall)
  const inclined = multiply(
    fromAxisAngle([1, 0, 0], ((choice.tilt ?? 0) * Math.PI) / 180),
    fromAxisAngle([0, 0, 1], (-(choice.lean ?? 0) * Math.PI) / 180),
  )
  const rotation = multiply(inclined, conjugate(fromAxes(...axes)))
  const metres = metresIn(choice, unit, () => {
    const { min, max } = boundsOf(moved(body, compose([0, 0, 0], rotation)))
    return max[1] - min[1]
  })
  const turned = compose([0, 0, 0], rotation, [metres, metres, metres])
  const placed = boundsOf(moved(body, turned))
  const height = placed.max[1] - placed.min[1]
  const midline = offset * metres * Math.sign(dot(axes[0], lateral) || 1)
  const centreZ = (placed.min[2] + placed.max[2]) / 2
  const shift: Vec3 = [
    (Math.abs(midline) > 0.004 * height ? -midline : 0) + (choice.shift ?? 0),
    (Math.abs(placed.min[1]) > 0.002 * height ? -placed.min[1] : 0) + (choice.lift ?? 0),
    // a body that stands in its place keeps its depth; one that was moved about is centred in it
    Math.abs(centreZ) > (isWhole && Math.abs(midline) <= 0.004 * height ? 0.07 : 0.03) * height ? -centreZ : 0,
  ]
  const byHand = fromAxisAngle([0, 1, 0], ((choice.turn ?? 0) * Math.PI) / 180)
  return {
    matrix: Array.from(multiplyMat4(compose([0, 0, 0], byHand), multiplyMat4(compose(shift, [0, 0, 0, 1]), turned))),
    up,
    facing,
    unit,
    scale: metres,
    turn: isWhole ? 0 : (turn * 180) / Math.PI,
    offMidline: midline,
    offGround: placed.min[1],
    height,
  }
}

const moved = ({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>, m: Mat4): Float32Array =>
  transformMesh({ positions, indices, parts: [] }, m).positions

/** People are some 0.4 to 4 units tall in metres, tens to hundreds in centimetres, more in millimetres. */
function guessUnit(tall: number): UnitName {
  return tall < 8 ? 'm' : tall < 450 ? 'cm' : 'mm'
}
