import { bodyPart } from '../body'
import { angleOf, ChiraxisError, distance, maxOf, quatAt, vec3At } from '../math'
import type { Take } from '../motion'
import { forwardKinematics, recogniseRoles, worldPoseBuffer, type Skeleton } from '../skeleton'
import { readBvh } from './bvh'
import { checkGltf } from './gltf-check'
import { readGltf } from './gltf-read'
import { keptBack } from './kept-back'

/** What reading back a file of one motion showed. */
export interface MotionProof {
  /** Largest distance of a joint the format places from where it was to be, metres, in any frame. */
  readonly maxPositionError: number
  /** Largest angle between a joint and how it was to be turned, degrees, in any frame; BVH is proved by places alone. */
  readonly maxRotationErrorDegrees?: number
  /** What the format has no place for. */
  readonly notes?: readonly string[]
  readonly frames: number
  readonly bytes: number
}

/** Farther than this no joint may lie from where it was to be, metres. */
const FARTHEST = 1e-3
/** More than this no joint may be turned, degrees. */
const MOST_TURNED = 0.02

const sameFrames = (take: Take, read: Take | undefined): Take => {
  if (read?.frames === take.frames) return read
  throw new ChiraxisError('unproven', `The written file lost frames of the take ${take.name}.`)
}

/**
 * Reads a BVH back and compares where every joint is in every frame.
 * @param unit metres a unit of the file is
 * @throws ChiraxisError `unproven`
 */
export function proveBvh(bytes: Uint8Array, skeleton: Skeleton, take: Take, unit = 1): MotionProof {
  const read = readBvh(bytes, take.name)
  const other = sameFrames(take, read.takes[0])
  if (!read.skeleton) throw keptBack('it holds no skeleton')
  const places = unit * maxOf(apart({ skeleton, take }, { skeleton: read.skeleton, take: other }).places, 0)
  if (!(places < FARTHEST)) throw keptBack(`a joint lies ${places.toPrecision(2)} m from where it should`)
  return { maxPositionError: places, frames: take.frames, bytes: bytes.length }
}

/**
 * Reads a VRM Animation back: the joints it names as the humanoid's are those of the skeleton, each is turned in every frame
 * as it was to be, and the hips are where they were. The format lets no other joint travel; how far that takes joints from
 * where they were is told.
 * @throws ChiraxisError `unproven`
 */
export async function proveVrmAnimation(bytes: Uint8Array, skeleton: Skeleton, take: Take): Promise<MotionProof> {
  const read = await readGltf(bytes, undefined, undefined, { still: true })
  const other = sameFrames(take, read.takes[0])
  const own = read.skeleton
  if (!own) throw keptBack('it holds no skeleton')
  const { json } = checkGltf(bytes)
  const told = (json.extensions as Told | undefined)?.VRMC_vrm_animation?.humanoid?.humanBones ?? {}
  const { joints } = recogniseRoles(skeleton)
  const roles = Object.entries(joints).filter(([role]) => bodyPart(role)?.vrm === true)
  for (const [role, j] of roles) {
    const named = json.nodes?.[told[role]?.node ?? -1]?.name
    if (named !== skeleton.names[j]) throw keptBack(`its ${role} is ${named ?? 'nothing'} and not ${skeleton.names[j]}`)
  }
  const off = apart({ skeleton, take }, { skeleton: own, take: other })
  const turned = maxOf(
    roles.map(([, j]) => off.turns[j]),
    0,
  )
  const hips = off.places[joints.hips]
  if (!(turned < MOST_TURNED))
    throw keptBack(`a joint is turned ${turned.toPrecision(2)} degrees from how it should be`)
  if (!(hips < FARTHEST)) throw keptBack(`the hips lie ${hips.toPrecision(2)} m from where they should`)
  const places = maxOf(off.places, 0)
  return {
    maxPositionError: hips,
    maxRotationErrorDegrees: turned,
    ...(places >= FARTHEST && {
      notes: [
        `Joints travel in this take, which a VRM Animation does not hold: they lie up to ${(100 * places).toFixed(1)} cm elsewhere.`,
      ],
    }),
    frames: take.frames,
    bytes: bytes.length,
  }
}

interface Told {
  readonly VRMC_vrm_animation?: { readonly humanoid?: { readonly humanBones?: Record<string, { node?: number }> } }
}

/** Which joint read each joint written is, by name; those of one name in their order. */
function pairsByName(written: Skeleton, read: Skeleton): number[] {
  const left = new Map<string, number[]>()
  read.names.forEach((n, j) => left.set(n, [...(left.get(n) ?? []), j]))
  return written.names.map(n => left.get(n)?.shift() ?? -1)
}

interface Moved {
  readonly skeleton: Skeleton
  readonly take: Take
}

/** J: largest distance and angle (degrees) in any frame between each joint and the one of its name in another take. */
function apart(a: Moved, b: Moved): { places: Float64Array; turns: Float64Array } {
  const pairs = pairsByName(a.skeleton, b.skeleton)
  const [n, m] = [a.skeleton.names.length, b.skeleton.names.length]
  const [p, q] = [worldPoseBuffer(n), worldPoseBuffer(m)]
  const places = new Float64Array(n)
  const turns = new Float64Array(n)
  for (let f = 0; f < a.take.frames; f++) {
    forwardKinematics(a.skeleton.parents, undefined, a.take.translations, a.take.rotations, f * n, p)
    forwardKinematics(b.skeleton.parents, undefined, b.take.translations, b.take.rotations, f * m, q)
    pairs.forEach((r, j) => {
      if (r < 0) return
      const turn = (angleOf(quatAt(p.rotations, j), quatAt(q.rotations, r)) * 180) / Math.PI
      turns[j] = Math.max(turns[j], turn)
      places[j] = Math.max(places[j], distance(vec3At(p.positions, j), vec3At(q.positions, r)))
    })
  }
  return { places, turns }
}
