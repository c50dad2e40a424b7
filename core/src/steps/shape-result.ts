import type { Received } from '../formats'
import type { Mesh, Weld } from '../mesh'
import type { Straightened } from '../shape'

export interface WholeBody {
  readonly mesh: Mesh
  /** Which vertex of the received body each vertex was, where pieces were left out. */
  readonly from?: Uint32Array
}

export interface ShapeResult {
  readonly received: Received
  readonly straightened: Straightened
  readonly mesh: Mesh
  readonly weld: Weld
  /** Which vertex of the received body each vertex was, where pieces were left out. */
  readonly from?: Uint32Array
}
