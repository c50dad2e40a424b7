import {
  add,
  breather,
  ChiraxisError,
  distance,
  dot,
  length,
  lerp,
  normalize,
  partOf,
  sub,
  vec3At,
  type Vec3,
  type WorkOptions,
} from '../math'
import {
  adjacencyOf,
  boundsOf,
  cellCentre,
  enclosedVolume,
  geodesics,
  nearestSolid,
  vertexNormals,
  voxelize,
  weldByPosition,
  weldedIndices,
  type Mesh,
  type Voxels,
} from '../mesh'
import { atBind, boneDirection, boneSegments, childrenOf, skinJoints, worldPose, type Skeleton } from '../skeleton'
import { diffuse } from './diffuse'
import { LEAST_WEIGHT, limitInfluences } from './limit-influences'
import { sampleWeights } from './sample-weights'
import { smoothWeights } from './smooth-weights'
import { partFingers, partSides } from './part-limbs'
import { pickRows, type Skin } from './skin'

export interface BindOptions extends WorkOptions {
  /** Influences per vertex, 1 to 8. Default 4. */
  readonly influences?: number
  /** Cells along the height of the body. Default 160. */
  readonly cells?: number
  /** Rounds of smoothing over the surface. Default 2. */
  readonly smooth?: number
  /** How firmly flesh keeps to its nearest bone against spreading; larger is firmer. Default 1. */
  readonly firmness?: number
}
export const BIND_DEFAULTS = { influences: 4, cells: 160, smooth: 2, firmness: 1 } as const

/**
 * Automatic skin weights. The body is made solid; every cell takes the bone it reaches by the shortest
 * way inside the body, so that nothing bleeds across a gap; the weights then settle between that
 * bone's pull and diffusion through the flesh, and are read off at the vertices.
 *
 * Methods: geodesic distance through a voxelised solid, Dionne and de Lasa 2013, "Geodesic voxel
 * binding for production character meshes"; heat equilibrium with pull c/d², Baran and Popović 2007,
 * here in the volume in place of the surface, so that unclean and multi-piece bodies need no repair.
 * Tried: weights straight from geodesic distance per bone (too soft at the trunk, and a pass per bone);
 * equilibrium on the surface (needs one clean surface).
 * @throws ChiraxisError `bad-skeleton` where no bone touches the body
 */
export async function bind(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  options: BindOptions = {},
): Promise<Skin> {
  const o = { ...BIND_DEFAULTS, ...options }
  if (!(o.influences >= 1 && o.influences <= 8))
    throw new ChiraxisError('bad-settings', 'Influences per vertex must be a number from 1 to 8.')
  const pulse = breather(options)
  const { positions, indices } = mesh
  // stout, long or lying bodies fill many more cells at the same height; limbs need no finer ones for it
  const { min, max } = boundsOf(positions)
  const likely = Math.abs(enclosedVolume(positions, indices)) / ((max[1] - min[1]) / o.cells) ** 3
  await pulse(0)
  let voxels = await voxelize(positions, indices, {
    ...partOf(options, 0, 0.2),
    cells: o.cells * Math.min(1, Math.cbrt(MOST_SOLID / likely)),
  })
  if (voxels.cells.length > 1.4 * MOST_SOLID)
    voxels = await voxelize(positions, indices, {
      ...partOf(options, 0.2, 0.25),
      cells: o.cells * Math.cbrt(MOST_SOLID / voxels.cells.length),
    })
  const sources = boneSources(voxels, atBind(skeleton))
  if (sources.length === 0)
    throw new ChiraxisError(
      'bad-skeleton',
      'No bone of the skeleton lies in or near the body; check that both have the same unit and place.',
    )
  const field = await geodesics(voxels, sources, partOf(options, 0.25, 0.4))
  await pulse(0.4)
  adoptUnreached(voxels, field.source, field.distance)
  await pulse(0.4)
  handOver(voxels, field.source, atBind(skeleton))
  await pulse(0.4)
  const joints = skeleton.names.length
  const fields = await diffuse(voxels, field.source, field.distance, joints, {
    ...partOf(options, 0.4, 0.7),
    firmness: o.firmness,
  })
  const weld = weldByPosition(positions)
  await pulse(0.71)
  const normals = vertexNormals(positions, indices)
  await pulse(0.72)
  const rough = await sampleWeights(voxels, fields, joints, positions, normals, weld.first, partOf(options, 0.72, 0.85))
  await pulse(0.85)
  partSides(rough, skeleton)
  await pulse(0.86)
  const welded = weldedIndices(indices, weld)
  await pulse(0.86)
  const adjacency = adjacencyOf(weld.first.length, welded)
  await pulse(0.86)
  const smooth = await smoothWeights(rough, joints, adjacency, o.smooth, partOf(options, 0.86, 0.95))
  await pulse(0.95)
  partSides(smooth, skeleton)
  await pulse(0.96)
  partFingers(smooth, skeleton)
  await pulse(0.97)
  const limited = limitInfluences(smooth, o.influences, LEAST_WEIGHT)
  await pulse(0.99)
  const skin = pickRows(limited, weld.of)
  options.onProgress?.(1)
  return skin
}

/** Solid cells at most: about twice what an adult fills. */
const MOST_SOLID = 110_000

/** Cells along every bone, with how far the bone passes from their centres. */
function boneSources(voxels: Voxels, skeleton: Skeleton): { cell: number; label: number; start: number }[] {
  const sources: { cell: number; label: number; start: number }[] = []
  const children = childrenOf(skeleton)
  for (const { joint, from, to } of boneSegments(skeleton)) {
    const length = distance(from, to)
    const steps = Math.max(1, Math.ceil((2 * length) / voxels.size))
    // the way to a child that is one of several only carries the first part; the child's own bone the rest
    const share = children[joint].length > 1 ? 0.75 : 1
    for (let i = 0; i <= steps; i++) {
      const t = i / steps
      if (t > share || (children[joint].length > 0 && (1 - t) * length < 0.5 * voxels.size)) continue
      const p: Vec3 = lerp(from, to, t)
      const cell = nearestSolid(voxels, p, 4)
      if (cell >= 0) sources.push({ cell, label: joint, start: distance(p, cellCentre(voxels, cell)) })
    }
  }
  return sources
}

/**
 * Where the nearest point of a bone is its joint, that joint and its parent are equally near. Such flesh goes to whom
 * the plane that halves the angle of both bones gives it: at the hip that plane is the crease of the groin.
 */
function handOver(voxels: Voxels, source: Int32Array, skeleton: Skeleton): void {
  const world = worldPose(skeleton)
  const children = childrenOf(skeleton)
  const may = skinJoints(skeleton)
  const planes = skeleton.names.map((_, j) => {
    const p = skeleton.parents[j]
    const out = boneDirection(skeleton, j, children, world)
    if (p < 0 || !out || !may[p]) return undefined
    const place = vec3At(world.positions, j)
    const into = sub(place, vec3At(world.positions, p))
    if (length(into) < 1e-6) return undefined
    const normal = add(normalize(into), out)
    return length(normal) > 0.3 ? { p, place, normal } : undefined
  })
  for (let i = 0; i < source.length; i++) {
    const plane = planes[source[i]]
    if (plane && dot(sub(cellCentre(voxels, i), plane.place), plane.normal) < 0) source[i] = plane.p
  }
}

/** Solids that no bone lies in take the bone of the nearest solid that has one. */
function adoptUnreached(voxels: Voxels, source: Int32Array, reach: Float32Array): void {
  const lost: number[] = []
  for (let i = 0; i < source.length; i++) if (source[i] < 0) lost.push(i)
  if (lost.length === 0) return
  const adopted = lost.map(i => nearestSolid(voxels, cellCentre(voxels, i), 40, s => reach[s] < Infinity))
  const fallback = source.findIndex(s => s >= 0)
  lost.forEach((i, n) => {
    const from = adopted[n] >= 0 ? adopted[n] : fallback
    source[i] = source[from]
    reach[i] = reach[from] + distance(cellCentre(voxels, i), cellCentre(voxels, from))
  })
}
