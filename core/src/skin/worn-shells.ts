import { breather, distance, lerp, minOf, partOf, vec3At, type Vec3, type WorkOptions } from '../math'
import {
  boundsOf,
  closestOnSurface,
  componentsOfFaces,
  groupsAround,
  thicknessOf,
  usedVertices,
  weldByPosition,
  weldedIndices,
  type Mesh,
} from '../mesh'
import { sampleSurface } from '../shape'
import { atBind, boneSegments, type Skeleton } from '../skeleton'
import { dressOver } from './dress-over'
import { addPoint, gatherInto } from './gather'
import type { Skin } from './skin'

/** A connected piece of a body that no bone needs: what lies beneath it, or what it touches, moves it. */
export interface WornShell {
  /** Its triangles, over the mesh's own vertices. */
  readonly indices: Uint32Array
  /** Whether two bones and more lie within it: then it bends where they meet, and is cloth. */
  readonly bends: boolean
  /** Which bones lie within it, if only in part: cloth about the same ones hangs alike. */
  readonly about: string
}

/** Points looked at along each bone. */
const SAMPLES = 4
/** A body of more connected pieces than this is a scan's litter or a cloud of cards, and is taken as one. */
const MOST_SHELLS = 3000

/**
 * Parts a body into its flesh and what is worn over it or hangs from it, where it comes as several connected shells in
 * one piece: a shell is worn where every bone inside it is inside another shell as well, the outermost looked at first. So a
 * coat over legs is worn, and trousers with nobody in them are legs.
 * @param indices triangles to part, over the mesh's vertices  @param work `kept` is 1 at vertices that are flesh, told by somebody
 */
export async function partWorn(
  mesh: Pick<Mesh, 'positions'>,
  indices: Uint32Array,
  skeleton: Skeleton,
  { kept, ...work }: WorkOptions & { kept?: Uint8Array } = {},
): Promise<{ flesh: Uint32Array; worn: WornShell[] }> {
  const whole = { flesh: indices, worn: [] }
  const pulse = breather(work)
  const weld = weldByPosition(mesh.positions)
  await pulse()
  const { labels, count } = await componentsOfFaces(weld.first.length, weldedIndices(indices, weld), work)
  const shellOf = (f: number): number => labels[weld.of[indices[f]]]
  const corners = new Map<number, number[]>()
  for (let f = 0; f < indices.length; f += 3) {
    const l = shellOf(f)
    const own = corners.get(l)
    if (own) own.push(f)
    else corners.set(l, [f])
  }
  if (count < 2 || corners.size < 2 || corners.size > MOST_SHELLS) return whole
  await pulse()
  const skeletonAtBind = atBind(skeleton)
  const bones = boneSegments(skeletonAtBind)
  const inner = bones.flatMap(({ from, to }) =>
    Array.from({ length: SAMPLES }, (_, i): Vec3 => lerp(from, to, (i + 0.5) / SAMPLES)),
  )
  const { inside, about, reach } = await groupsAround(mesh.positions, indices, shellOf, inner, pulse)
  const left = new Set(corners.keys())
  const worn: number[] = []
  const held = new Map<number, number[]>()
  inner.forEach((_, i) => inside[i].forEach(l => void held.set(l, [...(held.get(l) ?? []), i])))
  // the outermost first: how much farther from the bones a shell is than the nearest one that holds them too
  const outer = (l: number): number => {
    const ratios = (held.get(l) ?? []).map(
      i => reach[i].get(l)! / Math.max(1e-9, minOf([...inside[i]].map(o => reach[i].get(o)!))),
    )
    return ratios.length === 0 ? Infinity : ratios.reduce((a, b) => a + b, 0) / ratios.length
  }
  const order = [...corners.keys()].map(l => ({ l, outer: outer(l) })).sort((a, b) => b.outer - a.outer || a.l - b.l)
  for (const { l } of order) {
    if (kept && corners.get(l)!.some(f => kept[indices[f]])) continue
    if ((held.get(l) ?? []).some(i => ![...inside[i]].some(o => o !== l && left.has(o)))) continue
    left.delete(l)
    worn.push(l)
  }
  // where hardly a bone is inside anything, nothing tells flesh from what is worn
  if (left.size === 0 || inner.filter((_, i) => inside[i].size > 0).length < LEAST_INSIDE * inner.length) return whole
  /** How many bones a shell lies about along half of their length and more: from two on it bends where they meet. */
  const bonesIn = (l: number): number =>
    bones.filter((_, b) => {
      const own = about.slice(b * SAMPLES, (b + 1) * SAMPLES)
      return own.filter(s => s.has(l)).length >= SAMPLES / 2
    }).length
  const namesOf = (l: number): string =>
    bones
      .flatMap(({ joint }, b) => (about.slice(b * SAMPLES, (b + 1) * SAMPLES).some(s => s.has(l)) ? [joint] : []))
      .join(' ')
  const trianglesOf = (shells: readonly number[]): Uint32Array => {
    const out = new Uint32Array(3 * shells.reduce((sum, l) => sum + corners.get(l)!.length, 0))
    let at = 0
    for (const l of shells)
      for (const f of corners.get(l)!) {
        out[at++] = indices[f]
        out[at++] = indices[f + 1]
        out[at++] = indices[f + 2]
      }
    return out
  }
  return {
    flesh: trianglesOf([...left]),
    worn: worn.map(l => ({ indices: trianglesOf([l]), bends: bonesIn(l) > 1, about: namesOf(l) })),
  }
}

/** Share of the bones that lie inside the body at least. */
const LEAST_INSIDE = 0.4

/** Thinner than this share of height, and not small, a shell is cloth. */
const THIN = 0.002
/** Up to this share of height a shell goes wholly with the place it sits on: buttons, nails, buckles. */
const SMALL = 0.1
/** Of the weight where it touches, what one joint must have for a stiff shell to ride on it. */
const RULES = 0.55
/** Points looked at on a shell, fewer on a small one, and the share of them that lie nearest to the flesh: where it touches. */
const LOOKED_AT = { large: 300, small: 30 }
const TOUCHING = 0.1
const pointsOf = (list: Float32Array): Vec3[] => Array.from({ length: list.length / 3 }, (_, i) => vec3At(list, i))

/**
 * Moves what is worn by what lies beneath it: stiff shells ride on the joint that rules where they touch, small ones go
 * with their place, all others take weights from beneath as cloth does.
 * @param skin of all vertices, told at those of the flesh
 */
export async function wearShells(
  mesh: Pick<Mesh, 'positions'>,
  flesh: Uint32Array,
  worn: readonly WornShell[],
  skeleton: Skeleton,
  skin: Skin,
  work: WorkOptions = {},
): Promise<Skin> {
  if (worn.length === 0) return skin
  const pulse = breather(work)
  const { min, max } = boundsOf(mesh.positions)
  const height = max[1] - min[1]
  const closest = closestOnSurface(mesh.positions, flesh)
  const out: Skin = { influences: skin.influences, joints: skin.joints.slice(), weights: skin.weights.slice() }
  const gather = gatherInto(out, skeleton.names.length)
  const cloth = new Map<string, Uint32Array[]>()
  for (const { indices, bends, about } of worn) {
    await pulse()
    const vertices = [...new Set(indices)]
    const box = boundsOf(usedVertices(mesh.positions, indices).positions)
    const small = distance(box.min, box.max) < SMALL * height
    if (!small && (bends || thicknessOf(mesh.positions, indices) < THIN * height)) {
      cloth.set(about, [...(cloth.get(about) ?? []), indices])
      continue
    }
    const looks = small ? LOOKED_AT.small : LOOKED_AT.large
    const near = pointsOf(sampleSurface(mesh.positions, indices, looks))
      .map(([x, y, z]) => closest.nearest(x, y, z)!)
      .sort((a, b) => a.distance - b.distance)
      .slice(0, Math.ceil(TOUCHING * looks))
    const told = new Map<number, number>()
    const add = (joint: number, weight: number): void =>
      void told.set(joint, (told.get(joint) ?? 0) + weight / near.length)
    for (const q of near) addPoint({ add }, skin, flesh, q)
    const [ruler, most] = [...told].reduce((a, b) => (b[1] > a[1] ? b : a))
    if (most < RULES && !small) {
      cloth.set(about, [...(cloth.get(about) ?? []), indices])
      continue
    }
    for (const v of vertices) {
      if (most >= RULES) gather.add(ruler, 1)
      else for (const [joint, weight] of told) gather.add(joint, weight)
      gather.settle(v)
    }
  }
  let dressed = out
  let done = 0
  for (const shells of cloth.values()) {
    const step = partOf(work, done / cloth.size, (done + 1) / cloth.size)
    const indices = Uint32Array.from(shells.flatMap(own => [...own]))
    dressed = await dressOver(mesh.positions, flesh, indices, skeleton, dressed, step)
    done++
  }
  return dressed
}
