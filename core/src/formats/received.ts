import type { Mesh } from '../mesh'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** What a file held, in the file's own axes and unit (glTF: metres, Y up). */
export interface Received {
  readonly format: 'glb' | 'gltf' | 'obj' | 'bvh'
  readonly mesh?: Mesh
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes: readonly Take[]
  /** Things that were in the file and were not kept, each as a sentence. */
  readonly dropped: readonly string[]
}
