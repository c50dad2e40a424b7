import type { Vec3 } from '../math'
import type { Mesh } from '../mesh'
import type { Landmark, LandmarkEdits } from '../landmarks'
import type { Skeleton } from '../skeleton'
import type { Skin } from '../skin'
import type { Straightened } from '../shape'
import type { Performed } from '../transfer'

/** What rules look at; parts that are not worked out yet are left out. */
export interface FindingContext {
  /** Landmarks placed by hand so far. */
  readonly edits?: LandmarkEdits
  /** Whether resting feet are held already. */
  readonly grounded?: boolean
  readonly mesh?: Mesh
  readonly dropped?: readonly string[]
  readonly straightened?: Straightened
  readonly landmarks?: readonly Landmark[]
  readonly skeleton?: Skeleton
  readonly skin?: Skin
  readonly performed?: readonly Performed[]
}

export interface Finding {
  readonly rule: string
  readonly severity: 'error' | 'warning' | 'note'
  readonly value: number
  readonly unit: string
  /** What it is about, in words: a landmark, a joint, a take. */
  readonly where: string
  readonly message: string
  readonly mendable: boolean
  /** What mending will change, in words. */
  readonly remedy?: string
  /** Part to choose on the figure. */
  readonly target?: string
  readonly place?: Vec3
}

/** A change of what was decided that mends a finding. */
export interface Remedy { readonly edits?: LandmarkEdits; readonly ground?: boolean }

/** One known mismatch: how it is found, and what change mends it. */
export interface Rule {
  readonly id: string
  detect(context: FindingContext): Finding[]
  /** The change that mends a finding, or undefined where there is none. */
  mend?(finding: Finding, context: FindingContext): Remedy | undefined
}
