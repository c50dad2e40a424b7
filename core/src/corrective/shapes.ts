import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { CanvasGround } from '../paint'
import { findJoint, jointSide, mirrored, type PoseTurn, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { Corrective } from './corrective'
import { driveOf } from './drive'
import { shapeFor } from './sculpt'

/** A shape the body takes while joints are turned. */
export interface CorrectiveShape {
  /** The corrective it was made of. */
  readonly id: string
  /** Its own among all shapes of the figure. */
  readonly name: string
  readonly turns: readonly PoseTurn[]
  /** 3·V, metres as bound */
  readonly offsets: Float32Array
}

export interface CorrectiveShapes {
  readonly shapes: readonly CorrectiveShape[]
  /** Correctives that no longer fit, with the reason. */
  readonly lost: readonly { readonly id: string; readonly reason: string }[]
}
export const NO_SHAPES: CorrectiveShapes = { shapes: [], lost: [] }

/** A corrective as one shape or, where it goes for both sides, as two. */
function sidesOf(skeleton: Skeleton, corrective: Corrective): (Corrective & { readonly name: string })[] {
  const { turns, label } = corrective
  const side = jointSide(skeleton, findJoint(skeleton, turns[0].joint))
  if (!corrective.mirrored || side === 'middle') return [{ ...corrective, name: label }]
  const other = mirrored(skeleton, turns)
  const own = new Set(turns.map(t => t.joint))
  // a pose that turns both sides is its own mirror image
  if (other.every(t => own.has(t.joint))) return [{ ...corrective, name: label }]
  return [
    { ...corrective, name: `${label}, ${side}` },
    {
      ...corrective,
      name: `${label}, ${side === 'left' ? 'right' : 'left'}`,
      turns: other,
      strokes: corrective.strokes.map(s => ({
        ...s,
        dabs: s.dabs.map(([x, y, z, nx, ny, nz, p]): (typeof s.dabs)[number] => [-x, y, z, -nx, ny, nz, p]),
      })),
    },
  ]
}

/** Works out the shapes of all correctives. @param taken names that others have */
export async function makeShapes(
  ground: CanvasGround,
  skeleton: Skeleton,
  skin: Skin,
  correctives: readonly Corrective[],
  taken: Iterable<string> = [],
  work: WorkOptions = {},
): Promise<CorrectiveShapes> {
  const names = new Set(taken)
  const shapes: CorrectiveShape[] = []
  const lost: { id: string; reason: string }[] = []
  for (const [i, corrective] of correctives.entries()) {
    const missing = corrective.turns.find(t => findJoint(skeleton, t.joint) < 0)
    if (missing) {
      lost.push({ id: corrective.id, reason: `the skeleton has no joint ${missing.joint} any more.` })
      continue
    }
    const part = partOf(work, i / correctives.length, (i + 1) / correctives.length)
    for (const { name: wish, turns, ...rest } of sidesOf(skeleton, corrective)) {
      let name = wish
      for (let n = 2; names.has(name); n++) name = `${wish} ${n}`
      names.add(name)
      const offsets = await shapeFor(ground, skeleton, skin, { ...rest, turns }, part)
      shapes.push({ id: corrective.id, name, turns, offsets })
    }
  }
  return { shapes, lost }
}

/** The body as bound with shapes on it, each as strongly as told; the body itself where none shows. */
export function withShapes(
  positions: Float32Array,
  shapes: readonly Pick<CorrectiveShape, 'offsets'>[],
  weights: ArrayLike<number>,
): Float32Array {
  if (!shapes.some((_, s) => weights[s] > 0)) return positions
  const out = positions.slice()
  shapes.forEach(({ offsets }, s) => {
    const w = weights[s]
    if (!(w > 0)) return
    if (offsets.length !== out.length)
      throw new ChiraxisError('bad-input', 'A shape and the body it is for have different numbers of vertices.')
    for (let i = 0; i < out.length; i++) out[i] += w * offsets[i]
  })
  return out
}

/** The body as bound, corrected for a pose. @param rotations 4·J, local */
export function correctedFor(
  positions: Float32Array,
  skeleton: Skeleton,
  shapes: readonly CorrectiveShape[],
  rotations: ArrayLike<number>,
): Float32Array {
  if (shapes.length === 0) return positions
  return withShapes(
    positions,
    shapes,
    driveOf(
      skeleton,
      shapes.map(s => s.turns),
    ).weights(rotations),
  )
}

/**
 * How strongly every shape shows through a take.
 * @returns frames times shapes, frame after frame
 */
export function weightsThrough(
  skeleton: Skeleton,
  shapes: readonly Pick<CorrectiveShape, 'turns'>[],
  take: { readonly frames: number; readonly rotations: Float32Array },
): Float32Array {
  const drive = driveOf(
    skeleton,
    shapes.map(s => s.turns),
  )
  const out = new Float32Array(take.frames * shapes.length)
  for (let f = 0; f < take.frames; f++)
    out.set(drive.weights(take.rotations, f * skeleton.names.length), f * shapes.length)
  return out
}
