import { ChiraxisError } from '../math'
import type { DeliveryFormat } from './format-table'
import type { GltfContent } from './gltf-write'
import type { Proof } from './prove'
import type { MotionProof } from './prove-motion'
import type { SceneProof } from './prove-usd'
import { writeFormat, type Written, type WriteOptions } from './write-format'

/** A file that is handed over although it does not hold what it should, and why in words. */
export interface Unproven {
  readonly unproven: string
  readonly bytes: number
}

export interface DeliverOptions extends WriteOptions {
  /** Hand the file over although its proof fails; that it did is told in place of the proof. */
  readonly insist?: boolean
}

export interface Delivered<P = Proof | MotionProof | SceneProof | Unproven> extends Omit<Written, 'prove'> {
  readonly proof: P
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
  { insist, ...options }: DeliverOptions = {},
): Promise<Delivered> {
  const { prove, ...written } = await writeFormat(content, format, options)
  try {
    return { ...written, proof: await prove() }
  } catch (error) {
    if (!insist || !(error instanceof ChiraxisError) || error.code !== 'unproven') throw error
    return {
      ...written,
      notes: [...(written.notes ?? []), `Handed over although its proof failed: ${error.message}`],
      proof: { unproven: error.message, bytes: written.bytes.length },
    }
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
