import { ChiraxisError, partOf, type WorkOptions } from '../math'
import type { Mesh, MeshPart } from '../mesh'
import { followWhatTheyHangOn, type PieceTreatment } from '../pieces'
import { pieceIndices, withoutPieces } from '../shape'
import { findJoint, type Skeleton } from '../skeleton'
import { bind } from './bind'
import { carryWeights } from './carry-weights'
import { WORKING_INFLUENCES } from './gather'
import { rideRigidly } from './ride-rigidly'
import type { Skin } from './skin'

type Treatments = readonly (PieceTreatment | undefined)[]

/**
 * Automatic weights piece by piece: the body is bound as one solid; garments and strips are left out of it and take their
 * weights from what lies beneath, so that a coat does not join the legs; rigid pieces ride on one joint.
 * @param treatments one a part; what is not told belongs to the body
 */
export async function skinOfPieces(
  mesh: Mesh,
  skeleton: Skeleton,
  treatments: Treatments,
  options: WorkOptions & { firmness?: number } = {},
): Promise<Skin> {
  const body = bodyIndices(mesh, treatments)
  const apart = body.length < mesh.indices.length
  const skin = await bind({ positions: mesh.positions, indices: body }, skeleton, {
    influences: WORKING_INFLUENCES,
    firmness: options.firmness,
    ...partOf(options, 0, apart ? 0.7 : 1),
  })
  return treatPieces(mesh, skeleton, skin, treatments, partOf(options, 0.7, 1))
}

/** A skin with the pieces that are no part of the body moved as they were told to. */
export async function treatPieces(
  mesh: Mesh,
  skeleton: Skeleton,
  given: Skin,
  treatments: Treatments,
  work: WorkOptions = {},
): Promise<Skin> {
  const treated = mesh.parts.flatMap((part, i) => {
    const t = treatments[i]
    return t && part.count > 0 && ['rigid', 'garment', 'strips'].includes(t.role) ? [{ part, ...t }] : []
  })
  if (treated.length === 0) return given
  const body = bodyIndices(mesh, treatments)
  let skin = given
  for (const [i, { part, role, joint }] of treated.entries()) {
    const own = mesh.indices.subarray(part.start, part.start + part.count)
    const step = partOf(work, i / treated.length, (i + 1) / treated.length)
    if (role === 'garment') skin = await dress(mesh, skeleton, skin, body, part, step)
    else if (role === 'strips') skin = await followWhatTheyHangOn(mesh, skin, body, own, step)
    else skin = rideRigidly(skin, own, joint ? findJoint(skeleton, joint) : -1)
  }
  return skin
}

/** Triangles of what others are worn on or hang from. */
function bodyIndices(mesh: Mesh, treatments: Treatments): Uint32Array {
  const worn = (i: number): boolean => treatments[i]?.role === 'garment' || treatments[i]?.role === 'strips'
  const rest = mesh.parts.filter((p, i) => p.count > 0 && !worn(i))
  if (rest.length === 0)
    throw new ChiraxisError(
      'bad-settings',
      'Every piece is a garment, so there is no body to take weights from. Make at least one piece part of the body.',
    )
  if (rest.length === mesh.parts.filter(p => p.count > 0).length) return mesh.indices
  return pieceIndices(mesh, new Set(rest.map(p => p.name)))
}

/** A garment takes the weights of what lies beneath it. */
async function dress(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  body: Uint32Array,
  part: MeshPart,
  work: WorkOptions,
): Promise<Skin> {
  const others = new Set(mesh.parts.map(p => p.name).filter(name => name !== part.name))
  const { mesh: own, from } = withoutPieces(mesh, others)
  const source = { positions: mesh.positions, indices: body }
  const carried = await carryWeights(source, skin, own, skeleton.names.length, work)
  const k = skin.influences
  const c = carried.skin.influences
  const joints = skin.joints.slice(),
    weights = skin.weights.slice()
  from!.forEach((v, at) => {
    // a skin of fewer joints a vertex keeps the strongest: rows come in falling order
    const n = Math.min(k, c)
    joints.fill(0, v * k, v * k + k)
    weights.fill(0, v * k, v * k + k)
    joints.set(carried.skin.joints.subarray(at * c, at * c + n), v * k)
    weights.set(carried.skin.weights.subarray(at * c, at * c + n), v * k)
    let sum = 0
    for (let i = 0; i < k; i++) sum += weights[v * k + i]
    if (sum > 0) for (let i = 0; i < k; i++) weights[v * k + i] /= sum
  })
  return { influences: k, joints, weights }
}
