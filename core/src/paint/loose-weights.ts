import { z } from 'zod'
import { ChiraxisError } from '../math'
import type { Mesh } from '../mesh'
import { findJoint, jointRef, type Skeleton } from '../skeleton'
import { carryWeights, emptySkin, gatherInto, type Skin } from '../skin'

/** Weights apart from their figure: joints told by role or name, and where on a body each vertex was, as shares of its height. */
export interface LooseWeights {
  readonly joints: readonly string[]
  readonly skin: Skin
  readonly positions: Float32Array
  readonly indices: Uint32Array
}

/** More joints a vertex than this is no skin any program could use. */
const MOST_INFLUENCES = 32

const fileSchema = z.object({
  format: z.literal('chiraxis-weights'),
  version: z.literal(1),
  joints: z.array(z.string().min(1).max(1000)).min(1).max(5000),
  influences: z.number().int().min(1).max(MOST_INFLUENCES),
  /** In heights of the figure. */
  positions: z.array(z.number().min(-1e6).max(1e6)),
  triangles: z.array(z.number().int().nonnegative()),
  joint: z.array(z.number().int().nonnegative()),
  weight: z.array(z.number().min(0).max(1e6)),
})

export function looseWeights(
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  skin: Skin,
  size: number,
): LooseWeights {
  return {
    joints: skeleton.names.map((_, j) => jointRef(skeleton, j)),
    skin,
    positions: mesh.positions.map(x => x / size),
    indices: mesh.indices,
  }
}

/** Weights as an open JSON file: see docs/formats.md. */
export function writeWeights({ joints, skin, positions, indices }: LooseWeights): Uint8Array {
  const round = (x: number, digits: number): number => Number(x.toFixed(digits))
  return new TextEncoder().encode(
    JSON.stringify({
      format: 'chiraxis-weights',
      version: 1,
      joints,
      influences: skin.influences,
      positions: Array.from(positions, x => round(x, 6)),
      triangles: [...indices],
      joint: [...skin.joints],
      weight: Array.from(skin.weights, x => round(x, 5)),
    }),
  )
}

/** @throws ChiraxisError in plain words for whatever cannot be used */
export function readWeights(bytes: Uint8Array, name: string): LooseWeights {
  let data: unknown
  try {
    data = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    throw new ChiraxisError('bad-syntax', `${name} is no readable weights file: it is not valid JSON.`)
  }
  const told = data as { influences?: unknown; weight?: unknown } | null
  if (typeof told?.influences === 'number' && told.influences > MOST_INFLUENCES)
    throw new ChiraxisError(
      'bad-weights',
      `${name} gives ${told.influences} joints to a vertex; ${MOST_INFLUENCES} are the most that can be read.`,
    )
  if (Array.isArray(told?.weight) && told.weight.some(w => typeof w !== 'number' || !(w >= 0) || w > 1e6))
    throw new ChiraxisError('bad-weights', `${name} holds weights that are no numbers or below zero.`)
  const parsed = fileSchema.safeParse(data)
  if (!parsed.success)
    throw new ChiraxisError(
      'bad-syntax',
      `${name} is no weights file of this program, or it is damaged: ${parsed.error.issues[0]?.path.join('.') || 'its parts'} cannot be read.`,
    )
  const f = parsed.data
  const n = f.positions.length / 3
  if (!Number.isInteger(n) || f.joint.length !== n * f.influences || f.weight.length !== n * f.influences)
    throw new ChiraxisError('bad-weights', `${name} is damaged: its lists do not belong to one number of vertices.`)
  if (f.triangles.some(v => v >= n) || f.triangles.length % 3 !== 0)
    throw new ChiraxisError('bad-weights', `${name} is damaged: its triangles name vertices that are not there.`)
  if (f.joint.some(j => j >= f.joints.length))
    throw new ChiraxisError('bad-weights', `${name} is damaged: its weights name joints that are not there.`)
  return {
    joints: f.joints,
    positions: Float32Array.from(f.positions),
    indices: Uint32Array.from(f.triangles),
    skin: { influences: f.influences, joints: Uint16Array.from(f.joint), weights: Float32Array.from(f.weight) },
  }
}

/** Vertices this near, as a share of height, are the same vertex of the same mesh. */
const SAME = 2e-4

/**
 * Loose weights on a figure: vertex by vertex where the mesh is the same, else by place on the surface. Joints are
 * found by role or name; what belonged to joints the figure lacks goes to those it has.
 * @returns a skin with none where the weights tell nothing, and the joints that are missing
 * @throws ChiraxisError `bad-weights` where no joint is shared or the weights lie nowhere near this body
 */
export async function fitWeights(
  loose: LooseWeights,
  mesh: Pick<Mesh, 'positions' | 'indices'>,
  skeleton: Skeleton,
  size: number,
): Promise<{ skin: Skin; missing: readonly string[]; byPlace: boolean }> {
  const to = loose.joints.map(ref => findJoint(skeleton, ref))
  const missing = loose.joints.filter((_, j) => to[j] < 0)
  if (missing.length === loose.joints.length)
    throw new ChiraxisError('bad-weights', 'These weights are for another skeleton: none of their joints is here.')
  const k = loose.skin.influences
  const n = loose.positions.length / 3
  const renamed = emptySkin(n)
  const gather = gatherInto(renamed, skeleton.names.length)
  for (let v = 0; v < n; v++) {
    for (let i = v * k; i < v * k + k; i++) {
      const j = to[loose.skin.joints[i]]
      if (j >= 0 && loose.skin.weights[i] > 0) gather.add(j, loose.skin.weights[i])
    }
    gather.settle(v)
  }
  const vertices = mesh.positions.length / 3
  let same = vertices === n
  for (let i = 0; same && i < mesh.positions.length; i++)
    same = Math.abs(mesh.positions[i] / size - loose.positions[i]) < SAME
  if (same) return { skin: renamed, missing, byPlace: false }
  if (loose.indices.length === 0)
    throw new ChiraxisError(
      'bad-weights',
      'These weights are for another mesh and hold no surface, so they cannot be matched by place.',
    )
  const carried = await carryWeights(
    { positions: loose.positions, indices: loose.indices },
    renamed,
    { positions: mesh.positions.map(x => x / size), indices: mesh.indices },
    skeleton.names.length,
    { thin: false },
  )
  if (carried.told < 0.02 * carried.asked)
    throw new ChiraxisError(
      'bad-weights',
      'These weights lie nowhere near this body; they belong to another figure or pose.',
    )
  return { skin: carried.skin, missing, byPlace: true }
}
