import type { WorkOptions } from '../math'
import type { ImageFile, Material, Mesh, Voxels } from '../mesh'
import type { FileReader, Received } from '../formats'
import type { Finding } from '../findings'
import type { Hands, Landmark } from '../landmarks'
import type { Take } from '../motion'
import type { CanvasGround, LooseWeights } from '../paint'
import type { LostEdit } from '../rig'
import type { Asymmetry, BodyCheck, HalfBody, Straightened, SurfaceFaults } from '../shape'
import type { PlanKind, RoleReading, Skeleton } from '../skeleton'
import type { PieceGuess } from '../pieces'
import type { Bleeding, Skin } from '../skin'
import type { BodySurface } from '../surface'
import type { HandledBody } from '../handles'
import type { HandHold, PropCourse, PropThing } from '../props'
import type { Assessment } from '../strain'
import type { CorrectiveShape, CorrectiveShapes, MadeCorrective } from '../corrective'
import type { Binds, FoundFace } from '../face'
import type { FlatSurface, LightFigure, LightSurface, Tangents } from '../light'
import type { FaceSolution, Heard } from '../voice'
import type { Carried, Corrected, Layered, Performance, Performed } from '../perform'
import type { FileRef, FileSource, GivenSkeleton, Recipe } from '../recipe'
import type { ShapeResult, WholeBody } from './shape-result'
import type { OpenSkin } from './open-skin'

export interface LandmarkResult {
  readonly plan: PlanKind
  readonly found: readonly Landmark[]
  readonly placed: readonly Landmark[]
  readonly hands: Hands
}

export interface RigResult {
  readonly skeleton: Skeleton
  /** Takes that came with the body, on its edited skeleton. */
  readonly takes: readonly Take[]
  /** Skin that came with the body, carried along. */
  readonly skin?: Skin
  /** Edits that could not be made, each with the reason. */
  readonly lost: readonly LostEdit[]
  readonly source: 'plan' | 'received'
}

/** A file with those that came together with it. */
export interface FileSet {
  readonly file: FileRef
  readonly beside: readonly FileRef[]
}

/** Props as they are drawn and held. */
export interface PropsResult {
  readonly hands: readonly HandHold[]
  readonly list: readonly {
    readonly id: string
    readonly thing: PropThing
    readonly materials: readonly Material[]
    readonly images: readonly ImageFile[]
  }[]
}

/** Where props are through a take. */
export interface Carrying {
  readonly courses?: readonly PropCourse[]
}
export type Held = Layered & Carrying

/** A figure's expressions. */
export interface Expressions {
  readonly binds: Binds
  /** Shapes that were made, beside those the body came with. */
  readonly shapes: readonly CorrectiveShape[]
  /** What could not be made, and why. */
  readonly told: readonly string[]
}

/** Images for a light body. */
export interface LightMaps {
  readonly flat: FlatSurface
  readonly images: readonly ImageFile[]
  /** How it looks, its images counted from the first of these. */
  readonly material: Material
  /** How far off the sculpt's normals the baked ones are on average, degrees, and for how much nothing was met. */
  readonly angle: number
  readonly missed: number
}

/** What each step gives. */
export interface StepResults {
  /** A file as it came. */
  read: Received
  /** The body's file, with what was added to it as pieces. */
  received: Received
  /** The body as it came, without what is left out, its half made whole. */
  whole: WholeBody
  /** How the skeleton that came with it is read. */
  reading: RoleReading | undefined
  /** How it is brought upright. */
  stance: Straightened
  /** The body upright, whole, in metres. */
  shape: ShapeResult
  check: BodyCheck
  /** Open rims of the body, the shortest first, and what is wrong with its faces. */
  faults: SurfaceFaults
  asymmetry: Asymmetry
  /** Images that are normal maps by what they show. */
  bumpy: readonly number[]
  /** The half of a body, where it is one. */
  half: HalfBody | undefined
  /** The straightened body without the pieces that came later. */
  bare: Mesh
  /** Landmarks as the search found them. */
  found: { readonly plan: PlanKind; readonly landmarks: readonly Landmark[] }
  hands: Hands
  /** Landmarks with those placed by hand. */
  landmarks: LandmarkResult
  /** A skeleton of another file that may be laid on the body. */
  given: GivenSkeleton | undefined
  /** The skeleton of the plan, or a given one laid on its landmarks, before any edit. */
  planned: Skeleton
  rig: RigResult
  /** Influence across gaps of a skin that came with its body. */
  bleeding: Bleeding | undefined
  /** The body in solid cells, to see what lies in it. */
  solid: Voxels
  /** What every piece is taken for, in the order of the body's parts; none where nobody wants to know. */
  pieces: readonly PieceGuess[]
  /** Weights before any repair: as they came, or worked out piece by piece. */
  automaticSkin: Skin
  /** What repairs of this body's skin start from. */
  ground: CanvasGround
  /** Weights that a file holds, apart from its figure. */
  weights: LooseWeights
  /** The skin laid open, every repair made. */
  openSkin: OpenSkin
  /** The skin as it is delivered. */
  skin: Skin
  /** What one corrective comes to. */
  corrective: MadeCorrective
  /** All shapes the surface takes while joints are turned. */
  correctives: CorrectiveShapes
  /** The places of the face, those told by hand among them; none where there is no face. */
  face: FoundFace | undefined
  /** Which shapes make which expression, and those that were made for it. */
  expressions: Expressions
  /** Triangles of the body that are flesh, and all others. */
  flesh: { readonly flesh: Uint32Array; readonly rest: Uint32Array }
  /** The surface made for moving. */
  light: LightSurface
  /** Images baked for the light body, and how it is laid flat; none where none are asked for. */
  lightMaps: LightMaps | undefined
  /** The light body with its skin and what it wears. */
  lightFigure: LightFigure
  /** What is said by a voice. */
  heard: Heard
  /** Weights of a face that were made elsewhere. */
  solution: FaceSolution
  /** What the skin goes through in the check poses. */
  strain: Assessment
  /** How thick the body is around its bones. */
  bodySurface: BodySurface
  /** Handles, mass and what can touch the ground. */
  handles: HandledBody
  /** A recording made ready on its performer. */
  performance: Performance
  carried: Carried
  corrected: Corrected
  /** With what was changed by hand. */
  layered: Layered
  /** What the file of a prop comes to. */
  prop: PropThing
  /** Everything that shows the figure's props in its hands. */
  props: PropsResult
  /** How the figure's hands hold something. */
  holding: readonly HandHold[]
  /** With props in hands that hold them. */
  held: Held
  /** A take on the figure, whichever way it came. */
  take: Performed & Carrying
  /** Everything the rules find. */
  findings: readonly Finding[]
}
export type StepName = keyof StepResults

/** What a step is asked of, where it is of one thing among many: a file, a take. */
export interface StepParams {
  read: FileSet
  weights: FileRef
  heard: FileRef
  solution: FileRef
  corrective: string
  performance: string
  carried: string
  corrected: string
  layered: string
  prop: string
  held: string
  take: string
  /** Takes that are looked at. */
  findings: readonly string[]
}
export type ParamOf<N extends StepName> = N extends keyof StepParams ? StepParams[N] : undefined

/** What a step's computation is given. */
export interface StepContext<N extends StepName = StepName> {
  readonly recipe: Recipe
  readonly of: ParamOf<N>
  /** Stopping and progress of this step alone. */
  readonly work: WorkOptions
  readonly source: FileSource
  readonly read: FileReader
  /** How tangents are worked out, where images can be baked. */
  readonly tangents: Tangents | undefined
  /** The result of a step this one is declared to depend on. */
  get<M extends StepName>(step: M, ...of: ParamOf<M> extends undefined ? [] : [ParamOf<M>]): Promise<StepResults[M]>
  /**
   * Makes edits again from the longest beginning of the list that was made before.
   * @param start the state before the first edit
   * @param next the state after one more; `fresh` is false where the state is a kept result and must not be changed
   */
  replay<E>(
    path: string,
    start: () => Promise<StepResults[N]>,
    next: (state: StepResults[N], edit: E, fresh: boolean) => Promise<StepResults[N]>,
  ): Promise<StepResults[N]>
}

/** A path in the recipe, or a part of what lies there. */
export type Read = string | { readonly path: string; readonly part: (value: never) => unknown }
export type StepRef = {
  readonly [N in StepName]: readonly [N, ParamOf<N>] | (ParamOf<N> extends undefined ? N : never)
}[StepName]

export interface Step<N extends StepName> {
  /** What of the recipe it depends on; `$` is the thing it is asked of. */
  readonly reads: readonly Read[]
  /** Steps whose results it may ask for. */
  readonly from: readonly StepRef[] | ((recipe: Recipe, of: ParamOf<N>) => readonly StepRef[])
  /** What of the thing it is asked of is not told by the recipe, and so is part of the key. */
  asked?(of: ParamOf<N>): unknown
  /** Whether its result is small beside the work it takes, so that it is worth keeping over the end of the program. */
  readonly lasting?: boolean
  /** About how long it takes beside the others, for progress. */
  readonly weight: number
  compute(context: StepContext<N>): Promise<StepResults[N]>
  /** What of the result takes memory that no other step's result holds; default all of it. */
  sizeOf?(result: StepResults[N]): unknown
}
