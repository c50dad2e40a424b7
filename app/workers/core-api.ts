import type { Finding, Remedy } from '@chiraxis/core/findings'
import type { Proof } from '@chiraxis/core/formats'
import type { Landmark } from '@chiraxis/core/landmarks'
import type { Mesh } from '@chiraxis/core/mesh'
import type { Take } from '@chiraxis/core/motion'
import type { FileRef, Recipe, TakeRef } from '@chiraxis/core/recipe'
import type { Straightened } from '@chiraxis/core/shape'
import type { Skeleton } from '@chiraxis/core/skeleton'
import type { Skin } from '@chiraxis/core/skin'
import type { TransferMeasures } from '@chiraxis/core/transfer'

export interface ShapeAnswer { mesh: Mesh; straightened: Straightened; format: string; dropped: readonly string[]; pieces: number }
export interface TakeAnswer {
  take: Take
  performer: Skeleton
  performerTake: Take
  /** From the performer's own space to Y up, facing +Z, and from its unit to metres. */
  performerFrame: [number, number, number, number]
  performerScale: number
  performerGround: number
  contacts: { left: Uint8Array; right: Uint8Array }
  measures: TransferMeasures
  roleMap: Readonly<Record<string, string>>
  restMatch: Readonly<Record<string, number>>
  by: string
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
export interface ReceivedFile { file: FileRef; hasMesh: boolean; hasSkeleton: boolean; takes: { name: string; seconds: number }[] }

/** A refusal that crosses the border between worker and window. */
export interface Refusal { code: string; message: string }
export type Answer<T> = { ok: true; value: T } | { ok: false; refusal: Refusal }

/** The one typed interface of the worker. `job` names the work so that it can be stopped; progress is 0..1. */
export interface CoreApi {
  receive(name: string, bytes: Uint8Array): Promise<Answer<ReceivedFile>>
  shape(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<ShapeAnswer>>
  landmarks(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<{ found: readonly Landmark[]; placed: readonly Landmark[] }>>
  skeleton(recipe: Recipe): Promise<Answer<Skeleton>>
  skin(recipe: Recipe, job: string, progress: (share: number) => void): Promise<Answer<Skin>>
  take(recipe: Recipe, take: TakeRef, job: string, progress: (share: number) => void): Promise<Answer<TakeAnswer>>
  section(recipe: Recipe, landmarks: readonly Landmark[], id: string): Promise<Answer<SectionAnswer | undefined>>
  findings(recipe: Recipe): Promise<Answer<Finding[]>>
  remedy(recipe: Recipe, finding: Finding): Promise<Answer<Remedy | undefined>>
  deliver(recipe: Recipe, takes: string[], job: string, progress: (share: number) => void): Promise<Answer<{ bytes: Uint8Array; proof: Proof }>>
  pack(recipe: Recipe): Promise<Answer<Uint8Array>>
  unpack(bytes: Uint8Array): Promise<Answer<Recipe>>
  stop(job: string): Promise<void>
}
