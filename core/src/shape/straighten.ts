import {
  breather,
  AXIS_VECTORS as AXES,
  nearestAxis,
  type AxisName,
  cross,
  dot,
  fromAxes,
  fromAxisAngle,
  compose,
  multiply,
  multiplyMat4,
  type Mat4,
  normalize,
  scale,
  sub,
  type Vec3,
  type WorkOptions,
  conjugate,
  partOf,
} from '../math'
import { boundsOf, transformMesh, type Mesh } from '../mesh'
import { sampleSurface } from './sample-surface'
import { withoutSlightPieces } from './slight-pieces'
import { looksAhead } from './facing'
import { framed } from './framed'
import { standingOf } from './standing'

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

/** What is known of a file beside its shape. */
export interface StraightenHints extends StraightenChoice {
  /** The axis that the file's format asks to be up: a hint, as not every file keeps to it. */
  readonly specifiedUp?: AxisName
}

/** How a received body was brought upright, and how sure each guess is (0..1). */
export interface Straightened {
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
  /** Mirror error as a share of size. */
  readonly asymmetry: number
  readonly height: number
  readonly confidence: { readonly up: number; readonly facing: number; readonly unit: number }
}

/**
 * Guesses up, facing, unit, ground and midline of a figure from its shape: it mirrors about its midline, its legs part
 * at the lower end, its trunk is broad, its feet point ahead.
 * What is already right is left untouched, so that a well-made file keeps its coordinates.
 */
export async function straighten(
  mesh: Mesh,
  choice: StraightenHints = {},
  work: WorkOptions = {},
): Promise<Straightened> {
  const pulse = breather(work)
  await pulse(0)
  // what is held or hangs about a body does not tell how it stands
  const flesh = await withoutSlightPieces(mesh, work)
  const points = sampleSurface(flesh.positions, flesh.indices, 5000)
  await pulse(0.1)
  const told = choice.up ? AXES[choice.up] : undefined
  const specified = choice.specifiedUp && AXES[choice.specifiedUp]
  const standing = await standingOf(points, { told, specified }, partOf(work, 0.1, 0.8))
  const { lateral } = standing
  let { up } = standing
  const seen = framed(points, up, lateral, standing.offset)
  const { tall } = seen
  const upConfidence = told ? 1 : standing.upChance
  let forward = cross(lateral, up)
  const shown = looksAhead(seen)
  // files face one way as a rule: that decides where the body shows little
  const way = nearestAxis(forward)
  const usual = USUAL_FACING[nearestAxis(up)]
  const ahead = shown + (way === usual ? USUAL_WEIGHT : way[1] === usual?.[1] ? -USUAL_WEIGHT : 0)
  let facingConfidence = Math.min(1, 0.25 + 0.75 * Math.abs(shown))
  if (ahead * shown < 0 || Math.abs(ahead) < 0.15) facingConfidence = 0.2
  // nothing tells: keep the side that looks along a plus axis of the file
  if (Math.abs(ahead) < 0.15 ? way[0] === '-' : ahead < 0) forward = scale(forward, -1)
  if (choice.facing) {
    const wanted = AXES[choice.facing]
    if (Math.abs(dot(wanted, up)) < 0.7) {
      if (Math.abs(dot(wanted, forward)) > 0.5) forward = dot(wanted, forward) > 0 ? forward : scale(forward, -1)
      else forward = normalize(sub(wanted, scale(up, dot(wanted, up))))
    }
    facingConfidence = 1
  }
  let left = cross(up, forward)
  // hair-breadth turns are noise of the estimate, not of the body
  const snapped: Vec3[] = [AXES[nearestAxis(left)], AXES[nearestAxis(up)], AXES[nearestAxis(forward)]]
  const turn = Math.acos(
    Math.min(1, Math.max(-1, Math.min(dot(left, snapped[0]), dot(up, snapped[1]), dot(forward, snapped[2])))),
  )
  const upName = nearestAxis(up)
  const facingName = nearestAxis(forward)
  const isWhole = turn < (0.8 * Math.PI) / 180
  if (isWhole) [left, up, forward] = snapped

  await pulse(0.9)
  const unit = choice.unit ?? guessUnit(tall)
  const inclined = multiply(
    fromAxisAngle([1, 0, 0], ((choice.tilt ?? 0) * Math.PI) / 180),
    fromAxisAngle([0, 0, 1], (-(choice.lean ?? 0) * Math.PI) / 180),
  )
  const rotation = multiply(inclined, conjugate(fromAxes(left, up, forward)))
  const metres = metresIn(choice, unit, () => {
    const { min, max } = boundsOf(moved(flesh, compose([0, 0, 0], rotation)))
    return max[1] - min[1]
  })
  const turned = compose([0, 0, 0], rotation, [metres, metres, metres])
  const placed = boundsOf(moved(flesh, turned))
  await pulse(0.95)
  const height = placed.max[1] - placed.min[1]
  const midline = standing.offset * metres * Math.sign(dot(left, lateral) || 1)
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
    up: upName,
    facing: facingName,
    unit,
    scale: metres,
    turn: isWhole ? 0 : (turn * 180) / Math.PI,
    offMidline: midline,
    offGround: placed.min[1],
    asymmetry: standing.error,
    height,
    confidence: {
      up: upConfidence,
      facing: facingConfidence,
      unit: choice.unit || choice.scale || choice.height ? 1 : height > 0.4 && height < 2.6 ? 0.9 : 0.4,
    },
  }
}

/** Where bodies look in files by their up axis, and how much that counts beside what the body shows. */
const USUAL_FACING: Readonly<Partial<Record<AxisName, AxisName>>> = { '+y': '+z', '+z': '-y' }
const USUAL_WEIGHT = 0.25

const moved = ({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>, m: Mat4): Float32Array =>
  transformMesh({ positions, indices, parts: [] }, m).positions

/** People are some 0.4 to 4 units tall in metres, tens to hundreds in centimetres, more in millimetres. */
function guessUnit(tall: number): UnitName {
  return tall < 8 ? 'm' : tall < 450 ? 'cm' : 'mm'
}

/** The received body brought upright, in metres. */
export function applyStraighten(mesh: Mesh, straightened: Pick<Straightened, 'matrix'>): Mesh {
  return transformMesh(mesh, straightened.matrix)
}
