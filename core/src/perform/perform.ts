import { IDENTITY, type Quat, type Rigid, type WorkOptions } from '../math'
import { takeSeconds, type Played, type Take } from '../motion'
import { type RoleReading, type Skeleton } from '../skeleton'
import { adjustTake, type AdjustSettings } from '../adjust'
import { leavesTravel, onlyDropped, rootTake, spotted, type RootSettings } from '../root-motion'
import type { BodySurface } from '../surface'
import {
  bodyFrame,
  calibrationFrames,
  EMPTY_NOTE,
  restTurnsOf,
  type PerformerNote,
  slidingJoints,
  type Sliding,
  prepareTransfer,
  readRoles,
  type TransferPlan,
  restAt,
  restShowsBody,
  standingRest,
  transfer,
  type Transferred,
} from '../retarget'
import type { Layer } from '../layers'
import { correctCarried, type Corrected } from './correct'
import { layerCorrected, type Layered } from './layered'
import { TRANSFER_DEFAULTS, type TransferSettings } from './settings'
import { placeTold, type ToldOfRecording } from './told'
import { travelOn, type Travelled } from './travelled'

/** A recording made ready to be carried over: the first stage, which knows no figure. */
export interface Performance {
  /** The performer, its rest pose as it was taken. */
  readonly performer: Skeleton
  readonly roles: RoleReading
  /** The frame the rest pose was taken from, where it was. */
  readonly restFrame?: number
  /** The recording with its changes made. */
  readonly take: Take
  /** What was made of its time and its sides: moments told of the recording are found again by it. */
  readonly clock: Clock
  /** Frames at the beginning of the recording that hold a pose for measuring, where they are not cut away. */
  readonly calibration?: number
}

/** How the time of a take comes from its recording's. */
export interface Clock {
  readonly adjust?: Partial<AdjustSettings>
  readonly recording: { readonly frames: number; readonly fps: number }
}

/** A performance on the figure's skeleton, before anything is corrected: the second stage. */
export interface Carried extends Transferred {
  /** The performer's motion as a body's. */
  readonly played: Played
  /** Joints that slide on what they hang on, and whether they are carried. */
  readonly sliding: readonly Sliding[]
}

/** Everything about a take on a figure: what the stages gave, travel taken away where that was asked for. */
export interface Performed
  extends
    Transferred,
    Pick<Performance, 'calibration'>,
    Partial<Pick<Carried, 'sliding'>>,
    Pick<Corrected, 'contacts' | 'heels' | 'lying' | 'handContacts' | 'movingGround' | 'asPerformed' | 'measures'>,
    Partial<Pick<Layered, 'below' | 'lostChannels'>> {
  readonly performerSkeleton: Skeleton
  /** The take as carried over exactly, before hands, arms and feet were kept. */
  readonly carried: Take
  /** The performer's take as it was adjusted. */
  readonly performerTake: Take
  readonly travelled: Travelled
  /** How the whole body was moved in the end, in the skeleton's space, where it was. */
  readonly moved?: (f: number) => Rigid
  readonly restFrame?: number
}

export interface AdjustOptions {
  /** Changes made to the take. */
  readonly adjust?: Partial<AdjustSettings>
  /** A pose for measuring that the recording begins with is left out. */
  readonly leaveOutCalibration?: boolean
  /** What was settled about the performer. */
  readonly note?: PerformerNote
}

/**
 * First stage: the performer's rest pose is settled, and every change of the take that is made on the performer.
 * The rest pose is the file's where it shows a standing body, else the take's most upright frame; the note may tell otherwise.
 * @throws ChiraxisError `bad-settings` for values out of range or where nothing would be left
 */
export function adjustPerformance(
  recorded: Skeleton,
  recording: Take,
  { adjust, note = EMPTY_NOTE, leaveOutCalibration }: AdjustOptions = {},
): Performance {
  const before = readRoles(recorded, note.map, 'performer', note.reading)
  const { performer, restFrame } = rested(recorded, recording, before, note.restFrom)
  // a rest pose of its own may be read otherwise
  const roles = performer === recorded ? before : readRoles(performer, note.map, 'performer', note.reading)
  const frame = roles.missing.length === 0 ? bodyFrame(performer, roles.joints) : ([...IDENTITY] as Quat)
  const held = roles.missing.length === 0 ? calibrationFrames(recorded, roles.joints, frame, recording) : 0
  const begins = adjust?.trim?.[0] ?? 0
  const motion = held / recording.fps
  const kept: [number, number] = [Math.max(motion, begins), adjust?.trim?.[1] ?? takeSeconds(recording)]
  const settings = leaveOutCalibration && held > 0 ? { ...adjust, trim: kept } : adjust
  const take = adjustTake({ skeleton: performer, joints: roles.joints, take: recording, frame }, settings)
  // what is cut away already needs no telling
  const told = held > 0 && !leaveOutCalibration && begins < (held - 0.5) / recording.fps
  const clock: Clock = { adjust: settings, recording: { frames: recording.frames, fps: recording.fps } }
  return { performer, roles, restFrame, take, clock, calibration: told ? held : undefined }
}

function rested(
  recorded: Skeleton,
  take: Take,
  { joints, missing }: RoleReading,
  restFrom: PerformerNote['restFrom'],
): { performer: Skeleton; restFrame?: number } {
  if (typeof restFrom === 'number') return { performer: restAt(recorded, take, restFrom), restFrame: restFrom }
  if (restFrom === 'file' || missing.length > 0 || restShowsBody(recorded, joints)) return { performer: recorded }
  const { skeleton, frame } = standingRest(recorded, joints, take)
  return { performer: skeleton, restFrame: frame }
}

export interface CarryOptions extends WorkOptions {
  readonly rest?: TransferSettings['rest']
  readonly note?: PerformerNote
  /** Joint names of the figure by role, in place of what is recognised. */
  readonly figureMap?: Readonly<Record<string, string>>
  /** The pair of skeletons prepared before, when many takes are carried over it. */
  readonly plan?: TransferPlan
}

/**
 * Second stage: the performance carried over exactly.
 * @throws ChiraxisError `no-roles` where performer or figure cannot be read, or stand on other numbers of legs
 */
export async function carryPerformance(
  performance: Performance,
  figure: Skeleton,
  { rest = 'auto', note = EMPTY_NOTE, figureMap, plan, ...work }: CarryOptions = {},
): Promise<Carried> {
  const { performer, take } = performance
  const pair =
    plan ??
    prepareTransfer(performer, figure, {
      rest,
      map: { performer: note.map, figure: figureMap },
      reading: note.reading,
      restTurns: restTurnsOf(note),
    })
  const moved = await transfer(performer, take, figure, { ...work, plan: pair })
  const played: Played = { skeleton: performer, joints: pair.performer.joints, take, frame: pair.performerFrame }
  return { ...moved, played, sliding: slidingJoints(pair, take) }
}

/** Puts the stages together; how the body travels comes last, so that feet were held where they really stood. */
export function finishPerformance(
  { restFrame, performer, calibration }: Performance,
  carried: Carried,
  { take, ...told }: Layered,
  root: RootSettings | undefined,
  surface?: BodySurface,
): Performed {
  const { played, ...transferred } = carried
  const own: Played = {
    skeleton: transferred.figureSkeleton,
    joints: transferred.figure.joints,
    take,
    frame: transferred.figureFrame,
  }
  const { rooted, travelled } = travelOn(own, root, told, { lift: transferred.travel.figureLift, surface })
  // the performer is shown as it was recorded, but for travel the figure goes without
  const dropped = onlyDropped(root)
  return {
    ...transferred,
    take: rooted.take,
    carried: transferred.take,
    ...told,
    performerSkeleton: performer,
    performerTake: leavesTravel(dropped) ? played.take : rootTake(played, dropped, { soles: {}, contacts: {} }).take,
    travelled,
    moved: rooted.moved,
    restFrame,
    calibration,
  }
}

export interface PerformOptions extends WorkOptions, AdjustOptions {
  /** Default {@link TRANSFER_DEFAULTS}. */
  readonly settings?: TransferSettings
  readonly surface?: BodySurface
  readonly figureMap?: CarryOptions['figureMap']
  readonly plan?: TransferPlan
  /** What a person told of single stretches of the recording, and laid over it. */
  readonly told?: ToldOfRecording
  readonly layers?: readonly Layer[]
  /** How it travels; left out as it came. */
  readonly root?: RootSettings
}

/** All stages one after another, for callers who keep none of them. */
export async function perform(
  recorded: Skeleton,
  recording: Take,
  figure: Skeleton,
  {
    settings = TRANSFER_DEFAULTS,
    surface,
    figureMap,
    plan,
    adjust,
    leaveOutCalibration,
    note,
    told = {},
    layers = [],
    root,
    ...work
  }: PerformOptions = {},
): Promise<Performed> {
  const performance: Performance = plan
    ? planned(plan, recording, adjust)
    : adjustPerformance(recorded, recording, { adjust, leaveOutCalibration, note })
  const carried = await carryPerformance(performance, figure, { ...work, rest: settings.rest, note, figureMap, plan })
  const corrected = await correctCarried(carried, figure, {
    ...work,
    settings,
    surface,
    told: placeTold(performance, told),
  })
  const layered = layerCorrected(performance, carried, corrected, figure, layers, surface)
  return finishPerformance(performance, carried, layered, spotted(root, adjust?.onTheSpot), surface)
}

/** The first stage where the pair of skeletons was read before. */
function planned(plan: TransferPlan, take: Take, adjust: AdjustOptions['adjust']): Performance {
  const { performerSkeleton: performer, performer: roles, performerFrame: frame } = plan
  return {
    performer,
    roles,
    take: adjustTake({ skeleton: performer, joints: roles.joints, take, frame }, adjust),
    clock: { adjust, recording: { frames: take.frames, fps: take.fps } },
  }
}
