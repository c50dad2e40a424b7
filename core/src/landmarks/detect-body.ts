import { breather, ChiraxisError, type WorkOptions, maxOf, minOf } from '../math'
import { boundsOf, componentsOfFaces, usedVertices, weldByPosition, weldedIndices, type Mesh } from '../mesh'
import { withoutSlightPieces, type Straightened } from '../shape'
import { detectLandmarks } from './detect'
import { detectFourleg } from './fourleg'
import type { Landmark } from './landmark'

type Body = Pick<Mesh, 'positions' | 'indices'>
type Found = { plan: 'biped' | 'fourleg'; landmarks: Landmark[] }

export interface BodyOptions extends WorkOptions {
  /** How likely up and facing of the straightened body are right, 0..1 each: no landmark is likelier than both. */
  readonly stance?: Pick<Straightened['confidence'], 'up' | 'facing'>
}

/**
 * The plan a body asks for, and its landmarks. Longer than tall goes on four legs; what one plan refuses the other
 * may take. Where one closed piece alone is a whole body, it is looked at without what it wears.
 */
export async function detectBody(
  mesh: Body,
  kind: 'auto' | 'biped' | 'fourleg',
  { stance, ...work }: BodyOptions = {},
): Promise<Found> {
  const { plan, landmarks } = await detectDressed(mesh, kind, work)
  const standsSo = stance ? stance.up * stance.facing : 1
  return { plan, landmarks: landmarks.map(l => ({ ...l, confidence: l.confidence * standsSo })) }
}

async function detectDressed(mesh: Body, kind: 'auto' | 'biped' | 'fourleg', work: WorkOptions): Promise<Found> {
  let beneath: Found | undefined
  for (const bare of await wholePieces(mesh, work)) {
    try {
      const found = await detectOne(bare, kind, work)
      if (!beneath || sureness(found) > sureness(beneath)) beneath = found
    } catch (error) {
      if (!(error instanceof ChiraxisError) || error.code === 'stopped') throw error
    }
    if (beneath && sureness(beneath) > 0.8) return beneath
  }
  // clothes that reach beyond the body still count for what is outermost
  try {
    const whole = await detectOne(await withoutSlightPieces(mesh, work), kind, work)
    return beneath && sureness(beneath) >= sureness(whole) ? beneath : whole
  } catch (error) {
    if (!beneath || !(error instanceof ChiraxisError) || error.code === 'stopped') throw error
    return beneath
  }
}

const sureness = ({ landmarks }: Found): number =>
  landmarks.reduce((sum, l) => sum + l.confidence, 0) / Math.max(1, landmarks.length)

async function detectOne(mesh: Body, kind: 'auto' | 'biped' | 'fourleg', work: WorkOptions): Promise<Found> {
  const biped = async (): Promise<Found> => ({ plan: 'biped', landmarks: await detectLandmarks(mesh, work) })
  const fourleg = async (): Promise<Found> => ({ plan: 'fourleg', landmarks: await detectFourleg(mesh, work) })
  if (kind !== 'auto') return kind === 'biped' ? biped() : fourleg()
  const { min, max } = boundsOf(mesh.positions)
  if (max[2] - min[2] <= 0.6 * (max[1] - min[1])) return biped()
  try {
    return await fourleg()
  } catch (error) {
    if (!(error instanceof ChiraxisError) || error.code === 'stopped') throw error
    return biped()
  }
}

/**
 * What may be the body beneath what it wears, each with its own vertices: a connected piece nearly as tall as everything together,
 * and a tall one with what goes on beyond its ends, as a head of its own does. None where that is all there is.
 */
async function wholePieces(mesh: Body, { signal }: WorkOptions): Promise<Body[]> {
  const pulse = breather({ signal })
  const { positions, indices } = mesh
  const weld = weldByPosition(positions)
  await pulse()
  const { labels, count } = await componentsOfFaces(weld.first.length, weldedIndices(indices, weld), { signal })
  await pulse()
  if (count < 2) return []
  const low = new Float32Array(count).fill(Infinity),
    high = new Float32Array(count).fill(-Infinity),
    size = new Uint32Array(count)
  weld.first.forEach((v, w) => {
    const y = positions[3 * v + 1],
      l = labels[w]
    low[l] = Math.min(low[l], y)
    high[l] = Math.max(high[l], y)
    size[l]++
  })
  const tallest = maxOf(Array.from(high)) - minOf(Array.from(low))
  let best = -1
  for (let l = 0; l < count; l++) if (high[l] - low[l] > 0.7 * tallest && (best < 0 || size[l] > size[best])) best = l
  if (best < 0 || size[best] < 300) return []
  // clothes lie beside the body, heads and hats above it
  const parts = new Set([best])
  for (let l = 0; l < count; l++) {
    const beyond = Math.max(0, high[l] - high[best]) + Math.max(0, low[best] - low[l])
    if (beyond > 0.5 * (high[l] - low[l])) parts.add(l)
  }
  const choices = [
    ...(high[best] - low[best] > 0.88 * tallest ? [new Set([best])] : []),
    ...(parts.size > 1 && parts.size < count ? [parts] : []),
  ]
  await pulse()
  return choices.map(chosen => {
    const own: number[] = []
    for (let f = 0; f < indices.length; f += 3)
      if (chosen.has(labels[weld.of[indices[f]]])) own.push(indices[f], indices[f + 1], indices[f + 2])
    return usedVertices(positions, Uint32Array.from(own))
  })
}
