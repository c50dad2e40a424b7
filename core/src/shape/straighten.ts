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
  normalize,
  scale,
  sub,
  type Quat,
  type Vec3,
  type WorkOptions,
  conjugate,
  partOf,
} from '../math'
import { boundsOf, transformMesh, voxelize, type Mesh, type Voxels } from '../mesh'
import { mirrorPlane } from './symmetry'
import { sampleSurface } from './sample-surface'

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
 * Guesses up, facing, unit, ground and midline of a standing figure from its shape: the mirror plane
 * gives left against right, the legs part at the lower end, the feet point ahead.
 * What is already right is left untouched, so that a well-made file keeps its coordinates.
 */
export async function straighten(
  mesh: Mesh,
  choice: StraightenChoice = {},
  work: WorkOptions = {},
): Promise<Straightened> {
  const pulse = breather(work)
  await pulse(0)
  const points = sampleSurface(mesh.positions, mesh.indices, 6000)
  await pulse(0.1)
  const plane = await mirrorPlane(points, partOf(work, 0.1, 0.2))
  await pulse(0.2)
  let lateral = plane.normal
  let up = choice.up ? AXES[choice.up] : await uprightAcross(mesh, points, lateral, plane.offset, work)
  if (choice.up && Math.abs(dot(up, lateral)) > 0.7)
    lateral = normalize(cross(up, Math.abs(up[2]) < 0.9 ? [0, 0, 1] : [0, 1, 0]))
  up = normalize(sub(up, scale(lateral, dot(up, lateral))))

  // a coarse solid in a provisional upright frame tells the rest
  const frame = (u: Vec3, l: Vec3): Quat => conjugate(fromAxes(l, u, cross(l, u)))
  const upright = transformMesh({ ...mesh, normals: undefined }, compose([0, 0, 0], frame(up, lateral)))
  await pulse(0.5)
  const box = boundsOf(upright.positions)
  const tall = box.max[1] - box.min[1]
  const voxels = await voxelize(upright.positions, upright.indices, { cells: 72, ...work })
  const middle = choice.up && lateral !== plane.normal ? (box.min[0] + box.max[0]) / 2 : plane.offset
  await pulse(0.8)
  const legs = partedShare(voxels, middle)
  let upConfidence = 1
  let flipped = false
  if (!choice.up) {
    flipped = legs.top > legs.bottom
    upConfidence = Math.min(1, 0.3 + 2 * Math.abs(legs.top - legs.bottom))
  }
  if (flipped) up = scale(up, -1)
  const long = box.max[2] - box.min[2] > 0.6 * tall
  // a body longer than it is tall goes on all fours: its head is ahead and stands higher than its tail
  const ahead = long ? headAhead(voxels, flipped) : aheadOf(voxels, flipped, middle)
  let forward = cross(lateral, up)
  // `ahead` is told along the provisional z axis, lateral × up before the flip
  const sign = (flipped ? -1 : 1) * (ahead >= 0 ? 1 : -1)
  let facingConfidence = Math.min(1, 0.25 + Math.abs(ahead) / (0.03 * tall))
  if (Math.abs(ahead) < 0.006 * tall) {
    // the feet do not tell: keep the side that looks along a plus axis of the file
    const name = nearestAxis(forward)
    if (name[0] === '-') forward = scale(forward, -1)
    facingConfidence = 0.2
  } else forward = scale(forward, sign)
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
    const { min, max } = boundsOf(
      transformMesh({ ...mesh, normals: undefined }, compose([0, 0, 0], rotation)).positions,
    )
    return max[1] - min[1]
  })
  const turned = compose([0, 0, 0], rotation, [metres, metres, metres])
  const placed = boundsOf(transformMesh({ ...mesh, normals: undefined }, turned).positions)
  await pulse(0.95)
  const height = placed.max[1] - placed.min[1]
  const midline = middle * metres * Math.sign(dot(left, lateral) || 1)
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
    asymmetry: plane.error,
    height,
    confidence: {
      up: upConfidence,
      facing: facingConfidence,
      unit: choice.unit || choice.scale || choice.height ? 1 : height > 0.4 && height < 2.6 ? 0.9 : 0.4,
    },
  }
}

/** People are some 0.4 to 4 units tall in metres, tens to hundreds in centimetres, more in millimetres. */
function guessUnit(tall: number): UnitName {
  return tall < 8 ? 'm' : tall < 450 ? 'cm' : 'mm'
}

/**
 * Which way is up: along the length of a body that stands on two legs; across it where four legs part below.
 * The longest direction wins unless the body is about as deep as long and only the other end shows legs.
 */
async function uprightAcross(
  mesh: Mesh,
  points: Float32Array,
  lateral: Vec3,
  middle: number,
  { signal }: WorkOptions,
): Promise<Vec3> {
  const along = longestAcross(points, lateral)
  const across = normalize(cross(lateral, along))
  const extent = (d: Vec3): number => {
    let low = Infinity,
      high = -Infinity
    for (let i = 0; i < points.length; i += 3) {
      const t = points[i] * d[0] + points[i + 1] * d[1] + points[i + 2] * d[2]
      low = Math.min(low, t)
      high = Math.max(high, t)
    }
    return high - low
  }
  if (extent(across) < 0.5 * extent(along)) return along
  const legs = async (up: Vec3): Promise<number> => {
    const turned = transformMesh(
      { ...mesh, normals: undefined },
      compose([0, 0, 0], conjugate(fromAxes(lateral, up, cross(lateral, up)))),
    )
    const { bottom, top } = partedShare(
      await voxelize(turned.positions, turned.indices, { cells: 48, signal }),
      middle,
      0.45,
    )
    return Math.max(bottom, top)
  }
  const [a, b] = [await legs(along), await legs(across)]
  if (b < 0.5 || b < a + 0.2) return along
  const name = nearestAxis(across)
  return dot(across, AXES[name]) > 0 && name[0] === '-' ? scale(across, -1) : across
}

/** The direction at right angles to `lateral`, a file axis or across one, along which the body is longest. */
function longestAcross(points: Float32Array, lateral: Vec3): Vec3 {
  let best: Vec3 = [0, 1, 0]
  let longest = -1
  for (const axis of [AXES['+y'], AXES['+z'], AXES['+x']]) {
    const flat = sub(axis, scale(lateral, dot(axis, lateral)))
    if (Math.hypot(...flat) < 0.3) continue
    for (const d of [normalize(flat), normalize(cross(lateral, flat))]) {
      let low = Infinity,
        high = -Infinity
      for (let i = 0; i < points.length; i += 3) {
        const t = points[i] * d[0] + points[i + 1] * d[1] + points[i + 2] * d[2]
        low = Math.min(low, t)
        high = Math.max(high, t)
      }
      // a later direction must win clearly, so that an upright file stays upright
      if (high - low > longest * 1.03) {
        longest = high - low
        const name = nearestAxis(d)
        best = dot(d, AXES[name]) > 0 && name[0] === '-' ? scale(d, -1) : d
      }
    }
  }
  return best
}

/** Share of the slices at either end where the middle is free between two solid sides. */
function partedShare(voxels: Voxels, middle: number, reach = 0.2): { bottom: number; top: number } {
  const [nx, ny, nz] = voxels.counts
  const mid = Math.round((middle - voxels.origin[0]) / voxels.size)
  const parted = (j: number): boolean => {
    let left = false,
      right = false
    for (let k = 0; k < nz; k++) {
      for (let i = 0; i < nx; i++) {
        if (voxels.slot[i + nx * (j + ny * k)] < 0) continue
        if (Math.abs(i - mid) <= 0) return false
        if (i > mid && i - mid < ny * reach) left = true
        if (i < mid && mid - i < ny * reach) right = true
      }
    }
    return left && right
  }
  const n = Math.floor(ny * 0.3)
  let bottom = 0,
    top = 0
  for (let j = 1; j <= n; j++) {
    if (parted(j)) bottom += 1 / n
    if (parted(ny - 1 - j)) top += 1 / n
  }
  return { bottom, top }
}

/** How far ahead of the middle the upper end of a four-legged body lies along z, in the units of the voxels. */
function headAhead(voxels: Voxels, flipped: boolean): number {
  const [nx, ny, nz] = voxels.counts
  let sum = 0,
    n = 0
  for (let j = Math.floor(0.8 * ny); j < ny; j++)
    for (let k = 0; k < nz; k++)
      for (let i = 0; i < nx; i++) {
        if (voxels.slot[i + nx * ((flipped ? ny - 1 - j : j) + ny * k)] < 0) continue
        sum += k
        n++
      }
  return n === 0 ? 0 : (sum / n - nz / 2) * voxels.size
}

/** How far the feet reach ahead of the shins along z, in the units of the voxels. */
function aheadOf(voxels: Voxels, flipped: boolean, middle: number): number {
  const [nx, ny, nz] = voxels.counts
  const row = (j: number): number => (flipped ? ny - 1 - j : j)
  const extent = (j0: number, j1: number): { centre: number; mean: number } => {
    let low = Infinity,
      high = -Infinity,
      sum = 0,
      n = 0
    for (let j = j0; j <= j1; j++)
      for (let k = 0; k < nz; k++)
        for (let i = 0; i < nx; i++) {
          if (voxels.slot[i + nx * (row(j) + ny * k)] < 0) continue
          const x = voxels.origin[0] + i * voxels.size - middle
          if (Math.abs(x) > 0.2 * ny * voxels.size) continue
          low = Math.min(low, k)
          high = Math.max(high, k)
          sum += k
          n++
        }
    return n === 0 ? { centre: 0, mean: 0 } : { centre: (low + high) / 2, mean: sum / n }
  }
  const feet = extent(1, Math.ceil(ny * 0.05))
  const shins = extent(Math.ceil(ny * 0.1), Math.ceil(ny * 0.2))
  return (feet.centre - shins.mean) * voxels.size
}

/** The received body brought upright, in metres. */
export function applyStraighten(mesh: Mesh, straightened: Pick<Straightened, 'matrix'>): Mesh {
  return transformMesh(mesh, straightened.matrix)
}
