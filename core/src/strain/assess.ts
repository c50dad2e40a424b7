import {
  breather,
  ChiraxisError,
  quatAt,
  angleOf,
  conjugate,
  multiply,
  partOf,
  type Vec3,
  type WorkOptions,
  maxOf,
  minOf,
} from '../math'
import { weldByPosition, type Mesh } from '../mesh'
import { bindPose, type Skeleton, type WorldPose } from '../skeleton'
import { correctedFor, type TurnedShape } from '../corrective'
import { deform, type Skin } from '../skin'
import { bentTriangles } from './bent-triangles'
import type { CheckPose } from './check-poses'
import { posesOf } from './own-poses'
import { regionsOf, type Regions } from './regions'
import { canTakePose, poseWorld, standIn, worldOf } from './take-pose'
import { overSurface, type SurfaceSpread } from './over-surface'
import { restTriangles, strainRoom, triangleStrain, type TriangleStrain } from './triangle-strain'
import { fleshMeasure, footPoints, lostShare } from './volume-loss'

/** Kinds of strain, each drawn and listed alone. */
export const STRAIN_KINDS = ['stretch', 'squeeze', 'shear', 'volume'] as const
export type StrainKind = (typeof STRAIN_KINDS)[number]

export interface RegionScore {
  readonly id: string
  readonly label: string
  /** Area-weighted root mean square of strain over all poses, percent: 0 is a body that only turns. */
  readonly score: number
  /** Share of the region's volume lost in its worst pose, percent. */
  readonly volumeLoss: number
  readonly worstPose: string
}

/** A place where the skin is strained most in some pose. */
export interface WorstPlace {
  readonly region: string
  readonly pose: string
  readonly kind: 'stretch' | 'squeeze'
  /** Percent longer or shorter. */
  readonly value: number
  readonly triangle: number
  /** Where it is on the body as bound, metres. */
  readonly place: Vec3
  /** The joint whose turning strains it. */
  readonly joint: number
}

export interface Assessment {
  /** One number for the figure: as for a region, over the whole body. */
  readonly score: number
  readonly regions: readonly RegionScore[]
  /** Worst first, one a region and kind. */
  readonly worst: readonly WorstPlace[]
  /** Score of every pose, percent. */
  readonly poses: readonly { readonly id: string; readonly label: string; readonly score: number }[]
}

/** Kinds that have a worst place. */
const STRAINED = ['stretch', 'squeeze'] as const

/** Strain beyond this is a fault whatever its size and does not drown the rest. */
const MOST = 3

/**
 * Drives the figure through the check poses and measures what its skin goes through.
 * Strain of a triangle is the larger of its longest stretch and of what brings its shortest back, λ1 − 1 and 1/λ2 − 1.
 * @throws ChiraxisError `bad-skeleton` where no joint has a role any pose turns
 */
export async function assess(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  work: WorkOptions = {},
  poses: readonly CheckPose[] = posesOf(skeleton),
  shapes: readonly TurnedShape[] = [],
): Promise<Assessment> {
  const pulse = breather(work)
  const chosen = poses.filter(p => canTakePose(skeleton, p))
  if (chosen.length === 0)
    throw new ChiraxisError(
      'bad-skeleton',
      'No joint of this skeleton has a known role and no chain ends free, so no check pose can be struck. Set the roles in Names, or keep a pose of your own.',
    )
  const { positions, indices } = mesh
  await pulse(0)
  const rest = restTriangles(positions, indices)
  const { areas } = rest
  await pulse(0)
  const regions = await regionsOf(mesh, skeleton, work)
  await pulse(0)
  const regionOf = triangleRegions(indices, regions)
  const weld = weldByPosition(positions)
  const count = regions.list.length
  const sums = new Float64Array(count),
    area = new Float64Array(count)
  for (let f = 0; f < areas.length; f++) area[regionOf[f]] += areas[f]
  const all = area.reduce((a, b) => a + b, 0)
  const perPose: { id: string; label: string; score: number }[] = []
  const loss = new Float64Array(count)
  const worstPose: string[] = regions.list.map(() => '')
  // the worst triangle of every region and kind so far, and the pose it was seen in
  const most: Worst = {
    value: new Float64Array(2 * count).fill(-1),
    triangle: new Int32Array(2 * count),
    pose: new Int32Array(2 * count),
  }
  await pulse(0)
  const spread = await overSurface(mesh, weld, areas, work)
  await pulse(0)
  const feet = await footPoints(mesh, weld, skeleton, partOf(work, 0, 0.1))
  await pulse(0.1)
  const flesh = fleshMeasure(mesh, spread.corners, regionOf, count, skeleton, feet)
  await pulse(0.1)
  const riders = Uint16Array.from(weld.of, w => feet.riders[w])
  const bentBy = bentTriangles(mesh, skeleton, skin, riders, movedByShapes(positions.length / 3, shapes))
  const strain = strainRoom(areas.length, false)
  const done = (pose: number, share: number): number => 0.1 + (0.9 * (pose + share)) / chosen.length
  for (const [i, pose] of chosen.entries()) {
    const local = standIn(skeleton, pose)
    const posed = worldOf(skeleton, local)
    const corrected = correctedFor(positions, skeleton, shapes, local.rotations)
    const bent = deform(corrected, skeleton, skin, posed)
    await pulse(done(i, 0.2))
    const triangles = bentBy(posed)
    triangleStrain(rest, bent, strain, triangles)
    await pulse(done(i, 0.5))
    const region = new Float64Array(count)
    for (const f of triangles) {
      const e = excess(strain, f)
      region[regionOf[f]] += areas[f] * e * e
    }
    // the worst place is the worst neighbourhood: single slivers do not make one
    for (const [kind, values] of [strain.stretch, strain.squeeze].entries()) {
      await pulse(done(i, 0.5))
      worstAround(spread, values, triangles, regionOf, kind, i, most)
      await pulse(done(i, 0.6))
    }
    await pulse(done(i, 0.8))
    let sum = 0
    for (let r = 0; r < count; r++) {
      sums[r] += region[r]
      sum += region[r]
    }
    perPose.push({ id: pose.id, label: pose.label, score: all > 0 ? 100 * Math.sqrt(sum / all) : 0 })
    const lost = lostShare(flesh.atRest, flesh.measure(bent, posed, triangles))
    for (let r = 0; r < count; r++) {
      if (lost[r] <= loss[r]) continue
      loss[r] = lost[r]
      worstPose[r] = pose.id
    }
    await pulse(done(i, 1))
  }
  const worst = regions.list
    .flatMap(region => STRAINED.map((kind, k) => ({ region, kind, at: 2 * regions.list.indexOf(region) + k })))
    .filter(({ at }) => most.value[at] > 5)
    .map(({ region, kind, at }): WorstPlace => {
      const [triangle, pose] = [most.triangle[at], chosen[most.pose[at]]]
      const joint = causeOf(mesh, skeleton, skin, triangle, poseWorld(skeleton, pose))
      const place = centreOf(positions, indices, triangle)
      return { region: region.id, pose: pose.id, kind, value: most.value[at], triangle, place, joint }
    })
    .sort((a, b) => severity(b) - severity(a))
  const total = sums.reduce((a, b) => a + b, 0)
  const times = chosen.length
  return {
    score: all > 0 ? 100 * Math.sqrt(total / (all * times)) : 0,
    regions: regions.list.flatMap((r, i) =>
      area[i] > 0
        ? [
            {
              ...r,
              score: 100 * Math.sqrt(sums[i] / (area[i] * times)),
              volumeLoss: 100 * loss[i],
              worstPose: worstPose[i],
            },
          ]
        : [],
    ),
    worst,
    poses: perPose,
  }
}

/** Vertices that shapes move, V: their triangles change with no joint between them. */
function movedByShapes(vertices: number, shapes: readonly TurnedShape[]): Uint8Array | undefined {
  if (shapes.length === 0) return undefined
  const moved = new Uint8Array(vertices)
  for (const { offsets } of shapes)
    for (let i = 0; i < offsets.length; i++) if (offsets[i] !== 0) moved[Math.floor(i / 3)] = 1
  return moved
}

/** By region and kind the worst so far. */
interface Worst {
  readonly value: Float64Array
  readonly triangle: Int32Array
  readonly pose: Int32Array
}

/** Looks through the neighbourhoods of a pose for worse ones. */
function worstAround(
  { corners, toWelded }: SurfaceSpread,
  values: Float32Array,
  triangles: Uint32Array,
  regionOf: Uint8Array,
  kind: number,
  pose: number,
  most: Worst,
): void {
  const around = toWelded(values, triangles)
  for (const f of triangles) {
    const q = 3 * f
    const value = (100 * (around[corners[q]] + around[corners[q + 1]] + around[corners[q + 2]])) / 3
    const at = 2 * regionOf[f] + kind
    if (value <= most.value[at]) continue
    most.value[at] = value
    most.triangle[at] = f
    most.pose[at] = pose
  }
}

/** Stretch and squeeze on one scale: a half squeezed counts as much as a doubled. */
const severity = (w: WorstPlace): number =>
  w.kind === 'stretch' ? w.value : w.value < 100 ? w.value / (1 - w.value / 100) : Infinity

function triangleRegions(indices: Mesh['indices'], regions: Regions): Uint8Array {
  const out = new Uint8Array(indices.length / 3)
  for (let f = 0; f < out.length; f++) out[f] = regions.of[indices[3 * f]]
  return out
}

/** Strain of a triangle on one scale: the larger of its stretch and of what would bring its squeeze back. */
export function excess(strain: TriangleStrain, f: number): number {
  const q = strain.squeeze[f]
  return Math.min(MOST, Math.max(strain.stretch[f], q < 1 ? q / (1 - q) : MOST))
}

const centreOf = (p: Float32Array, indices: Mesh['indices'], f: number): Vec3 =>
  [0, 1, 2].map(
    k => (p[3 * indices[3 * f] + k] + p[3 * indices[3 * f + 1] + k] + p[3 * indices[3 * f + 2] + k]) / 3,
  ) as Vec3

/**
 * The joint that strains a triangle in a pose: the one whose weight changes most over the triangle, counted by how
 * differently from the triangle's main joint it moves.
 */
export function causeOf(
  mesh: Pick<Mesh, 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  triangle: number,
  posed: WorldPose,
): number {
  const bound = bindPose(skeleton)
  const k = skin.influences
  const weights = new Map<number, number[]>()
  for (let c = 0; c < 3; c++) {
    const v = mesh.indices[3 * triangle + c]
    for (let i = v * k; i < v * k + k; i++) {
      if (!(skin.weights[i] > 0)) continue
      const list = weights.get(skin.joints[i]) ?? [0, 0, 0]
      list[c] += skin.weights[i]
      weights.set(skin.joints[i], list)
    }
  }
  const turnOf = (j: number): ReturnType<typeof multiply> =>
    multiply(quatAt(posed.rotations, j), conjugate(quatAt(bound.rotations, j)))
  const main = [...weights].sort((a, b) => sum(b[1]) - sum(a[1]))[0]?.[0] ?? 0
  let cause = main,
    most = 0
  for (const [j, list] of weights) {
    const changes = maxOf(list) - minOf(list)
    const apart = angleOf(multiply(turnOf(j), conjugate(turnOf(main))))
    if (changes * apart <= most) continue
    most = changes * apart
    // of two that part, the lower one in the tree does the turning
    cause = skeleton.parents[main] === j ? main : j
  }
  return cause
}
const sum = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0)
