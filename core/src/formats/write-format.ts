import { packGlb, splitGltf } from '../document'
import { ChiraxisError } from '../math'
import type { Mesh } from '../mesh'
import { isPlain, packed, PLAIN_PACKING, type Packing } from '../packing'
import { toldApart, worldPose, type Skeleton } from '../skeleton'
import { deform, type Skin } from '../skin'
import { writeBvh, type WriteBvhOptions } from './bvh'
import { converted, OWN_AXES, type FileAxes } from './convert'
import type { DeliveryFormat } from './format-table'
import { openGltf } from './gltf-open'
import { gltfOf, type GltfContent } from './gltf-write'
import { proveGlb, type Proof } from './prove'
import { proveBvh, proveVrmAnimation, type MotionProof } from './prove-motion'
import { proveObj } from './prove-obj'
import { provePacked } from './prove-packed'
import { proveUsd, type SceneProof } from './prove-usd'
import { stemOf } from './stem'
import { writeVrmAnimation } from './vrm-animation'
import { writeObj, type FileBeside } from './write-obj'
import { writeUsd } from './write-usd'
import { proveHumanoid, saidToBeVrm, vrmOf, type VrmMeta } from './write-vrm'

export interface WriteOptions {
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
  /** How small a glTF is made; left out, it is written as it is. */
  readonly packing?: Packing
}

/** A file that was written, and how it is proven. */
export interface Written {
  readonly bytes: Uint8Array<ArrayBuffer>
  /** Files that belong to it: data, images, material libraries. */
  readonly beside?: readonly FileBeside[]
  /** What could not be done as it was asked. */
  readonly notes?: readonly string[]
  /**
   * Reads it back with other code and compares.
   * @throws ChiraxisError `unproven` where it does not hold what it should
   */
  readonly prove: () => Promise<Proof | MotionProof | SceneProof>
}

/**
 * Writes a figure in a format.
 * @throws ChiraxisError `bad-settings` where the format cannot hold it
 */
export async function writeFormat(
  content: GltfContent,
  format: DeliveryFormat,
  { axes = OWN_AXES, order, frame, meta, packing, stem = stemOf(content.name) }: WriteOptions = {},
): Promise<Written> {
  if (format === 'glb' || format === 'gltf' || format === 'vrm')
    return writeDocument(withNames(content), format, { meta, stem, packing })
  if (format === 'obj') {
    const { mesh } = content
    if (!mesh)
      throw new ChiraxisError('bad-settings', 'An OBJ holds a surface, and there is none. Write another format.')
    const turned = converted({ ...content, mesh: { ...posed(mesh, content, frame), morphs: undefined } }, axes)
    const { bytes, beside } = writeObj(stem, turned.mesh!, content.materials, content.images)
    return { bytes, beside, prove: async () => proveObj(bytes, beside, turned.mesh!, axes.unit) }
  }
  if (format === 'usda') {
    const turned = withNames(converted(content, { ...axes, left: false }))
    const { bytes, beside } = writeUsd(turned, axes, stem)
    return { bytes, beside, prove: async () => proveUsd(bytes, turned, axes) }
  }
  const { skeleton, takes = [] } = content
  if (!skeleton || takes.length !== 1)
    throw new ChiraxisError(
      'bad-settings',
      `${format === 'bvh' ? 'A BVH' : 'A VRM Animation'} holds one take, and ${takes.length === 0 ? 'there is none' : `there are ${takes.length}`}. Write a GLB instead.`,
    )
  if (format === 'vrma') {
    const bytes = await writeVrmAnimation(skeleton, takes[0])
    return { bytes, prove: () => proveVrmAnimation(bytes, skeleton, takes[0]) }
  }
  const turned = converted({ name: content.name, skeleton, takes }, axes)
  const bytes = writeBvh(turned.skeleton, turned.takes[0], { order }) as Uint8Array<ArrayBuffer>
  return { bytes, prove: async () => proveBvh(bytes, turned.skeleton, turned.takes[0], axes.unit) }
}

/** A glTF is proven as it is; where it is made smaller, that is proven against it. */
async function writeDocument(
  content: GltfContent,
  format: 'glb' | 'gltf' | 'vrm',
  { meta, stem, packing = PLAIN_PACKING }: WriteOptions & { readonly stem: string },
): Promise<Written> {
  const exact = format === 'vrm' ? vrmOf(content, meta) : gltfOf(content)
  const meant = format === 'vrm' ? saidToBeVrm(content, exact) : content
  async function proveWhole(whole: Uint8Array): Promise<Proof> {
    if (format === 'vrm') proveHumanoid((await openGltf(whole)).document.json, content)
    return proveGlb(whole, meant)
  }
  const plain = isPlain(packing)
  if (plain && format !== 'gltf') {
    const bytes = packGlb(exact)
    return { bytes, prove: () => proveWhole(bytes) }
  }
  const small = plain ? { document: exact, beside: [], notes: [] } : await packed(exact, packing, stem)
  const split = format === 'gltf' ? splitGltf(small.document, stem) : { bytes: packGlb(small.document), beside: [] }
  const beside = [...split.beside, ...small.beside]
  const there = new Map(beside.map(f => [f.name, f.bytes]))
  const { bytes } = split
  async function prove(): Promise<Proof> {
    if (!plain)
      return { ...(await proveWhole(packGlb(exact))), packed: await provePacked(bytes, there, exact, packing), bytes: bytes.length } // prettier-ignore
    // read as anybody would: the description with its files beside it
    const { document } = await openGltf(bytes, there)
    return { ...(await proveGlb(packGlb(document), meant)), bytes: bytes.length }
  }
  return { bytes, ...(beside.length > 0 && { beside }), notes: small.notes, prove }
}

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
