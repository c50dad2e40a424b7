import type { Driven } from '../corrective'
import type { Binds } from '../face'
import type { Mat4 } from '../math'
import type { Mesh } from '../mesh'
import type { Take, Thinning } from '../motion'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { GltfDocument, SourceWay } from './gltf'
import type { PropToWrite } from './write-props'

/** What the file held when it was read, and how the figure that is to be written came from it. */
export interface SourceFigure {
  readonly document: GltfDocument
  readonly way: SourceWay
  readonly mesh?: Mesh
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes: readonly Take[]
  /** Straightening: from the file's space into the figure's. */
  readonly matrix: Mat4
  /** Which vertex of the file each of the figure's was, where pieces were left out; of the first half where one was mirrored. */
  readonly from?: Uint32Array
  /** Which part of the file each of the figure's was, and whether it is its mirror image. */
  readonly parts: readonly { readonly from: number; readonly mirrored: boolean }[]
  /** The axis of the file across which a half was mirrored. */
  readonly mirror?: 'x' | 'y' | 'z'
  /** Which joint of the file each joint of the figure was, -1 for new ones. */
  readonly joints: readonly number[]
  /** Roles of the figure's joints as they were before anybody changed them. */
  readonly roles?: readonly (string | undefined)[]
  /** Which take of the file each take of the figure was, -1 for others. */
  readonly takeFrom: readonly number[]
}

/** A shape of the surface that turning joints bring on or, where it names none, expressions of takes. */
export interface DrivenShape extends Driven {
  /** Its own among all shapes of the figure. */
  readonly name: string
  /** 3·V, metres in the figure's space as bound */
  readonly offsets: Float32Array
}

/** A figure that is to be written into the document it came from. */
export interface FigureToWrite {
  readonly name: string
  readonly mesh?: Mesh
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly takes: readonly Take[]
  /** Shapes that turning joints bring on. */
  readonly shapes?: readonly DrivenShape[]
  /** Which shapes make which expression, for faces of takes. */
  readonly expressions?: Binds
  /** How far keys of takes may stray when some are left out; every frame is written where it is left out. */
  readonly thinning?: Thinning
  /** What it carries. */
  readonly props?: readonly PropToWrite[]
  /** Materials whose colour image is the normal map it is meant to be. */
  readonly normalMaps: readonly string[]
  readonly source: SourceFigure
}
