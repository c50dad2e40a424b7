import type { LightFigure, LightReport } from '@chiraxis/core/light'
import type { BatchSettings, TransferJobResult } from '@chiraxis/core/batch'
import type { Finding, Remedy } from '@chiraxis/core/findings'
import type { ArchivedFile, Profile } from '@chiraxis/core/delivery'
import type { Vec3 } from '@chiraxis/core/math'
import type { ImageFile, LightParts, Material, Mesh } from '@chiraxis/core/mesh'
import type { Take, Contacts } from '@chiraxis/core/motion'
import type { AttachChoice, FileRef, GivenSkeleton, Recipe, RecipePatch, TakeRef } from '@chiraxis/core/recipe'
import type {
  ArrivalGuess,
  Expressions,
  FileSet,
  Guest,
  LandmarkResult,
  PropsResult,
  RigResult,
  TrialClips,
} from '@chiraxis/core/steps'
import type { Asymmetry, BodyCheck, Straightened, SurfaceFaults } from '@chiraxis/core/shape'
import type { RoleReading, Skeleton } from '@chiraxis/core/skeleton'
import type { BodyKind } from '@chiraxis/core/body'
import type { LostSkinEdit } from '@chiraxis/core/paint'
import type { PieceGuess } from '@chiraxis/core/pieces'
import type { Skin } from '@chiraxis/core/skin'
import type { Assessment, Blending, StrainKind, StrainRange } from '@chiraxis/core/strain'
import type { TransferMeasures, Sliding } from '@chiraxis/core/retarget'
import type { Comparison, Travelled } from '@chiraxis/core/perform'
import type { HandHolds } from '@chiraxis/core/correct'
import type { CorrectiveShapes } from '@chiraxis/core/corrective'
import type { FoundFace } from '@chiraxis/core/face'
import type { FaceSolution, Heard } from '@chiraxis/core/voice'
import type { HandledBody } from '@chiraxis/core/handles'
import type { Prop, PropCourse } from '@chiraxis/core/props'

export interface ShapeAnswer {
  mesh: Mesh
  straightened: Straightened
  format: string
  dropped: readonly string[]
  materials: readonly Material[]
  images: readonly ImageFile[]
  /** All pieces of the body as received, those left out included. */
  pieces: readonly { name: string; aka?: readonly string[]; triangles: number; material?: number }[]
  /** Joints of the skeleton that came with the body. */
  joints?: number
}
export interface RigAnswer extends Omit<RigResult, 'skin' | 'takes'> {
  /** Whether a skin came with the body. */
  readonly skinned: boolean
  /** Takes that came with the body. */
  readonly takes: readonly { id: string; name: string; seconds: number }[]
  /** How a skeleton that came with the body was read; doubts tell joints of the skeleton as it is now. */
  readonly reading?: Pick<RoleReading, 'kind' | 'by' | 'confidence' | 'doubts'>
  /** The skeleton of another file that is laid on the body. */
  readonly given?: GivenSkeleton
}
export interface SkinAnswer {
  readonly skin: Skin
  readonly lost: readonly LostSkinEdit[]
}
export interface TakeAnswer {
  take: Take
  /** The take before anything was changed by hand, where something was. */
  below?: Take
  /** From the figure's skeleton to its body's own frame. */
  figureFrame: [number, number, number, number]
  performer: Skeleton
  performerTake: Take
  /** From the performer's own space to Y up, facing +Z, and from its unit to metres. */
  performerFrame: [number, number, number, number]
  performerScale: number
  /** Length of the performer's leg in the unit of its file; for bodies on four legs from the top of a leg to its paw. */
  performerLeg: number
  performerGround: number
  contacts: Contacts
  /** The same of heels. */
  heels?: Contacts
  /** When other parts of the body lie on the ground, by role. */
  lying?: Contacts
  /** When hands keep to each other and to the body, where they were kept. */
  handContacts?: HandHolds
  measures: TransferMeasures
  /** The performer walks on the spot, over ground that would have to move. */
  onTheSpot: boolean
  /** The figure's skeleton is the performer's own: nothing was corrected. */
  asPerformed: boolean
  /** Frames at the beginning that hold a pose for measuring and are no motion. */
  calibration?: number
  /** The performer's joints that slide on what they hang on. */
  sliding: readonly Sliding[]
  roleMap: Readonly<Record<string, string>>
  restMatch: Readonly<Record<string, number>>
  by: string
  /** Joint by role on either side, and performer joints that play nothing. */
  performerJoints: Readonly<Record<string, number>>
  figureJoints: Readonly<Record<string, number>>
  extra: readonly number[]
  /** Knows the performer again. */
  performerKey: string
  /** The frame its rest pose was taken from, where it was. */
  restFrame?: number
  /** By role, the turn that takes the performer's rest limb onto the figure's. */
  match: Readonly<Record<string, readonly [number, number, number, number]>>
  /** Before hands, arms and feet were kept. */
  carried: Take
  /** Where the body goes, and how fast; what is dropped from the take is still in it. */
  travelled: Travelled
  /** Where props are. */
  courses?: readonly PropCourse[]
  /** Length of the recording before it was cut, seconds, and its rate. */
  recorded: { seconds: number; fps: number }
}
/** A voice as it is shown. */
export interface VoiceAnswer {
  readonly heard: Heard
  /** Lowest and highest sample of each stretch, one after the other. */
  readonly wave: Float32Array
}
/** What was written, and the file it is handed over in. */
export interface DeliveryAnswer {
  name: string
  bytes: Uint8Array
  files: readonly ArchivedFile[]
}
export interface SectionAnswer {
  outlines: { points: Float32Array; closed: boolean }[]
  chosen: number
  /** The cut's two axes in space, and the centre of the chosen outline. */
  u: [number, number, number]
  v: [number, number, number]
  centre?: [number, number, number]
  off: number
}
export interface ReceivedFile {
  file: FileRef
  hasMesh: boolean
  hasSkeleton: boolean
  /** How its skeleton stands, where it can be read. */ kind?: BodyKind
  takes: { name: string; seconds: number }[]
}

/** Values drawn on the body in a check pose, 0..1 of the scale, with what was measured. */
export interface PoseAnswer {
  heat: Float32Array
  /** Value at the bright end, mean and largest, in the unit. */
  scale: number
  mean: number
  most: number
  unit: string
  /** The posed body, where it is not blended linearly. */
  bent?: Float32Array
}
export type SkinOther = 'before-repair' | 'nearest-bone' | 'as-received' | 'volume'

/** A refusal that crosses the border between worker and window. */
export interface Refusal {
  code: string
  message: string
}
export type Answer<T> = { ok: true; value: T } | { ok: false; refusal: Refusal }

/** The light body as it is drawn. */
export interface LightAnswer {
  readonly figure: LightFigure
  /** Pairs of vertices: the edges of its quads. */
  readonly edges: Uint32Array
  /** How far from the sculpt each vertex's neighbourhood is, metres; zeros for what the body wears. */
  readonly far: Float32Array
  readonly report: LightReport
}

/** What the window looks at of each step. */
export interface Views {
  shape: ShapeAnswer
  check: BodyCheck
  faults: SurfaceFaults
  asymmetry: Asymmetry
  landmarks: LandmarkResult
  rig: RigAnswer
  /** What the pieces are taken for, by their names. */
  pieces: readonly { readonly name: string; readonly guess: PieceGuess }[]
  skin: SkinAnswer
  /** The skin laid open for the brush: rows of welded vertices, every repair made, no limit of influences. */
  openSkin: Skin
  /** Shapes the surface takes while joints are turned. */
  correctives: CorrectiveShapes
  /** Which shapes make which expression, and those made for it. */
  expressions: Expressions
  /** The places of the face. */
  face: FoundFace | undefined
  light: LightAnswer
  strain: Assessment
  handles: HandledBody
  /** What the figure carries. */
  props: PropsResult
  take: TakeAnswer
  findings: readonly Finding[]
}
export type ViewName = keyof Views

/** One step that is looked at, and of what, where it is of one thing among many. */
export interface Ask<N extends ViewName = ViewName> {
  readonly step: N
  readonly of?: N extends 'take' ? string : N extends 'findings' ? readonly string[] : undefined
}

/** A result and what it is known by. */
export interface Keyed<T> {
  readonly key: string
  readonly value: T
}

/** A recipe as the worker knows it: by a running number. */
export type Revision = number
type Progress = (share: number) => void

/** The one typed interface of the worker. `job` names the work so that it can be stopped; progress is 0..1. */
/** Who performs a take, as far as its skeleton tells; there even where the take cannot be carried over. */
export interface PerformerAnswer {
  readonly key: string
  readonly reading: Pick<RoleReading, 'kind' | 'by' | 'confidence'>
  readonly doubts: readonly { readonly about: string; readonly why: string; readonly joint?: string }[]
}

export interface CoreApi {
  /**
   * Tells how the recipe looks now, against the one told before. Work whose result is no longer asked for is stopped;
   * work whose result stays the same goes on.
   */
  follow(rev: Revision, change: { base: Revision; patches: readonly RecipePatch[] } | { recipe: Recipe }): void
  /** What the results of steps are known by now. */
  keys(rev: Revision, asks: readonly Ask[]): Answer<string[]>
  /** The result of a step, with its key. What the window has already it does not ask for. */
  step<N extends ViewName>(
    rev: Revision,
    ask: Ask<N>,
    job: string,
    progress: Progress,
  ): Promise<Answer<Keyed<Views[N]>>>
  /** Answers, as long as the worker does. */
  alive(): Promise<true>
  /** What a file with a body most likely is to the figure that is open. */
  arrival(rev: Revision, file: FileRef, beside: readonly FileRef[]): Promise<Answer<ArrivalGuess>>
  receive(
    name: string,
    bytes: Uint8Array,
    beside: readonly FileRef[],
    job: string,
    progress: Progress,
  ): Promise<Answer<ReceivedFile>>
  /** Keeps a file without reading it: one that belongs to another. */
  keep(name: string, bytes: Uint8Array): Promise<Answer<FileRef>>
  /** Fetches the takes of a recipe that come with the program and were not fetched yet. */
  fetchShipped(rev: Revision): Promise<Answer<void>>
  /** Files that are held in memory only, because the browser has no room for them. */
  unkept(): Promise<readonly { readonly hash: string; readonly name: string }[]>
  /** Gives files back to a worker that was started anew. */
  hold(files: readonly { readonly name: string; readonly bytes: Uint8Array }[]): Promise<void>
  /** The figure's skeleton alone, as it was bound, as a GLB: to be laid on other bodies exactly as it is. */
  skeletonFile(rev: Revision): Promise<Answer<Uint8Array>>
  /** How the skeleton of a take's performer is read. */
  performer(rev: Revision, take: string): Promise<Answer<PerformerAnswer>>
  /** The recipe with what a file holds attached to a joint. */
  attach(rev: Revision, set: FileSet, choice: AttachChoice, job: string, progress: Progress): Promise<Answer<Recipe>>
  mendAll(rev: Revision, job: string, progress: Progress): Promise<Answer<{ recipe: Recipe; mended: string[] }>>
  /** One kind of strain in one check pose, or how far another skin would put the body. */
  strainIn(rev: Revision, pose: string, kind: StrainKind, blending: Blending): Promise<Answer<PoseAnswer>>
  compareIn(rev: Revision, pose: string, other: SkinOther): Promise<Answer<PoseAnswer>>
  strainRange(rev: Revision, pose: string, job: string, progress: Progress): Promise<Answer<StrainRange>>
  /** The skin's weights as an open file. */
  saveWeights(rev: Revision): Promise<Answer<Uint8Array>>
  /** Tells how the weights of a kept file fit this figure, or refuses them. */
  tryWeights(rev: Revision, file: FileRef): Promise<Answer<{ missing: readonly string[]; byPlace: boolean }>>
  /** How a take differs from its performer's, frame by frame, and the same as a page of text. */
  compare(rev: Revision, take: string): Promise<Answer<{ comparison: Comparison; page: string }>>
  /** One job of a batch: a take onto a figure kept as a file. */
  /** @param props what the figure carries */
  batchJob(
    figure: FileRef,
    take: TakeRef,
    settings: BatchSettings,
    fileName: string,
    props?: readonly Prop[],
  ): Promise<Answer<TransferJobResult>>
  /** The figure as a file without takes, kept, for batches. */
  keepFigure(rev: Revision, job: string, progress: Progress): Promise<Answer<FileRef>>
  /** What the figure can be led with, made of takes by their ids. */
  trialClips(
    rev: Revision,
    takes: readonly string[],
    job: string,
    progress: Progress,
  ): Promise<Answer<TrialClips | undefined>>
  /** Another figure in the place of this one, with its takes carried over. */
  trialGuest(
    rev: Revision,
    guest: Recipe,
    takes: readonly string[],
    job: string,
    progress: Progress,
  ): Promise<Answer<Guest>>
  /** The mesh of a file, metres, Y up, as a floor. */
  floorMesh(file: FileRef): Promise<Answer<Mesh>>
  /** Fewer triangles of the figure's mesh: an index of so many at the most. */
  lightIndex(mesh: Pick<Mesh, 'positions' | 'indices'>, triangles: number): Promise<Answer<Uint32Array>>
  /** The same part by part. */
  lightParts(mesh: Pick<Mesh, 'positions' | 'indices' | 'parts'>, triangles: number): Promise<Answer<LightParts>>
  /**
   * A figure of a crowd as a GLB with the takes its agents play, each under the name of its clip.
   * @param guest another figure in the place of the one of the revision
   */
  crowdFile(
    rev: Revision,
    guest: Recipe | undefined,
    takes: readonly { readonly id: string; readonly name: string }[],
    job: string,
    progress: Progress,
  ): Promise<Answer<Uint8Array>>
  /** What the figure did while it was led, as a record of its own. */
  keepRun(rev: Revision, take: Take): Promise<Answer<TakeRef>>
  /** A take as it is shown, as a record of its own. */
  bake(rev: Revision, take: string, job: string, progress: Progress): Promise<Answer<TakeRef>>
  /** A take in which the figure stands still, as a record. */
  still(rev: Revision): Promise<Answer<TakeRef>>
  /** What is said by a voice, and its loudest and quietest samples in even stretches. */
  listen(file: FileRef, job: string, progress: Progress): Promise<Answer<VoiceAnswer>>
  /** Weights of a face that were made elsewhere. */
  faceSolution(file: FileRef): Promise<Answer<FaceSolution>>
  /** The bytes of a kept file. */
  bytesOf(file: FileRef): Promise<Answer<Uint8Array>>
  /** The cut of the body at a point, across a direction. */
  section(rev: Revision, point: Vec3, direction: Vec3): Promise<Answer<SectionAnswer | undefined>>
  remedy(rev: Revision, finding: Finding, takes: readonly string[]): Promise<Answer<Remedy | undefined>>
  /**
   * Writes and proves the figure as a profile wants it: one file, or an archive of several.
   * @param insist hand over files whose proof fails as well
   * @param at seconds into the first take a surface alone stands as it does then
   */
  deliver(
    rev: Revision,
    takes: string[],
    profile: Profile,
    insist: boolean,
    at: number | undefined,
    job: string,
    progress: Progress,
  ): Promise<Answer<DeliveryAnswer>>
  pack(rev: Revision): Promise<Answer<Uint8Array>>
  unpack(bytes: Uint8Array): Promise<Answer<Recipe>>
  /** Keeps a whole recipe of a project after many changes. */
  compact(project: string): Promise<Answer<void>>
  /** Throws out results that were kept over a reload, to make room. */
  clearResults(): Promise<Answer<void>>
  stop(job: string): void
}
