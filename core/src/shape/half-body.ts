import { AXIS_VECTORS, breather, type AxisName, maxOf, partOf, type WorkOptions } from '../math'
import { boundsOf, forEachEdge, joinMeshes, weldByPosition, weldedIndices, type Mesh } from '../mesh'

/** A body of which one half was modelled: the file axis it was cut across, and the side that is there. */
export interface HalfBody {
  readonly axis: 'x' | 'y' | 'z'
  readonly side: '+' | '-'
  /** Share of the open rim that lies in the cut. */ readonly sure: number
}

/**
 * Tells a half body: it ends flat at zero along one of its axes, and nearly all of its open edges lie there.
 * A whole body has no open rim that splits it.
 */
export async function findHalf(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  work: WorkOptions = {},
): Promise<HalfBody | undefined> {
  const { positions, indices } = mesh
  const { min, max } = boundsOf(positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  const flat = [0, 1, 2].flatMap(k => [
    ...(Math.abs(min[k]) < 0.01 * size && max[k] > 0.08 * size ? [{ k, side: '+' as const }] : []),
    ...(Math.abs(max[k]) < 0.01 * size && min[k] < -0.08 * size ? [{ k, side: '-' as const }] : []),
  ])
  if (flat.length === 0) return undefined
  const rim = await openEdges(positions, indices, work)
  if (rim.length < 16) return undefined
  for (const { k, side } of flat) {
    const inCut = rim.filter(v => Math.abs(positions[3 * v + k]) < 0.01 * size)
    const span = [0, 1, 2].filter(i => i !== k).map(i => spread(inCut.map(v => positions[3 * v + i])))
    // the cut runs along a good part of the body, not round a neck or a wrist
    if (inCut.length > 0.7 * rim.length && maxOf(span) > 0.5 * size)
      return { axis: 'xyz'[k] as 'x', side, sure: inCut.length / rim.length }
  }
  return undefined
}

const spread = (values: readonly number[]): number => {
  let low = Infinity,
    high = -Infinity
  for (const v of values) {
    low = Math.min(low, v)
    high = Math.max(high, v)
  }
  return high - low
}

/** Vertices on edges with one face, each edge giving both ends. */
async function openEdges(positions: Float32Array, indices: Uint32Array, work: WorkOptions): Promise<number[]> {
  const pulse = breather(work)
  const weld = weldByPosition(positions)
  await pulse(0.2)
  const out: number[] = []
  const welded = weldedIndices(indices, weld)
  await pulse(0.4)
  await forEachEdge(
    weld.first.length,
    welded,
    (a, b, forward, back) => {
      if (forward + back === 1) out.push(weld.first[a], weld.first[b])
    },
    partOf(work, 0.4, 1),
  )
  return out
}

/** The half with its mirror image; points in the cut are brought onto it, so that the seam closes. */
export function mirrorHalf(mesh: Mesh, half: HalfBody): Mesh {
  const k = 'xyz'.indexOf(half.axis)
  const normal = AXIS_VECTORS[`+${half.axis}` as AxisName]
  const { min, max } = boundsOf(mesh.positions)
  const size = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2]) || 1
  const positions = mesh.positions.slice()
  for (let i = k; i < positions.length; i += 3) if (Math.abs(positions[i]) < ON_RIM * size) positions[i] = 0
  const flip = (values: Float32Array | undefined): Float32Array | undefined => {
    const out = values?.slice()
    if (out)
      for (let i = 0; i < out.length; i += 3) for (let c = 0; c < 3; c++) if (normal[c] !== 0) out[i + c] = -out[i + c]
    return out
  }
  const indices = mesh.indices.slice()
  for (let f = 0; f < indices.length; f += 3) [indices[f + 1], indices[f + 2]] = [indices[f + 2], indices[f + 1]]
  const own: Mesh = { ...mesh, positions }
  const other: Mesh = {
    ...mesh,
    positions: flip(positions)!,
    normals: flip(mesh.normals),
    indices,
    parts: mesh.parts.map(p => ({ ...p, name: twin(p.name), ...(p.aka && { aka: p.aka.map(twin) }) })),
    ...(mesh.morphs && { morphs: mesh.morphs.map(m => ({ name: m.name, offsets: flip(m.offsets)! })) }),
  }
  return joinMeshes([own, other])
}

const twin = (name: string): string => `${name}, mirrored`

/** Only points within a hair of the cut are on its rim; flesh just beside it stays where it is. */
const ON_RIM = 0.0005
