import type { GltfDocument, SourceWay } from '../document'
import type { ImageFile, Material, Mesh } from '../mesh'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** What a file held, in the file's own axes and unit (glTF: metres, Y up). */
export interface Received {
  readonly format: 'glb' | 'gltf' | 'obj' | 'ply' | 'stl' | 'fbx' | 'dae' | 'bvh'
  readonly mesh?: Mesh
  readonly materials?: readonly Material[]
  readonly images?: readonly ImageFile[]
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes: readonly Take[]
  /** The file as it came, and the way back to it; of formats that are kept whole. */
  readonly document?: GltfDocument
  readonly way?: SourceWay
  /** Things that were in the file and were not kept, each as a sentence. */
  readonly dropped: readonly string[]
}

/** Files that came together with the one being read, by name: textures, material libraries, buffers. */
export type BesideFiles = ReadonlyMap<string, Uint8Array>

/** The file that a path inside another file means, whatever folder it names. */
export function besideFile(beside: BesideFiles | undefined, path: string): Uint8Array | undefined {
  if (!beside) return undefined
  const wish = decodeName(path)
    .replace(/^.*[\\/]/, '')
    .toLowerCase()
  for (const [name, bytes] of beside) if (name.replace(/^.*[\\/]/, '').toLowerCase() === wish) return bytes
  return undefined
}

function decodeName(path: string): string {
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}
