import { bodyPart, isArm, isFinger, SIDES, sideOf } from '../body'
import { distance, lerp, partOf, vec3At, type WorkOptions } from '../math'
import {
  adjacencyOf,
  boundsOf,
  cellCentre,
  componentsOf,
  geodesics,
  nearestSolid,
  vertexNormals,
  voxelize,
  weldByPosition,
  weldedIndices,
  type Mesh,
} from '../mesh'
import { atBind, boneSegments, nearestOnBones, type Skeleton } from '../skeleton'
import type { Skin } from './skin'

/** Influence of a limb on flesh that it does not reach: vertices, and how much of each limb's weight is wrong there. */
export interface Bleeding {
  /** Vertices that a limb across a gap moves. */
  readonly vertices: readonly number[]
  /** The joint that bleeds most, and the vertex where it is worst. */
  readonly joint: number
  readonly worst: number
  /** V·limbs: which limbs bleed at a vertex, as bits. */
  readonly limbs: Uint8Array
  /** Joints of each limb. */
  readonly groups: readonly (readonly number[])[]
}

/** Arms with their hands, and legs, each for itself. */
const LIMBS: readonly ((role: string) => boolean)[] = [
  ...SIDES.map(side => (role: string) => sideOf(role) === side && (isArm(role) || isFinger(role))),
  ...SIDES.map(side => (role: string) => sideOf(role) === side && bodyPart(role)?.limb === 'leg'),
]

/** Farther than this from all its bones by way through the body, as a share of height, a limb moves nothing. */
const FAR = 0.2

/** Weight below this share moves nothing that could be seen. */
const LEAST = 0.01

/**
 * Finds influence across gaps: a vertex moved by an arm or a leg although the way to it through the body
 * is far longer than the straight line, or longer than any limb is thick, as where a hanging hand nears the hip or thighs touch.
 * Ways are geodesic distances through the solid (after Dionne and de Lasa 2013). A shell that rides as a whole on one joint, as what a hand
 * carries, bleeds nowhere.
 */
export async function findBleeding(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  work: WorkOptions = {},
): Promise<Bleeding> {
  const n = mesh.positions.length / 3
  const { min, max } = boundsOf(mesh.positions)
  const height = max[1] - min[1]
  const groups = LIMBS.map(limb => membersOf(skeleton, limb))
  const limbs = new Uint8Array(n)
  const voxels = await voxelize(mesh.positions, mesh.indices, { ...partOf(work, 0, 0.3), cells: 120 })
  const normals = vertexNormals(mesh.positions, mesh.indices)
  const bones = boneSegments(atBind(skeleton))
  const cellOf = new Int32Array(n).fill(-2)
  const rides = ridingShells(mesh, skin)
  const vertices = new Set<number>()
  const share = new Float64Array(skeleton.names.length)
  let joint = -1,
    worst = -1,
    most = 0
  const k = skin.influences
  for (const [g, members] of groups.entries()) {
    if (members.length === 0) continue
    const own = new Set(members)
    const sources: { cell: number; label: number; start: number }[] = []
    const segments = bones.filter(b => own.has(b.joint))
    for (const { from, to } of segments) {
      const steps = Math.max(1, Math.ceil((2 * distance(from, to)) / voxels.size))
      for (let i = 0; i <= steps; i++) {
        const cell = nearestSolid(voxels, lerp(from, to, i / steps), 3)
        if (cell >= 0) sources.push({ cell, label: g, start: 0 })
      }
    }
    const ways =
      sources.length > 0
        ? (await geodesics(voxels, sources, partOf(work, 0.3 + 0.17 * g, 0.3 + 0.17 * (g + 1)))).distance
        : undefined
    if (!ways) continue
    for (let v = 0; v < n; v++) {
      let w = 0,
        strongest = -1,
        strongestW = 0
      for (let i = v * k; i < v * k + k; i++) {
        if (skin.weights[i] > 0 && own.has(skin.joints[i])) {
          w += skin.weights[i]
          if (skin.weights[i] > strongestW) {
            strongestW = skin.weights[i]
            strongest = skin.joints[i]
          }
        }
      }
      if (w < LEAST || rides[v]) continue
      if (cellOf[v] === -2) {
        const p = vec3At(mesh.positions, v)
        cellOf[v] = nearestSolid(
          voxels,
          [
            p[0] - 0.6 * voxels.size * normals[3 * v],
            p[1] - 0.6 * voxels.size * normals[3 * v + 1],
            p[2] - 0.6 * voxels.size * normals[3 * v + 2],
          ],
          4,
        )
      }
      const cell = cellOf[v]
      if (cell < 0 || !(ways[cell] < Infinity)) continue
      const straight = nearestOnBones(segments, cellCentre(voxels, cell)).distance
      if (ways[cell] < Math.min(FAR * height, 2 * straight + 0.05 * height)) continue
      vertices.add(v)
      limbs[v] |= 1 << g
      share[strongest] += w
      if (w > most) {
        most = w
        worst = v
      }
    }
  }
  for (let j = 0; j < share.length; j++) if (share[j] > 0 && (joint < 0 || share[j] > share[joint])) joint = j
  return { vertices: [...vertices].sort((a, b) => a - b), joint, worst, limbs, groups }
}

/** Vertices of shells that follow one joint alone, a flag each; the largest shell is the body. */
function ridingShells({ positions, indices }: Pick<Mesh, 'positions' | 'indices'>, skin: Skin): Uint8Array {
  const weld = weldByPosition(positions)
  const { labels, count } = componentsOf(adjacencyOf(weld.first.length, weldedIndices(indices, weld)))
  const size = new Uint32Array(count)
  const joint = new Int32Array(count).fill(-1)
  const mixed = new Uint8Array(count)
  const k = skin.influences
  const shellOf = (v: number): number => labels[weld.of[v]]
  for (let v = 0; v < positions.length / 3; v++) {
    const c = shellOf(v)
    size[c]++
    for (let i = v * k; i < v * k + k; i++) {
      if (skin.weights[i] < 1e-4) continue
      if (joint[c] < 0) joint[c] = skin.joints[i]
      else if (joint[c] !== skin.joints[i]) mixed[c] = 1
    }
  }
  const body = size.reduce((best, s, c) => (s > size[best] ? c : best), 0)
  return Uint8Array.from({ length: positions.length / 3 }, (_, v) => {
    const c = shellOf(v)
    return c !== body && !mixed[c] ? 1 : 0
  })
}

/** Takes the influence of a limb away where it bleeds; what stays sums to one again. */
export function removeBleeding(skin: Skin, bleeding: Bleeding): Skin {
  const k = skin.influences
  const weights = skin.weights.slice()
  const groupOf = new Map(bleeding.groups.flatMap((list, g) => list.map(j => [j, g] as const)))
  for (const v of bleeding.vertices) {
    let before = 0,
      after = 0
    for (let i = v * k; i < v * k + k; i++) {
      before += weights[i]
      const g = groupOf.get(skin.joints[i])
      if (g !== undefined && bleeding.limbs[v] & (1 << g)) weights[i] = 0
      after += weights[i]
    }
    if (after > 1e-5) for (let i = v * k; i < v * k + k; i++) weights[i] *= before / after
  }
  return { ...skin, weights }
}

/** Joints of a limb: those with its roles and whatever hangs on them. */
function membersOf(skeleton: Skeleton, limb: (role: string) => boolean): number[] {
  const inside = new Uint8Array(skeleton.names.length)
  skeleton.names.forEach((_, j) => {
    const role = skeleton.roles[j]
    const p = skeleton.parents[j]
    if (role ? limb(role) : p >= 0 && inside[p]) inside[j] = 1
  })
  return [...inside.keys()].filter(j => inside[j])
}
