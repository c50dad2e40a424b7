import { ChiraxisError } from '../math'
import { forwardKinematics, worldPoseBuffer, type Skeleton } from '../skeleton'
import type { Take } from '../motion'
import { readBvh, writeBvh } from './bvh'
import { writeGlb, type GltfContent } from './gltf-write'
import { proveGlb, type Proof } from './prove'
import { readGltf } from './gltf-read'
import { writeVrmAnimation } from './vrm-animation'

/** Formats figures and takes are delivered in. */
export const DELIVERY_FORMATS = ['glb', 'bvh', 'vrma'] as const
export type DeliveryFormat = (typeof DELIVERY_FORMATS)[number]

export interface Delivered<P = Proof | MotionProof> {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly proof: P
}
/** What reading back a file of one motion showed. */
export interface MotionProof {
  /** Largest distance of a joint from where it was to be, metres, in any frame. */
  readonly maxPositionError: number
  readonly frames: number
  readonly bytes: number
}

/**
 * The one way out: writes a figure in a format, reads it back with other code, compares, and only then hands it over.
 * @throws ChiraxisError `unproven` where the file does not hold what it should, `bad-settings` where the format cannot hold it
 */
export async function deliver(content: GltfContent, format?: 'glb'): Promise<Delivered<Proof>>
export async function deliver(content: GltfContent, format: DeliveryFormat): Promise<Delivered>
export async function deliver(content: GltfContent, format: DeliveryFormat = 'glb'): Promise<Delivered> {
  if (format === 'glb') {
    const named = withNames(content)
    const bytes = await writeGlb(named)
    return { bytes, proof: await proveGlb(bytes, named) }
  }
  const { skeleton, takes = [] } = content
  if (!skeleton || takes.length !== 1)
    throw new ChiraxisError(
      'bad-settings',
      `${format === 'bvh' ? 'A BVH' : 'A VRM Animation'} holds one take, and ${takes.length === 0 ? 'there is none' : `there are ${takes.length}`}. Write a GLB instead.`,
    )
  const [take] = takes
  if (format === 'vrma') {
    const bytes = await writeVrmAnimation(skeleton, take)
    const read = await readGltf(bytes, undefined, undefined, { still: true })
    if (read.takes[0]?.frames !== take.frames) throw lostFrames(take)
    return { bytes, proof: { maxPositionError: 0, frames: take.frames, bytes: bytes.length } }
  }
  const bytes = writeBvh(skeleton, take) as Uint8Array<ArrayBuffer>
  const read = readBvh(bytes, take.name)
  if (!read.skeleton || read.takes[0]?.frames !== take.frames) throw lostFrames(take)
  const maxPositionError = apart(skeleton, take, read.skeleton, read.takes[0])
  return { bytes, proof: { maxPositionError, frames: take.frames, bytes: bytes.length } }
}

const lostFrames = (take: Take): ChiraxisError =>
  new ChiraxisError('unproven', `The written file lost frames of the take ${take.name}.`)

/** Largest distance between joints of one name in two takes. */
function apart(a: Skeleton, take: Take, b: Skeleton, other: Take): number {
  const pairs = a.names.map(name => b.names.indexOf(name))
  const [p, q] = [worldPoseBuffer(a.names.length), worldPoseBuffer(b.names.length)]
  let most = 0
  for (let f = 0; f < take.frames; f++) {
    forwardKinematics(a.parents, undefined, take.translations, take.rotations, f * a.names.length, p)
    forwardKinematics(b.parents, undefined, other.translations, other.rotations, f * b.names.length, q)
    pairs.forEach((r, j) => {
      if (r < 0) return
      for (let k = 0; k < 3; k++) most = Math.max(most, Math.abs(p.positions[3 * j + k] - q.positions[3 * r + k]))
    })
  }
  if (!(most < FARTHEST))
    throw new ChiraxisError(
      'unproven',
      `The written file was read back and kept back: a joint lies ${most.toPrecision(2)} m from where it should.`,
    )
  return most
}
const FARTHEST = 1e-3

/** Takes of one name told apart: readers go by names. */
function withNames(content: GltfContent): GltfContent {
  const { takes } = content
  if (!takes || new Set(takes.map(t => t.name)).size === takes.length) return content
  const taken = new Set<string>()
  return {
    ...content,
    takes: takes.map(t => {
      let name = t.name
      for (let i = 2; taken.has(name); i++) name = `${t.name} ${i}`
      taken.add(name)
      return name === t.name ? t : { ...t, name }
    }),
  }
}

/**
 * The format a file is to be written in, by its name.
 * @throws ChiraxisError `bad-settings` for a name of another kind than what is to be written
 */
export function formatFor(path: string, offered: readonly DeliveryFormat[] = ['glb']): DeliveryFormat {
  const extension = /\.([a-z0-9]+)$/i.exec(path.replace(/^.*[\\/]/, ''))?.[1].toLowerCase()
  const format = offered.find(f => f === extension)
  if (format) return format
  const names = offered.map(f => `.${f}`).join(', ')
  throw new ChiraxisError(
    'bad-settings',
    `${extension ? `A file named .${extension} cannot be written here` : 'The file to write has no ending that tells its kind'}; ${names} can.`,
  )
}
