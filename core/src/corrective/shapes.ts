import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { CanvasGround } from '../paint'
import { findJoint, jointSide, mirrored, type Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { Corrective } from './corrective'
import { driveOf, type Driven } from './drive'
import { shapeFor } from './sculpt'

/** A shape, and the turns of joints that show it in full. */
export interface TurnedShape extends Driven {
  /** 3·V, metres as bound */
  readonly offsets: Float32Array
}

/** A shape of the figure. */
export interface CorrectiveShape extends TurnedShape {
  /** The corrective it was made of. */
  readonly id: string
  /** Its own among all shapes of the figure. */
  readonly name: string
}

export interface CorrectiveShapes {
  readonly shapes: readonly CorrectiveShape[]
  /** Correctives that no longer fit, with the reason. */
  readonly lost: readonly { readonly id: string; readonly reason: string }[]
}
export const NO_SHAPES: CorrectiveShapes = { shapes: [], lost: [] }

/** What one corrective comes to: a shape, or one for either side; or why it no longer fits. */
export interface MadeCorrective {
  readonly sides: readonly (TurnedShape & { readonly side?: 'left' | 'right' })[]
  readonly lost?: string
}

/** Whether a pose turns joints of both sides alike, so that it is its own mirror image. */
export const turnsBothSides = (skeleton: Skeleton, turns: Driven['turns']): boolean =>
  mirrored(skeleton, turns).every(t => turns.some(o => o.joint === t.joint))

/** A corrective as one shape or, where it goes for both sides, as two. */
function sidesOf(
  skeleton: Skeleton,
  corrective: Pick<Corrective, 'turns' | 'keep' | 'mirrored' | 'strokes'>,
): (Pick<Corrective, 'turns' | 'keep' | 'strokes'> & { readonly side?: 'left' | 'right' })[] {
  const { turns, keep, mirrored: both, strokes } = corrective
  const own = { turns, keep, strokes }
  const side = jointSide(skeleton, findJoint(skeleton, turns[0].joint))
  if (!both || side === 'middle' || turnsBothSides(skeleton, turns)) return [own]
  return [
    { ...own, side },
    {
      keep,
      side: side === 'left' ? 'right' : 'left',
      turns: mirrored(skeleton, turns),
      strokes: strokes.map(s => ({
        ...s,
        dabs: s.dabs.map(([x, y, z, nx, ny, nz, p]): (typeof s.dabs)[number] => [-x, y, z, -nx, ny, nz, p]),
      })),
    },
  ]
}

/** Works out one corrective. */
export async function makeCorrective(
  ground: CanvasGround,
  skeleton: Skeleton,
  skin: Skin,
  corrective: Omit<Corrective, 'id' | 'label'>,
  work: WorkOptions = {},
): Promise<MadeCorrective> {
  const missing = corrective.turns.find(t => findJoint(skeleton, t.joint) < 0)
  if (missing) return { sides: [], lost: `the skeleton has no joint ${missing.joint} any more.` }
  const list = sidesOf(skeleton, corrective)
  const sides = []
  for (const [i, { side, ...own }] of list.entries()) {
    const offsets = await shapeFor(ground, skeleton, skin, own, partOf(work, i / list.length, (i + 1) / list.length))
    sides.push({ turns: own.turns, ease: corrective.ease, offsets, ...(side && { side }) })
  }
  return { sides }
}

/** Correctives that were worked out, each shape under a name of its own. @param taken names that others have */
export function nameShapes(
  made: readonly (MadeCorrective & Pick<Corrective, 'id' | 'label'>)[],
  taken: Iterable<string> = [],
): CorrectiveShapes {
  const names = new Set(taken)
  return {
    shapes: made.flatMap(({ id, label, sides }) =>
      sides.map(({ side, ...shape }): CorrectiveShape => {
        const wish = side ? `${label}, ${side}` : label
        let name = wish
        for (let n = 2; names.has(name); n++) name = `${wish} ${n}`
        names.add(name)
        return { id, name, ...shape }
      }),
    ),
    lost: made.flatMap(({ id, lost }) => (lost ? [{ id, reason: lost }] : [])),
  }
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
  shapes: readonly TurnedShape[],
  rotations: ArrayLike<number>,
): Float32Array {
  if (shapes.length === 0) return positions
  return withShapes(positions, shapes, driveOf(skeleton, shapes).weights(rotations))
}

/**
 * How strongly every shape shows through a take.
 * @returns frames times shapes, frame after frame
 */
export function weightsThrough(
  skeleton: Skeleton,
  shapes: readonly Driven[],
  take: { readonly frames: number; readonly rotations: Float32Array },
): Float32Array {
  const drive = driveOf(skeleton, shapes)
  const out = new Float32Array(take.frames * shapes.length)
  for (let f = 0; f < take.frames; f++)
    out.set(drive.weights(take.rotations, f * skeleton.names.length), f * shapes.length)
  return out
}
