import type { Received } from '../formats'
import type { Mesh, Weld } from '../mesh'
import type { Straightened, SurfaceEdit } from '../shape'
import type { RoleReading } from '../skeleton'

/** Where a body's vertices and parts were in the body as it was received. */
export interface Lineage {
  /** Which vertex each vertex was, where pieces were left out; of the first half where one was mirrored. */
  readonly from?: Uint32Array
  /** Which part each part was, and whether it is its mirror image. */
  readonly parts: readonly { readonly from: number; readonly mirrored: boolean }[]
  /** The received body's axis across which a half was mirrored. */
  readonly mirror?: 'x' | 'y' | 'z'
}

export interface WholeBody extends Lineage {
  readonly mesh: Mesh
  /** Mendings of the surface that found nothing to mend. */
  readonly lost: readonly SurfaceEdit[]
}

export interface ShapeResult extends Lineage {
  /** Mendings of the surface that found nothing to mend. */
  readonly lost: readonly SurfaceEdit[]
  readonly received: Received
  /** How the skeleton that came with it is read. */
  readonly reading: RoleReading | undefined
  readonly straightened: Straightened
  readonly mesh: Mesh
  readonly weld: Weld
}
