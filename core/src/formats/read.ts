import { ChiraxisError, type WorkOptions } from '../math'
import { withOpacity } from './alpha-map'
import { readBvh } from './bvh'
import { checkReceived } from './check-received'
import { isGlb } from './gltf-check'
import type { GltfDecoders } from './gltf-open'
import { readGltf } from './gltf-read'
import { readObj } from './obj'
import { isPly, readPly } from './ply'
import type { BesideFiles, Received } from './received'
import { isBinaryStl, readStl } from './stl'

/** Readers that live outside the core, by file extension: they are loaded when first needed. */
export type OuterReaders = Readonly<Record<string, (bytes: Uint8Array, beside?: BesideFiles) => Promise<Received>>>

/** Reads a file of any kind, here or in a place of its own that can be ended. */
export type FileReader = (
  bytes: Uint8Array,
  fileName: string,
  options?: WorkOptions & { readonly beside?: BesideFiles },
) => Promise<Received>

/** Reads with the readers of this program and these others. */
export const readerWith =
  (readers: OuterReaders, decoders?: Partial<GltfDecoders>): FileReader =>
  (bytes, fileName, options) =>
    readFile(bytes, fileName, { ...options, readers, decoders })

export interface ReadOptions {
  /** Files that came together with this one. */
  readonly beside?: BesideFiles
  readonly readers?: OuterReaders
  readonly decoders?: Partial<GltfDecoders>
}

/**
 * Reads any supported file, told apart by its content first and its name second.
 * @throws ChiraxisError always with a sentence for a person, whatever the bytes
 */
export async function readFile(bytes: Uint8Array, fileName: string, options: ReadOptions = {}): Promise<Received> {
  return refusing(fileName, async () =>
    checkReceived(await withOpacity(await read(ownBytes(bytes), fileName, options))),
  )
}

/** Plain bytes with memory of their own: what lies within a larger buffer is read wrongly by readers that take all of it. */
function ownBytes(bytes: Uint8Array): Uint8Array {
  const { buffer, byteOffset, byteLength } = bytes
  if (byteOffset !== 0 || byteLength !== buffer.byteLength) return new Uint8Array(bytes)
  return bytes.constructor === Uint8Array ? bytes : new Uint8Array(buffer)
}

/** Whatever goes wrong in a reader is told as a refusal. */
async function refusing<T>(fileName: string, run: () => Promise<T>): Promise<T> {
  try {
    return await run()
  } catch (error) {
    if (error instanceof ChiraxisError) throw error
    const tooMuch = error instanceof RangeError && /alloc|length|size/i.test(error.message)
    throw tooMuch
      ? new ChiraxisError(
          'too-large',
          `${fileName} asks for more memory than can be given; it is too large or damaged.`,
        )
      : new ChiraxisError('bad-syntax', `${fileName} could not be read; the file seems to be damaged.`, {
          reason: String(error),
        })
  }
}

async function read(
  bytes: Uint8Array,
  fileName: string,
  { beside, readers = {}, decoders }: ReadOptions,
): Promise<Received> {
  if (bytes.length === 0) throw new ChiraxisError('empty-file', `${fileName} is empty.`)
  const extension = /\.([a-z0-9]+)$/i.exec(fileName)?.[1].toLowerCase() ?? ''
  const stem = fileName.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '')
  const head = new TextDecoder().decode(bytes.subarray(0, 512)).trimStart()
  if (isGlb(bytes)) return await readGltf(bytes, beside, decoders)
  if (extension === 'glb')
    throw new ChiraxisError(
      'wrong-format',
      `${fileName} is named a GLB but is none: its first bytes are not those of a GLB.`,
    )
  if (/^HIERARCHY/i.test(head)) return readBvh(bytes, stem)
  if (extension === 'bvh')
    throw new ChiraxisError('wrong-format', `${fileName} is named a BVH recording but does not start with HIERARCHY.`)
  if (head.startsWith('{')) return await readGltf(bytes, beside, decoders)
  if (extension === 'gltf') throw new ChiraxisError('wrong-format', `${fileName} is named a glTF but holds no JSON.`)
  if (extension === 'obj') {
    if (bytes.subarray(0, 4096).includes(0))
      throw new ChiraxisError('wrong-format', `${fileName} is named an OBJ but holds binary data.`)
    return readObj(bytes, beside)
  }
  if (isPly(bytes)) return readPly(bytes, stem)
  if (extension === 'ply')
    throw new ChiraxisError('wrong-format', `${fileName} is named a PLY but does not start with ply.`)
  const outer =
    /^Kaydara FBX Binary/.test(head) || /^;\s*FBX/i.test(head) ? 'fbx' : /<COLLADA\b/.test(head) ? 'dae' : undefined
  if (outer && readers[outer]) return await readers[outer](bytes, beside)
  if (extension === 'fbx' || extension === 'dae')
    throw new ChiraxisError(
      'wrong-format',
      `${fileName} is named ${extension === 'fbx' ? 'an FBX' : 'a COLLADA'} file but holds something else.`,
    )
  if (extension === 'stl' || isBinaryStl(bytes)) return readStl(bytes, stem)
  throw new ChiraxisError(
    'unknown-format',
    `${fileName} is of a kind that cannot be read. GLB, glTF, OBJ, PLY, STL, FBX, COLLADA and BVH can.`,
  )
}
