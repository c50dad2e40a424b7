import type { Vec3, WorkOptions } from '../math'
import type { ImageFile, Material, Mesh, Voxels, Weld } from '../mesh'
import type { Landmark, LandmarkEdits } from '../landmarks'
import type { LostSkinEdit, SkinEdit } from '../paint'
import type { LostEdit, RigEdit } from '../rig'
import type { Doubt, Skeleton } from '../skeleton'
import type { Bleeding, Skin } from '../skin'
import type { BodyCheck, HalfBody, StraightenChoice, Straightened } from '../shape'
import type { Performed } from '../perform'
import type { PropCourse } from '../props'
import type { StatesDocument } from '../trial'

/** What rules look at; parts that are not worked out yet are left out. */
export interface FindingContext {
  /** Landmarks placed by hand so far. */
  readonly edits?: LandmarkEdits
  /** Whether resting feet are held already. */
  readonly grounded?: boolean
  /** The file is looked at as it came: what straightening mends is still to be mended. */
  readonly asReceived?: boolean
  readonly mesh?: Mesh
  /** Vertices of the mesh at one place, seen as one; worked out by whoever needs it where left out. */
  readonly weld?: Weld
  readonly dropped?: readonly string[]
  readonly straightened?: Straightened
  readonly check?: BodyCheck
  readonly half?: HalfBody
  readonly materials?: readonly Material[]
  readonly images?: readonly ImageFile[]
  /** Images that look like normal maps, by place, and materials already settled so. */
  readonly bumpy?: readonly number[]
  readonly normalMaps?: readonly string[]
  readonly landmarks?: readonly Landmark[]
  readonly skeleton?: Skeleton
  /** Whether the skeleton came with the body or was built by a plan. */
  readonly source?: 'plan' | 'received'
  /** Whether it was built here by a plan of our own and then changed by hand. */
  readonly edited?: boolean
  /** What is in doubt about how that skeleton was read. */
  readonly doubts?: readonly Doubt[]
  readonly solid?: Voxels
  /** Skin that came with the body. */
  readonly skin?: Skin
  readonly bleeding?: Bleeding
  /** Joints a vertex may follow. */
  readonly influences?: number
  readonly lost?: readonly LostEdit[]
  /** Repairs of the skin that no longer fit. */
  readonly lostSkin?: readonly LostSkinEdit[]
  /** Choices about pieces, materials and joints that are not there any more. */
  readonly lostChoices?: readonly { readonly where: string; readonly reason: string }[]
  /** How the figure behaves in a trial, where that was told. */
  readonly states?: StatesDocument
  readonly performed?: readonly (Performed & { readonly courses?: readonly PropCourse[] })[]
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
  /** Part to choose on the figure: a landmark, a joint, a piece, a take. */
  readonly target?: string
  readonly place?: Vec3
  /** Takes it is found in, where it is one thing found in several, the worst first. */
  readonly takes?: readonly string[]
}

/** A change of what was decided that mends a finding. */
export interface Remedy {
  /** Repairs of the skin to add. */
  readonly skin?: readonly SkinEdit[]
  readonly edits?: LandmarkEdits
  readonly ground?: boolean
  readonly rig?: readonly RigEdit[]
  readonly straighten?: StraightenChoice
  readonly cleanFaces?: boolean
  readonly mirrorHalf?: 'left' | 'right'
  readonly normalMap?: string
  readonly influences?: number
  readonly leaveOut?: string
}

/** One known mismatch: how it is found, and what change mends it. */
export interface Rule {
  readonly id: string
  /** Long looks let messages in by `work`. */
  detect(context: FindingContext, work?: WorkOptions): Finding[] | Promise<Finding[]>
  /** The change that mends a finding, or undefined where there is none. */
  mend?(finding: Finding, context: FindingContext): Remedy | undefined
}

/** Values told to a person carry no more digits than they mean. */
export const rounded = (v: number, digits = 1): number => Math.round(v * 10 ** digits) / 10 ** digits
