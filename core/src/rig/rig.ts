import type { Mesh } from '../mesh'
import type { Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'

/** A skeleton with what hangs on it. Edits give back a new one in which skin and takes do what they did before. */
export interface Rig {
  readonly skeleton: Skeleton
  readonly mesh?: Mesh
  readonly skin?: Skin
  readonly takes: readonly Take[]
}

export const rigOf = (skeleton: Skeleton): Rig => ({ skeleton, takes: [] })
