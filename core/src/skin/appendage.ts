import { breather, ChiraxisError, distance, vec3At, type Vec3, type WorkOptions } from '../math'
import { adjacencyOf, boundsOf, weldByPosition, weldedIndices, type Mesh } from '../mesh'
import {
  atBind,
  boneSegments,
  childrenOf,
  freeJoints,
  jointsAlone,
  nearestOnBones,
  skinJoints,
  type Skeleton,
} from '../skeleton'
import { bind, type BindOptions } from './bind'
import { WORKING_INFLUENCES } from './gather'
import { nearestBoneSkin } from './nearest-bone'
import { pickRows, type Skin } from './skin'
import { smoothWeights } from './smooth-weights'

/** Rounds of smoothing where there is no flesh for weights to settle in. */
const ROUNDS = 12

/**
 * The joints an appendage may follow: the one it hangs on and, below it, those that stand for no part of the body.
 * @returns rising
 */
export function appendageJoints(skeleton: Skeleton, joint: number): number[] {
  const children = childrenOf(skeleton)
  const may = skinJoints(skeleton)
  const out = [joint]
  const walk = (j: number): void => {
    for (const c of children[j])
      if (!skeleton.roles[c] && may[c]) {
        out.push(c)
        walk(c)
      }
  }
  walk(joint)
  return out.sort((a, b) => a - b)
}

/**
 * The joint a piece hangs on as an appendage, where nobody told: that of the chains that end free nearest to it whose joints lie
 * nearest; -1 where there is none near.
 * @param positions of the piece's own vertices
 */
export function nearestAppendage(skeleton: Skeleton, positions: Float32Array, size: number): number {
  const bones = boneSegments(atBind(skeleton))
  const free = freeJoints(skeleton)
  const own = bones.filter(b => free[b.joint])
  if (own.length === 0) return -1
  const votes = new Map<number, number>()
  const step = 3 * Math.max(1, Math.floor(positions.length / 3 / 300))
  for (let i = 0; i + 2 < positions.length; i += step) {
    const p: Vec3 = [positions[i], positions[i + 1], positions[i + 2]]
    const near = nearestOnBones(own, p)
    if (distance(near.place, p) > 0.25 * size) continue
    let top = near.joint
    while (skeleton.parents[top] >= 0 && free[skeleton.parents[top]]) top = skeleton.parents[top]
    // chains side by side, as those of a skirt, hang on one joint
    const on = skeleton.parents[top] >= 0 ? skeleton.parents[top] : top
    votes.set(on, (votes.get(on) ?? 0) + 1)
  }
  return [...votes].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]?.[0] ?? -1
}

/**
 * Weights of a piece among the joints of its own appendage alone. Flesh is bound as a solid; cloth too thin to be one takes its
 * nearest bones, smoothed over the surface.
 * @param mesh the piece alone  @param joint what the appendage hangs on
 */
export async function bindAppendage(
  mesh: Mesh,
  skeleton: Skeleton,
  joint: number,
  options: BindOptions = {},
): Promise<Skin> {
  const of = appendageJoints(skeleton, joint)
  const alone = jointsAlone(skeleton, of)
  const onWhole = (skin: Skin): Skin => ({ ...skin, joints: skin.joints.map(j => of[j]) })
  try {
    return onWhole(await bind(mesh, alone, { ...options, influences: options.influences ?? WORKING_INFLUENCES }))
  } catch (error) {
    if (!(error instanceof ChiraxisError) || error.code === 'stopped') throw error
    return onWhole(await overSurface(mesh, alone, options))
  }
}

async function overSurface(mesh: Mesh, skeleton: Skeleton, work: WorkOptions): Promise<Skin> {
  const pulse = breather(work)
  const weld = weldByPosition(mesh.positions)
  await pulse(0.1)
  const welded = { positions: Float32Array.from([...weld.first].flatMap(v => vec3At(mesh.positions, v))) }
  const rough = pickRows(nearestBoneSkin(welded, skeleton), Uint32Array.from(weld.first.keys()), WORKING_INFLUENCES)
  await pulse(0.3)
  const adjacency = adjacencyOf(weld.first.length, weldedIndices(mesh.indices, weld))
  return pickRows(await smoothWeights(rough, skeleton.names.length, adjacency, ROUNDS, work), weld.of)
}

/** Places are one when they are this near, as a share of the size of what they lie on. */
const SAME = 1e-4

/**
 * A skin with rows of its own wherever vertices of some pieces lie where those of another surface lie; all others stay.
 * @param positions of the surface the rows belong to, in the space of the mesh
 */
export function skinOver(mesh: Mesh, skin: Skin, parts: Mesh['parts'], positions: Float32Array, rows: Skin): Skin {
  const near = nearestPlaces(positions)
  const joints = skin.joints.slice()
  const weights = skin.weights.slice()
  const [k, c] = [skin.influences, rows.influences]
  const n = Math.min(k, c)
  for (const part of parts)
    for (const v of new Set(mesh.indices.subarray(part.start, part.start + part.count))) {
      const at = near(vec3At(mesh.positions, v))
      if (at < 0) continue
      joints.fill(0, v * k, v * k + k)
      weights.fill(0, v * k, v * k + k)
      const order = Array.from({ length: c }, (_, i) => at * c + i).sort((a, b) => rows.weights[b] - rows.weights[a])
      const sum = order.slice(0, n).reduce((s, i) => s + rows.weights[i], 0)
      if (sum <= 0) continue
      order.slice(0, n).forEach((i, slot) => {
        joints[v * k + slot] = rows.weights[i] > 0 ? rows.joints[i] : 0
        weights[v * k + slot] = rows.weights[i] / sum
      })
    }
  return { influences: k, joints, weights }
}

/** Finds the vertex at a place by cells a little larger than what counts as one place. */
function nearestPlaces(positions: Float32Array): (p: Vec3) => number {
  const { min, max } = boundsOf(positions)
  const cell = Math.max(1e-9, SAME * distance(min as Vec3, max as Vec3))
  const key = (x: number, y: number, z: number): string => `${x} ${y} ${z}`
  const cells = new Map<string, number>()
  const at = (v: number, i: number): number => Math.round(v / cell - i)
  for (let v = 0; v < positions.length / 3; v++)
    cells.set(key(at(positions[3 * v], 0), at(positions[3 * v + 1], 0), at(positions[3 * v + 2], 0)), v)
  return ([x, y, z]) => {
    for (const i of [0, 1, -1])
      for (const j of [0, 1, -1])
        for (const l of [0, 1, -1]) {
          const found = cells.get(key(at(x, i), at(y, j), at(z, l)))
          if (found !== undefined) return found
        }
    return -1
  }
}
