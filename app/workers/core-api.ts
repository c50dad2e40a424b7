import type { BatchSettings, TransferJobResult } from '@chiraxis/core/batch'
import type { Finding, Remedy } from '@chiraxis/core/findings'
import type { Proof } from '@chiraxis/core/formats'
import type { Vec3 } from '@chiraxis/core/math'
import type { ImageFile, Material, Mesh } from '@chiraxis/core/mesh'
import type { Take } from '@chiraxis/core/motion'
import type { FileRef, LandmarkResult, OwnPlan, Recipe, RigResult, TakeRef } from '@chiraxis/core/recipe'
import type { Asymmetry, BodyCheck, Straightened } from '@chiraxis/core/shape'
import type { Contacts } from '@chiraxis/core/ground'
import type { BodyKind, Skeleton } from '@chiraxis/core/skeleton'
import type { LostSkinEdit } from '@chiraxis/core/paint'
import type { Skin } from '@chiraxis/core/skin'
import type { Assessment, Blending, StrainKind, StrainRange } from '@chiraxis/core/strain'
import type { Comparison, HandHolds, TransferMeasures } from '@chiraxis/core/transfer'

export interface ShapeAnswer {
  mesh: Mesh
  straightened: Straightened
  format: string
  dropped: readonly string[]
  materials: readonly Material[]
  images: readonly ImageFile[]
  /** All pieces of the body as received, those left out included. */
  pieces: readonly { name: string; triangles: number; material?: number }[]
  /** A skeleton came with the body, and it is kept. */
  received: boolean
  kept: boolean
}
export interface RigAnswer extends Omit<RigResult, 'skin' | 'takes'> {
  readonly takes: readonly { name: string; seconds: number }[]
}
export interface TakeAnswer {
  take: Take
  performer: Skeleton
  performerTake: Take
  /** From the performer's own space to Y up, facing +Z, and from its unit to metres. */
  performerFrame: [number, number, number, number]
  performerScale: number
  performerGround: number
  contacts: Contacts
  /** When hands keep to each other and to the body, where they were kept. */
  handContacts?: HandHolds
  measures: TransferMeasures
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
  /** Length of the recording before it was cut, seconds, and its rate. */
  recorded: { seconds: number; fps: number }
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

/** The one typed interface of the worker. `job` names the work so that it can be stopped; progress is 0..1. */
export interface CoreApi {
  receive(name: string, bytes: Uint8Array, beside: readonly FileRef[]): Promise<Answer<ReceivedFile>>
  /** Keeps a file without reading it: one that belongs to another. */
  keep(name: string, bytes: Uint8Array): Promise<Answer<FileRef>>
  shape(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<ShapeAnswer>>
  landmarks(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<LandmarkResult>>
  rig(recipe: Recipe): Promise<Answer<RigAnswer>>
  check(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<BodyCheck>>
  asymmetry(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<Asymmetry>>
  /** One of the takes that came with the body. */
  ownTake(recipe: Recipe, index: number): Promise<Answer<TakeAnswer>>
  ownPlan(recipe: Recipe, name: string): Promise<Answer<OwnPlan>>
  mendAll(
    recipe: Recipe,
    job: string,
    progress: (share: number) => void,
  ): Promise<Answer<{ recipe: Recipe; mended: string[] }>>
  skin(
    recipe: Recipe,
    job: string,
    progress: (share: number) => void,
  ): Promise<Answer<{ skin: Skin; lost: readonly LostSkinEdit[] }>>
  strain(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<Assessment>>
  /** One kind of strain in one check pose, or how far another skin would put the body. */
  strainIn(recipe: Recipe, pose: string, kind: StrainKind, blending: Blending): Promise<Answer<PoseAnswer>>
  compareIn(recipe: Recipe, pose: string, other: SkinOther): Promise<Answer<PoseAnswer>>
  strainRange(
    recipe: Recipe,
    pose: string,
    job: string,
    progress: (share: number) => void,
  ): Promise<Answer<StrainRange>>
  /** The skin's weights as an open file. */
  saveWeights(recipe: Recipe): Promise<Answer<Uint8Array>>
  /** Tells how the weights of a kept file fit this figure, or refuses them. */
  tryWeights(recipe: Recipe, file: FileRef): Promise<Answer<{ missing: readonly string[]; byPlace: boolean }>>
  take(recipe: Recipe, take: TakeRef, job: string, progress: (share: number) => void): Promise<Answer<TakeAnswer>>
  /** How a take differs from its performer's, frame by frame, and the same as a page of text. */
  compare(recipe: Recipe, take: TakeRef): Promise<Answer<{ comparison: Comparison; page: string }>>
  /** One job of a batch: a take onto a figure kept as a file. */
  batchJob(figure: FileRef, take: TakeRef, settings: BatchSettings): Promise<Answer<TransferJobResult>>
  /** The figure as a file without takes, kept, for batches. */
  keepFigure(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<FileRef>>
  /** The bytes of a kept file. */
  bytesOf(file: FileRef): Promise<Answer<Uint8Array>>
  /** The cut of the body at a point, across a direction. */
  section(recipe: Recipe, point: Vec3, direction: Vec3): Promise<Answer<SectionAnswer | undefined>>
  findings(recipe: Recipe): Promise<Answer<Finding[]>>
  remedy(recipe: Recipe, finding: Finding): Promise<Answer<Remedy | undefined>>
  deliver(
    recipe: Recipe,
    takes: string[],
    job: string,
    progress: (share: number) => void,
  ): Promise<Answer<{ bytes: Uint8Array; proof: Proof }>>
  pack(recipe: Recipe): Promise<Answer<Uint8Array>>
  unpack(bytes: Uint8Array): Promise<Answer<Recipe>>
  stop(job: string): Promise<void>
}
