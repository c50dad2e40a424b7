import type { ReadonlyQuat, ReadonlyVec3 } from '../math'

/** Something asked of a joint: where a point of it is to be, how it is to be turned, or both. */
export interface Goal {
  readonly joint: number
  /** The point, in the joint's own space; left out, the joint itself. */
  readonly point?: ReadonlyVec3
  /** Where the point is to be, in the skeleton's space, metres. */
  readonly place?: ReadonlyVec3
  /** How the joint is to be turned in the skeleton's space. */
  readonly turn?: ReadonlyQuat
  /** What is held is kept before what is pulled. */
  readonly strength: 'hold' | 'pull'
}

/** Asks for the centre of mass to come above or below a place. */
export interface MassGoal {
  /** J: mass of what each joint carries, and 3·J: its centre in the joint's own space. */
  readonly masses: ArrayLike<number>
  readonly centres: ArrayLike<number>
  readonly place: ReadonlyVec3
}

export interface FigurePose {
  /** 3·J and 4·J, local. */
  readonly translations: Float32Array
  readonly rotations: Float32Array
}

/** How far a goal is from being met. */
export interface Residual {
  /** Metres; 0 where no place was asked. */
  readonly place: number
  /** Radians; 0 where no turn was asked. */
  readonly turn: number
}
