import { timeMapOf } from '../adjust'
import { armRoom } from '../correct'
import type { CueClock } from '../cues'
import { applyLayers, type Layer, type LayerClock, type LostChannel } from '../layers'
import type { Played, Take } from '../motion'
import type { Skeleton } from '../skeleton'
import type { BodySurface } from '../surface'
import type { Corrected } from './correct'
import type { Carried, Clock, Performance } from './perform'
import { measuresOf, sceneOf } from './scene'

/** Layers a person made over a corrected take. */
export interface Layered extends Corrected {
  /** The take as it was corrected, before any layer. */
  readonly below: Take
  readonly lostChannels: readonly LostChannel[]
}

/** How moments and sides that are told of a recording are found in its take, and back. */
export function takeClock({ adjust, recording }: Clock): LayerClock & CueClock {
  const { toResult, toRecording } = timeMapOf(adjust, recording)
  return { timeOf: toResult, toRecording, mirrored: adjust?.mirror === true }
}

/**
 * Fourth stage: what a person changed by hand, over a take that stays as it is below. It is measured anew.
 * @returns what came in where there is nothing to lay on
 */
export function layerCorrected(
  { clock }: Performance,
  carried: Carried,
  corrected: Corrected,
  skeleton: Skeleton,
  layers: readonly Layer[],
  surface?: BodySurface,
): Layered {
  const below = corrected.take
  if (layers.length === 0) return { ...corrected, below, lostChannels: [] }
  const { figure, figureFrame } = carried
  const own: Played = { skeleton, joints: figure.joints, take: below, frame: figureFrame }
  const { take, lost } = applyLayers(own, layers, takeClock(clock))
  if (take === below) return { ...corrected, below, lostChannels: lost }
  const { contacts, movingGround: ground, measures } = corrected
  const scene = sceneOf(carried, skeleton, surface, ground)
  const laid = { ...own, take }
  const room = surface && measures.armRoom !== undefined ? armRoom(laid, surface) : undefined
  const arms = room === undefined ? undefined : { before: measures.armRoomBefore ?? room, after: room }
  return { ...corrected, take, measures: measuresOf({ ...scene, contacts }, laid, arms), below, lostChannels: lost }
}
