import { ChiraxisError } from '../math'
import { writeBvh } from './bvh'
import { writeGlb, type GltfContent } from './gltf-write'
import { proveGlb, type Proof } from './prove'
import { proveBvh, proveVrmAnimation, type MotionProof } from './prove-motion'
import { writeVrmAnimation } from './vrm-animation'

/** Formats figures and takes are delivered in. */
export const DELIVERY_FORMATS = ['glb', 'bvh', 'vrma'] as const
export type DeliveryFormat = (typeof DELIVERY_FORMATS)[number]

export interface Delivered<P = Proof | MotionProof> {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly proof: P
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
    return { bytes, proof: await proveVrmAnimation(bytes, skeleton, take) }
  }
  const bytes = writeBvh(skeleton, take) as Uint8Array<ArrayBuffer>
  return { bytes, proof: proveBvh(bytes, skeleton, take) }
}

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
