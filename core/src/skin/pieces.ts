import { ChiraxisError, partOf, vec3At, type WorkOptions } from '../math'
import { boundsOf, type Mesh, type MeshPart } from '../mesh'
import { followWhatTheyHangOn, type PieceTreatment } from '../pieces'
import { pieceIndices, withoutPieces } from '../shape'
import { findJoint, jointsAlone, type Skeleton } from '../skeleton'
import { appendageJoints, bindAppendage, nearestAppendage } from './appendage'
import { bind, BIND_DEFAULTS } from './bind'
import { dressOver } from './dress-over'
import { WORKING_INFLUENCES } from './gather'
import { rideRigidly } from './ride-rigidly'
import { withRows, type Skin } from './skin'
import { partWorn, wearShells } from './worn-shells'

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
  const { firmness = BIND_DEFAULTS.firmness } = options
  const body = bodyIndices(mesh, treatments)
  const apart = body.length < mesh.indices.length
  // the flesh of the body does not follow what only an appendage has
  const theirs = appendagesOf(mesh, skeleton, treatments).flatMap(a => appendageJoints(skeleton, a.joint))
  const taken = new Set(theirs.filter(j => !skeleton.roles[j]))
  const own = skeleton.names.flatMap((_, j) => (taken.has(j) ? [] : [j]))
  const their = taken.size > 0 && own.length > 0 ? jointsAlone(skeleton, own) : skeleton
  const { flesh, worn } = await partWorn(mesh, body, their, {
    ...partOf(options, 0, 0.1),
    kept: toldBody(mesh, treatments),
  })
  const naked = await bind({ positions: mesh.positions, indices: flesh }, their, {
    influences: WORKING_INFLUENCES,
    firmness,
    ...partOf(options, 0.1, apart || worn.length > 0 ? 0.7 : 1),
  })
  const bound = await wearShells(mesh, flesh, worn, their, naked, partOf(options, 0.7, 0.8))
  const skin = taken.size > 0 && own.length > 0 ? { ...bound, joints: bound.joints.map(j => own[j]) } : bound
  return treatPieces(mesh, skeleton, skin, treatments, partOf(options, 0.8, 1))
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
    return t && part.count > 0 && TREATED.includes(t.role) ? [{ part, ...t }] : []
  })
  if (treated.length === 0) return given
  const body = bodyIndices(mesh, treatments)
  const hung = new Map(appendagesOf(mesh, skeleton, treatments).map(a => [a.part, a.joint]))
  let skin = given
  for (const [i, { part, role, joint }] of treated.entries()) {
    const own = mesh.indices.subarray(part.start, part.start + part.count)
    const step = partOf(work, i / treated.length, (i + 1) / treated.length)
    if (role === 'garment') skin = await dressOver(mesh.positions, body, own, skeleton, skin, step)
    else if (role === 'appendage') skin = await hang(mesh, skeleton, skin, part, hung.get(part), step)
    else if (role === 'strips') skin = await followWhatTheyHangOn(mesh, skin, body, own, step)
    else skin = rideRigidly(skin, own, joint ? findJoint(skeleton, joint) : -1)
  }
  return skin
}

/**
 * What of a body is flesh, and what is worn, held or hangs from it: garments, strips and appendages, shells worn in one
 * piece with the body, and rigid pieces of a body that is soft. Where most is rigid, as an automaton is, that is its flesh.
 */
export async function fleshOf(
  mesh: Mesh,
  skeleton: Skeleton,
  treatments: Treatments,
  work: WorkOptions = {},
): Promise<{ flesh: Uint32Array; rest: Uint32Array }> {
  const rigid = mesh.parts.flatMap((p, i) => (p.count > 0 && treatments[i]?.role === 'rigid' ? [p] : []))
  const body = bodyIndices(mesh, treatments)
  const hard = rigid.reduce((n, p) => n + p.count, 0)
  const softly = hard > 0 && hard < body.length / 2
  const own = softly
    ? pieceIndices(
        mesh,
        new Set(
          bodyParts(mesh, treatments)
            .filter(p => !rigid.includes(p))
            .map(p => p.name),
        ),
      )
    : body
  const { flesh, worn } = await partWorn(mesh, own, skeleton, { ...work, kept: toldBody(mesh, treatments) })
  const others = mesh.parts.filter(p => p.count > 0 && !bodyParts(mesh, treatments).includes(p))
  const left = [...others, ...(softly ? rigid : [])].map(p => mesh.indices.subarray(p.start, p.start + p.count))
  return { flesh, rest: Uint32Array.from([...left, ...worn.map(w => w.indices)].flatMap(list => [...list])) }
}

/** Triangles of what others are worn on or hang from. */
function bodyIndices(mesh: Mesh, treatments: Treatments): Uint32Array {
  const rest = bodyParts(mesh, treatments)
  if (rest.length === 0)
    throw new ChiraxisError(
      'bad-settings',
      'Every piece is a garment or an appendage, so there is no body to take weights from. Make at least one piece part of the body.',
    )
  if (rest.length === mesh.parts.filter(p => p.count > 0).length) return mesh.indices
  return pieceIndices(mesh, new Set(rest.map(p => p.name)))
}

const bodyParts = (mesh: Mesh, treatments: Treatments): MeshPart[] =>
  mesh.parts.filter((p, i) => p.count > 0 && !['garment', 'strips', 'appendage'].includes(treatments[i]?.role ?? ''))

/** Vertices of pieces that somebody told to be body, whatever they look like. */
function toldBody(mesh: Mesh, treatments: Treatments): Uint8Array {
  const out = new Uint8Array(mesh.positions.length / 3)
  mesh.parts.forEach(({ start, count }, i) => {
    if (treatments[i]?.told) for (let c = start; c < start + count; c++) out[mesh.indices[c]] = 1
  })
  return out
}

/** A piece with joints of its own is bound to them alone; without any it stays as it is. */
async function hang(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  part: MeshPart,
  joint: number | undefined,
  work: WorkOptions,
): Promise<Skin> {
  if (joint === undefined) return skin
  const { own, from } = alone(mesh, part)
  return withRows(skin, await bindAppendage(own, skeleton, joint, work), from)
}

/** One piece of several by itself, and which vertex of the whole each of its own is. */
function alone(mesh: Mesh, part: MeshPart): { own: Mesh; from: Uint32Array } {
  const others = new Set(mesh.parts.map(p => p.name).filter(name => name !== part.name))
  const { mesh: own, from } = withoutPieces(mesh, others)
  return { own, from: from! }
}

const TREATED: readonly string[] = ['rigid', 'garment', 'strips', 'appendage']

/** Pieces that hang on joints of their own, and on which. */
function appendagesOf(mesh: Mesh, skeleton: Skeleton, treatments: Treatments): { part: MeshPart; joint: number }[] {
  return mesh.parts.flatMap((part, i) => {
    const t = treatments[i]
    if (t?.role !== 'appendage' || part.count === 0) return []
    const told = t.joint ? findJoint(skeleton, t.joint) : -1
    const joint = told >= 0 ? told : nearestAppendage(skeleton, placesOf(mesh, part), sizeOf(mesh.positions))
    return joint < 0 ? [] : [{ part, joint }]
  })
}

function placesOf(mesh: Mesh, part: MeshPart): Float32Array {
  const used = new Set(mesh.indices.subarray(part.start, part.start + part.count))
  return Float32Array.from([...used].flatMap(v => vec3At(mesh.positions, v)))
}
const sizeOf = (positions: Float32Array): number => {
  const { min, max } = boundsOf(positions)
  return max[1] - min[1]
}
