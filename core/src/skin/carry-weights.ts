import { breather, dot, partOf, vec3At, type Vec3, type WorkOptions } from '../math'
import {
  adjacencyOf,
  boundsOf,
  closestOnSurface,
  type ClosestOnSurface,
  vertexNormals,
  weldByPosition,
  weldedIndices,
  weldedPositions,
  type Adjacency,
  type Mesh,
} from '../mesh'
import { addPoint, emptySkin, gatherInto, WORKING_INFLUENCES } from './gather'
import { inpaint } from './inpaint'
import { smoothWeights } from './smooth-weights'
import { pickRows, type Skin } from './skin'

type Surface = Pick<Mesh, 'positions' | 'indices'>

export interface CarryOptions extends WorkOptions {
  /** Farther than this share of the source's diagonal, the source tells nothing. Default 0.05. */
  readonly reach?: number
  /** Surfaces turned further apart than this tell nothing, degrees. Default 35. */
  readonly turn?: number
  /** Both sides of the target may match, as cloth is thin. Default true. */
  readonly thin?: boolean
  /** The source, ready to be asked for its nearest points, where somebody has it. */
  readonly closest?: ClosestOnSurface
}

/** What carrying came to: the skin, and how many vertices the source told directly. */
export interface Carried {
  readonly skin: Skin
  readonly told: number
  readonly asked: number
}

/**
 * Gives a surface the weights of another that lies beneath it: vertices whose closest point is near and looks the
 * same way copy it, all others are filled in smoothly over the surface; cloth that hangs free is softened.
 * Method: Abdrashitov, Raichstat, Monsen and Hill 2023, "Robust skin weights transfer via weight inpainting".
 * @param skin of the source's vertices
 */
export async function carryWeights(
  source: Surface,
  skin: Skin,
  target: Surface,
  joints: number,
  options: CarryOptions = {},
): Promise<Carried> {
  const { reach = 0.05, turn = 35, thin = true } = options
  const pulse = breather(options)
  const { min, max } = boundsOf(source.positions)
  const far = reach * Math.hypot(max[0] - min[0], max[1] - min[1], max[2] - min[2])
  const least = Math.cos((turn * Math.PI) / 180)
  const weld = weldByPosition(target.positions)
  const n = weld.first.length
  const closest = options.closest ?? closestOnSurface(source.positions, source.indices)
  const own = vertexNormals(target.positions, target.indices)
  const theirs = vertexNormals(source.positions, source.indices)
  const out = emptySkin(n)
  const gather = gatherInto(out, joints)
  const told = new Uint8Array(n)
  const away = new Float32Array(n)
  let count = 0
  for (let w = 0; w < n; w++) {
    if ((w & 1023) === 0) await pulse((0.5 * w) / n)
    const v = weld.first[w]
    const q = closest.nearest(target.positions[3 * v], target.positions[3 * v + 1], target.positions[3 * v + 2])
    away[w] = q ? q.distance / far : 1
    if (!q || q.distance > far) continue
    const corners = [0, 1, 2].map(k => source.indices[3 * q.triangle + k])
    const shares = [q.a, q.b, q.c]
    const normal = [0, 1, 2].map(k => corners.reduce((s, c, i) => s + shares[i] * theirs[3 * c + k], 0)) as Vec3
    const agree = dot(vec3At(own, v), normal)
    if ((thin ? Math.abs(agree) : agree) < least) continue
    addPoint(gather, skin, source.indices, q)
    gather.settle(w)
    told[w] = 1
    count++
  }
  const welded = weldedIndices(target.indices, weld)
  const positions = weldedPositions(target.positions, weld)
  const adjacency = adjacencyOf(n, welded)
  if (count > 0 && count < n) await inpaint(out, told, positions, adjacency, joints, partOf(options, 0.5, 0.9))
  // pieces nothing told anything about take the closest place there is
  for (let w = 0; w < n; w++) {
    if (out.weights[w * WORKING_INFLUENCES] > 0) continue
    const v = weld.first[w]
    const q = closest.nearest(target.positions[3 * v], target.positions[3 * v + 1], target.positions[3 * v + 2])
    if (!q) continue
    const c = source.indices[3 * q.triangle]
    for (let e = c * skin.influences; e < (c + 1) * skin.influences; e++)
      if (skin.weights[e] > 0) gather.add(skin.joints[e], skin.weights[e])
    gather.settle(w)
  }
  if (thin) await loosen(out, away, adjacency, joints, partOf(options, 0.9, 1))
  return { skin: pickRows(out, weld.of), told: count, asked: n }
}

/** Rounds of smoothing cloth that hangs free. */
const LOOSE = 24

/** Cloth that stands off the body passes from limb to limb more softly the farther off it hangs: between the legs of a coat nothing jumps. */
async function loosen(
  skin: Skin,
  away: Float32Array,
  adjacency: Adjacency,
  joints: number,
  work: WorkOptions,
): Promise<void> {
  const soft = await smoothWeights(skin, joints, adjacency, LOOSE, work)
  const k = skin.influences
  const mixed = emptySkin(away.length, k)
  const gather = gatherInto(mixed, joints)
  for (let w = 0; w < away.length; w++) {
    const t = Math.min(1, 2 * away[w])
    for (let i = w * k; i < w * k + k; i++) {
      if (skin.weights[i] > 0) gather.add(skin.joints[i], (1 - t) * skin.weights[i])
      if (soft.weights[i] > 0) gather.add(soft.joints[i], t * soft.weights[i])
    }
    gather.settle(w)
  }
  skin.joints.set(mixed.joints)
  skin.weights.set(mixed.weights)
}
