import { ChiraxisError } from '../math'
import type { Mesh } from '../mesh'
import { packGlb, splitGltf } from '../document'
import { deform, type Skin } from '../skin'
import { toldApart, worldPose, type Skeleton } from '../skeleton'
import { writeBvh, type WriteBvhOptions } from './bvh'
import { converted, OWN_AXES, type FileAxes } from './convert'
import { openGltf } from './gltf-open'
import { gltfOf, writeGlb, type GltfContent } from './gltf-write'
import { proveGlb, type Proof } from './prove'
import { proveBvh, proveVrmAnimation, type MotionProof } from './prove-motion'
import { proveObj } from './prove-obj'
import { proveUsd, type SceneProof } from './prove-usd'
import { writeVrmAnimation } from './vrm-animation'
import { writeObj, type FileBeside } from './write-obj'
import { writeUsd } from './write-usd'
import { proveHumanoid, saidToBeVrm, vrmOf, type VrmMeta } from './write-vrm'

/** Formats figures and takes are delivered in, and what each can hold; into some the document a figure came in is written whole. */
export const FORMATS = {
  glb: { holds: ['body', 'motion'], takes: 'many', axes: false, document: true },
  gltf: { holds: ['body', 'motion'], takes: 'many', axes: false, document: true },
  vrm: { holds: ['body', 'motion'], takes: 'many', axes: false, document: true },
  vrma: { holds: ['motion'], takes: 'one', axes: false, document: false },
  bvh: { holds: ['motion'], takes: 'one', axes: true, document: false },
  usda: { holds: ['body', 'motion'], takes: 'many', axes: true, document: false },
  obj: { holds: ['body'], takes: 'none', axes: true, document: false },
} as const
export type DeliveryFormat = keyof typeof FORMATS
export const DELIVERY_FORMATS = Object.keys(FORMATS) as DeliveryFormat[]

export interface DeliverOptions {
  /** Axes and unit, of formats that leave them open. */
  readonly axes?: FileAxes
  /** In which order a BVH tells turns. */
  readonly order?: WriteBvhOptions['order']
  /** A moment of the first take a surface alone is written in; left out, at rest. */
  readonly frame?: number
  /** Who made it, for formats that tell. */
  readonly meta?: VrmMeta
  /** What files beside it are called after, without an ending. */
  readonly stem?: string
}

export interface Delivered<P = Proof | MotionProof | SceneProof> {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly proof: P
  /** Files that belong to it: data, images, material libraries. */
  readonly beside?: readonly FileBeside[]
}
/**
 * The one way out: writes a figure in a format, reads it back with other code, compares, and only then hands it over.
 * @throws ChiraxisError `unproven` where the file does not hold what it should, `bad-settings` where the format cannot hold it
 */
export async function deliver(content: GltfContent, format?: 'glb'): Promise<Delivered<Proof>>
export async function deliver(
  content: GltfContent,
  format: DeliveryFormat,
  options?: DeliverOptions,
): Promise<Delivered>
export async function deliver(
  content: GltfContent,
  format: DeliveryFormat = 'glb',
  { axes = OWN_AXES, order, frame, meta, stem = stemOf(content.name) }: DeliverOptions = {},
): Promise<Delivered> {
  if (format === 'glb') {
    const named = withNames(content)
    const bytes = await writeGlb(named)
    return { bytes, proof: await proveGlb(bytes, named) }
  }
  if (format === 'vrm') {
    const named = withNames(content)
    const document = vrmOf(named, meta)
    const bytes = packGlb(document)
    proveHumanoid((await openGltf(bytes)).document.json, named)
    return { bytes, proof: await proveGlb(bytes, saidToBeVrm(named, document)) }
  }
  if (format === 'gltf') {
    const named = withNames(content)
    const { bytes, beside } = splitGltf(gltfOf(named), stem)
    // read as anybody would: the description with its files beside it
    const { document } = await openGltf(bytes, new Map(beside.map(f => [f.name, f.bytes])))
    return { bytes, beside, proof: { ...(await proveGlb(packGlb(document), named)), bytes: bytes.length } }
  }
  if (format === 'obj') {
    const { mesh } = content
    if (!mesh)
      throw new ChiraxisError('bad-settings', 'An OBJ holds a surface, and there is none. Write another format.')
    const turned = converted({ ...content, mesh: { ...posed(mesh, content, frame), morphs: undefined } }, axes)
    const { bytes, beside } = writeObj(stem, turned.mesh!, content.materials, content.images)
    return { bytes, beside, proof: proveObj(bytes, beside, turned.mesh!, axes.unit) }
  }
  if (format === 'usda') {
    const turned = withNames(converted(content, axes))
    const { bytes, beside } = writeUsd(turned, axes, stem)
    return { bytes, beside, proof: proveUsd(bytes, turned, axes) }
  }
  const { skeleton, takes = [] } = content
  if (!skeleton || takes.length !== 1)
    throw new ChiraxisError(
      'bad-settings',
      `${format === 'bvh' ? 'A BVH' : 'A VRM Animation'} holds one take, and ${takes.length === 0 ? 'there is none' : `there are ${takes.length}`}. Write a GLB instead.`,
    )
  if (format === 'vrma') {
    const bytes = await writeVrmAnimation(skeleton, takes[0])
    return { bytes, proof: await proveVrmAnimation(bytes, skeleton, takes[0]) }
  }
  const turned = converted({ name: content.name, skeleton, takes }, axes)
  const bytes = writeBvh(turned.skeleton, turned.takes[0], { order }) as Uint8Array<ArrayBuffer>
  return { bytes, proof: proveBvh(bytes, turned.skeleton, turned.takes[0], axes.unit) }
}

/** A name as files may bear it. */
export const stemOf = (name: string): string =>
  name
    .normalize('NFC')
    .replace(/[\\/:*?"<>|\p{C}]+/gu, ' ')
    .trim()
    .replace(/[. ]+$/, '') || 'figure'

/** A surface in a moment of the first take; at rest where none is told. */
function posed(
  mesh: Mesh,
  { skeleton, skin, takes = [] }: { skeleton?: Skeleton; skin?: Skin; takes?: GltfContent['takes'] },
  frame: number | undefined,
): Mesh {
  const [take] = takes
  if (frame === undefined || !take || !skeleton || !skin) return mesh
  const f = Math.min(take.frames - 1, Math.max(0, Math.round(frame)))
  const pose = worldPose(skeleton, take.translations, take.rotations, f * skeleton.names.length)
  // normals are told anew by the surface as it is then
  return { ...mesh, positions: deform(mesh.positions, skeleton, skin, pose), normals: undefined }
}

/** Takes of one name told apart: readers go by names. */
function withNames<C extends GltfContent>(content: C): C {
  const { takes = [] } = content
  const names = toldApart(takes.map(t => t.name))
  if (takes.every((t, i) => t.name === names[i])) return content
  return { ...content, takes: takes.map((t, i) => (t.name === names[i] ? t : { ...t, name: names[i] })) }
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
