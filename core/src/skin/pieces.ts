import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { Mesh } from '../mesh'
import { pieceIndices, withoutPieces } from '../shape'
import { findJoint, type Skeleton } from '../skeleton'
import { bind } from './bind'
import { carryWeights } from './carry-weights'
import { WORKING_INFLUENCES } from './gather'
import { rideRigidly } from './ride-rigidly'
import type { Skin } from './skin'

/** How a piece is to move, as far as weights are concerned. */
export interface PieceTreatment {
  readonly role: string
  readonly joint?: string
}

/**
 * Automatic weights piece by piece: the body is bound as one solid; garments are left out of it and take their weights
 * from what lies beneath, so that a coat does not join the legs; rigid pieces ride on one joint.
 * @param pieces by name; what is not told belongs to the body
 */
export async function skinOfPieces(
  mesh: Mesh,
  skeleton: Skeleton,
  pieces: Readonly<Record<string, PieceTreatment>>,
  options: WorkOptions & { firmness?: number } = {},
): Promise<Skin> {
  const garments = mesh.parts.filter(p => pieces[p.name]?.role === 'garment' && p.count > 0)
  const rest = mesh.parts.filter(p => !garments.includes(p))
  if (garments.length > 0 && !rest.some(p => p.count > 0))
    throw new ChiraxisError(
      'bad-settings',
      'Every piece is a garment, so there is no body to take weights from. Make at least one piece part of the body.',
    )
  const body = garments.length === 0 ? mesh.indices : pieceIndices(mesh, new Set(rest.map(p => p.name)))
  let skin = await bind({ positions: mesh.positions, indices: body }, skeleton, {
    influences: WORKING_INFLUENCES,
    firmness: options.firmness,
    ...partOf(options, 0, garments.length > 0 ? 0.7 : 1),
  })
  for (const [i, g] of garments.entries()) {
    const { mesh: own, from } = withoutPieces(
      mesh,
      new Set(mesh.parts.map(p => p.name).filter(name => name !== g.name)),
    )
    const carried = await carryWeights(
      { positions: mesh.positions, indices: body },
      skin,
      own,
      skeleton.names.length,
      partOf(options, 0.7 + (0.3 * i) / garments.length, 0.7 + (0.3 * (i + 1)) / garments.length),
    )
    const k = WORKING_INFLUENCES
    const joints = skin.joints.slice(),
      weights = skin.weights.slice()
    from!.forEach((v, at) => {
      joints.set(carried.skin.joints.subarray(at * k, at * k + k), v * k)
      weights.set(carried.skin.weights.subarray(at * k, at * k + k), v * k)
    })
    skin = { influences: k, joints, weights }
  }
  for (const p of mesh.parts) {
    const piece = pieces[p.name]
    if (piece?.role === 'rigid' && p.count > 0)
      skin = rideRigidly(
        skin,
        mesh.indices.subarray(p.start, p.start + p.count),
        piece.joint ? findJoint(skeleton, piece.joint) : -1,
      )
  }
  return skin
}
