import { breather, ChiraxisError, distance, lerp, partOf, type Vec3, type WorkOptions } from '../math'
import { adjacencyOf, cellCentre, geodesics, nearestSolid, vertexNormals, voxelize, weldByPosition, type Mesh, type Voxels } from '../mesh'
import { boneSegments, childrenOf, type Skeleton } from '../skeleton'
import { diffuse } from './diffuse'
import { sampleWeights } from './sample-weights'
import type { Skin } from './skin'
import { strongest } from './strongest'

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
export async function bind(mesh: Pick<Mesh, 'positions' | 'indices'>, skeleton: Skeleton, options: BindOptions = {}): Promise<Skin> {
  const o = { ...BIND_DEFAULTS, ...options }
  if (!(o.influences >= 1 && o.influences <= 8)) throw new ChiraxisError('bad-settings', 'Influences per vertex must be a number from 1 to 8.')
  const pulse = breather(options)
  const { positions, indices } = mesh
  const voxels = await voxelize(positions, indices, { ...partOf(options, 0, 0.25), cells: o.cells })
  const sources = boneSources(voxels, skeleton)
  if (sources.length === 0) throw new ChiraxisError('bad-skeleton', 'No bone of the skeleton lies in or near the body; check that both have the same unit and place.')
  const field = await geodesics(voxels, sources, partOf(options, 0.25, 0.4))
  await pulse(0.4)
  adoptUnreached(voxels, field.source, field.distance)
  const joints = skeleton.names.length
  const fields = await diffuse(voxels, field.source, field.distance, joints, { ...partOf(options, 0.4, 0.7), firmness: o.firmness })
  const weld = weldByPosition(positions)
  const normals = vertexNormals(positions, indices)
  await pulse(0.72)
  const dense = await sampleWeights(voxels, fields, joints, positions, normals, weld.first, partOf(options, 0.72, 0.85))
  partSides(dense, skeleton)
  const welded = Uint32Array.from(indices, v => weld.of[v])
  await pulse(0.86)
  const smooth = await smoothWeights(dense, joints, adjacencyOf(weld.first.length, welded), o.smooth, partOf(options, 0.86, 0.95))
  partSides(smooth, skeleton)
  const skin = strongest(smooth, joints, weld.of, o.influences)
  options.onProgress?.(1)
  return skin
}

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

/** Takes away from both limbs of a pair what they share, so that neither leg ever moves the other. */
function partSides(dense: Float32Array, skeleton: Skeleton): void {
  const joints = skeleton.names.length
  const of = (side: string, parts: RegExp): number[] =>
    skeleton.roles.flatMap((r, j) => (r && r.startsWith(side) && parts.test(r) ? [j] : []))
  const limbs = [/(UpperLeg|LowerLeg|Foot|Toes)$/, /(UpperArm|LowerArm|Hand)$/]
    .map(parts => [of('left', parts), of('right', parts)])
    .filter(([l, r]) => l.length > 0 && r.length > 0)
  for (let v = 0; v < dense.length / joints; v++) {
    const at = v * joints
    for (const [left, right] of limbs) {
      let l = 0, r = 0
      for (const j of left) l += dense[at + j]
      for (const j of right) r += dense[at + j]
      if (l === 0 || r === 0) continue
      const shared = Math.min(l, r)
      for (const j of left) dense[at + j] *= (l - shared) / l
      for (const j of right) dense[at + j] *= (r - shared) / r
    }
  }
}

/** Averages weights with those of surface neighbours. */
async function smoothWeights(dense: Float32Array, joints: number, adjacency: { starts: Uint32Array; neighbours: Uint32Array }, rounds: number, work: WorkOptions): Promise<Float32Array> {
  const pulse = breather(work)
  let from = dense
  let to: Float32Array = new Float32Array(dense.length)
  const n = dense.length / joints
  for (let round = 0; round < rounds; round++) {
    for (let v = 0; v < n; v++) {
      const first = adjacency.starts[v], end = adjacency.starts[v + 1]
      const at = v * joints
      const share = end > first ? 0.5 / (end - first) : 0
      const own = end > first ? 0.5 : 1
      for (let j = 0; j < joints; j++) to[at + j] = own * from[at + j]
      for (let i = first; i < end; i++) {
        const other = adjacency.neighbours[i] * joints
        for (let j = 0; j < joints; j++) to[at + j] += share * from[other + j]
      }
      if ((v & 8191) === 0) await pulse((round + v / n) / rounds)
    }
    const swap = from === dense ? new Float32Array(dense.length) : from
    from = to
    to = swap
  }
  return from
}
