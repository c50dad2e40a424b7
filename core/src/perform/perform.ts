import { breather, IDENTITY, type Quat, type WorkOptions } from '../math'
import {
  type Take,
  findContacts,
  movingGround,
  takeSeconds,
  followPlaces,
  type Contacts,
  type Followed,
  type MovingGround,
  type Played,
  type Tracks,
} from '../motion'
import { type RoleReading, type Skeleton } from '../skeleton'
import { adjustTake, onTheSpot, type AdjustSettings } from '../adjust'
import {
  holdOn,
  keepArmsClear,
  findHandContacts,
  type HandContacts,
  limitJoints,
  keepHands,
  raiseGirdle,
  armRoom,
  groundedAs,
  keepToGround,
  lowestPlace,
  NEAR_GROUND,
  solePlaces,
} from '../correct'
import { kindOf } from '../body'
import { solesOf, usualSurface, type BodySurface } from '../surface'
import {
  bodyFrame,
  calibrationFrames,
  isPerformance,
  measuredRoles,
  measureTransfer,
  type TransferMeasures,
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
import { TRANSFER_DEFAULTS, type TransferSettings } from './settings'

/** A recording made ready to be carried over: the first stage, which knows no figure. */
export interface Performance {
  /** The performer, its rest pose as it was taken. */
  readonly performer: Skeleton
  readonly roles: RoleReading
  /** The frame the rest pose was taken from, where it was. */
  readonly restFrame?: number
  /** The recording with its changes made. */
  readonly take: Take
  /** Frames at the beginning of the recording that hold a pose for measuring, where they are not cut away. */
  readonly calibration?: number
}

/** A performance on the figure's skeleton, before anything is corrected: the second stage. */
export interface Carried extends Transferred {
  /** The performer's motion as a body's. */
  readonly played: Played
  /** Joints that slide on what they hang on, and whether they are carried. */
  readonly sliding: readonly Sliding[]
}

/** A carried take with hands, arms, limits and feet kept as the settings ask: the third stage. */
export interface Corrected {
  readonly take: Take
  readonly contacts: Contacts
  /** When the performer's hands kept to each other and to the body, where hands were kept. */
  readonly handContacts?: HandContacts
  /** How the ground ran away under a performer who walked on the spot. */
  readonly movingGround?: MovingGround
  /** The figure's skeleton is the performer's: there was nothing to correct. */
  readonly asPerformed?: boolean
  readonly measures: TransferMeasures
}

/** Everything about a take on a figure: what the stages gave, travel taken away where that was asked for. */
export interface Performed
  extends
    Transferred,
    Pick<Performance, 'calibration'>,
    Partial<Pick<Carried, 'sliding'>>,
    Pick<Corrected, 'contacts' | 'handContacts' | 'movingGround' | 'asPerformed' | 'measures'> {
  readonly performerSkeleton: Skeleton
  /** The take as carried over exactly, before hands, arms and feet were kept. */
  readonly carried: Take
  /** The performer's take as it was adjusted. */
  readonly performerTake: Take
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
  return { performer, roles, restFrame, take, calibration: told ? held : undefined }
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

/** What is corrected after a take was carried over. */
export interface CorrectOptions extends WorkOptions {
  readonly settings: Omit<TransferSettings, 'rest'>
  /** The body around the figure's bones; without it arms cannot be kept off. */
  readonly surface?: BodySurface
}

/**
 * Third stage: joint limits, hands, elbow room and feet, each where the settings ask for it, and how well it went.
 *
 * Every correction brings something of the figure, measured on its own surface, to what it was on the performer's: hands to
 * each other and to the body, arms to the trunk, soles and whatever else lies there to the ground. The performer's surface
 * is the usual one around such bones. A take on its own skeleton needs none of it and is left as it is.
 */
export async function correctCarried(
  { played: theirs, take, figure, figureFrame, travel }: Carried,
  skeleton: Skeleton,
  { settings, surface, ...work }: CorrectOptions,
): Promise<Corrected> {
  // messages are let in between two corrections, and the work ends where it was stopped
  const stage = breather(work)
  const roles = [...measuredRoles(theirs.joints), ...NEAR_GROUND]
  // all that is asked of the performer in one pass
  const theirSoles = solesOf(theirs.skeleton, theirs.joints, theirs.frame)
  const [tracks, soleTracks] = followBoth(theirs, roles, solePlaces(theirSoles))
  const ground = movingGround(theirs, tracks)
  const contacts = findContacts(theirs, tracks, ground)
  let own: Played = { skeleton, joints: figure.joints, take, frame: figureFrame }
  const biped = kindOf(figure.joints) === 'biped'
  const asPerformed = settings.asPerformed && isPerformance(theirs, own, travel.scale)
  await stage(0.2)
  if (biped && settings.girdle)
    own = { ...own, take: raiseGirdle(own, side => theirs.joints[`${side}Shoulder`] !== undefined) }
  const soles = solesOf(skeleton, own.joints, figureFrame, surface?.outermost)
  const body = surface ?? (biped ? usualSurface(skeleton, own.joints, figureFrame) : undefined)
  const room = biped && surface ? settings.elbowRoom : null
  let arms: { readonly before: number; readonly after: number } | undefined
  let handContacts: HandContacts | undefined
  if (!asPerformed) {
    const evidence = settings.asPerformed ? theirs : undefined
    const usual = biped ? usualSurface(theirs.skeleton, theirs.joints, theirs.frame) : undefined
    if (biped && settings.limits) own = { ...own, take: limitJoints(own, evidence) }
    await stage(0.3)
    handContacts = usual && settings.hands > 0 ? findHandContacts(theirs, usual.radii, tracks) : undefined
    if (handContacts) own = { ...own, take: keepHands(own, surface, handContacts, settings.hands) }
    await stage(0.5)
    if (usual && room !== null) {
      const before = own.take
      const others = evidence && { played: theirs, radii: usual.radii, scale: travel.scale }
      const kept = keepArmsClear(own, surface!, room, others)
      own = { ...own, take: kept.take }
      if (handContacts) own = { ...own, take: holdOn(own, before, handContacts) }
      arms = {
        before: nearer(kept.before),
        after: own.take === kept.take ? nearer(kept.after) : armRoom(own, surface!),
      }
    }
    await stage(0.7)
    if (settings.ground) {
      const standing = { played: own, soles, lift: travel.figureLift, surface: body }
      const performer = {
        played: theirs,
        soles: theirSoles,
        lift: travel.performerLift,
        surface: usual,
        tracks: soleTracks,
        near: tracks,
      }
      const still = !settings.asPerformed
      own = { ...own, take: keepToGround(standing, performer, { travel, contacts, ground, still }) }
    }
  }
  if (room !== null && !arms) {
    const nearest = armRoom(own, surface!)
    arms = { before: nearest, after: nearest }
  }
  await stage(0.9)
  const [ownTracks, places] = followBoth(own, [...measuredRoles(own.joints), ...NEAR_GROUND], solePlaces(soles))
  const measured = measureTransfer(theirs, own, contacts, tracks, ownTracks)
  const low =
    body && lowestPlace(groundedAs({ played: own, soles, lift: travel.figureLift, near: ownTracks }, body), places)
  const measures: TransferMeasures = {
    ...measured,
    ...(ground && { footSkateMetresPerSecond: null }),
    ...(low !== undefined && { clearance: low / measured.height }),
    ...(arms && { armRoom: arms.after, armRoomBefore: arms.before }),
  }
  return { take: own.take, contacts, handContacts, movingGround: ground, asPerformed, measures }
}

const nearer = ({ left, right }: { readonly left: number; readonly right: number }): number => Math.min(left, right)

/** Follows joints by role and places in one pass. */
function followBoth(
  played: Played,
  roles: readonly string[],
  places: readonly Followed[],
): [tracks: Tracks, places: readonly Float32Array[]] {
  const here = [...new Set(roles)].filter(r => played.joints[r] !== undefined)
  const all = followPlaces(played, [...here.map(r => ({ joint: played.joints[r] })), ...places])
  return [Object.fromEntries(here.map((r, i) => [r, all[i]])), all.slice(here.length)]
}

/** Puts the stages together; travel is taken away last, so that feet were held where they really stood. */
export function finishPerformance(
  { restFrame, performer, calibration }: Performance,
  carried: Carried,
  { take, ...told }: Corrected,
  spot: boolean,
): Performed {
  const { played, ...transferred } = carried
  const own: Played = {
    skeleton: transferred.figureSkeleton,
    joints: transferred.figure.joints,
    take,
    frame: transferred.figureFrame,
  }
  return {
    ...transferred,
    take: spot ? onTheSpot(own) : take,
    carried: transferred.take,
    ...told,
    performerSkeleton: performer,
    performerTake: spot ? onTheSpot(played) : played.take,
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
    ...work
  }: PerformOptions = {},
): Promise<Performed> {
  const performance: Performance = plan
    ? planned(plan, recording, adjust)
    : adjustPerformance(recorded, recording, { adjust, leaveOutCalibration, note })
  const carried = await carryPerformance(performance, figure, { ...work, rest: settings.rest, note, figureMap, plan })
  const corrected = await correctCarried(carried, figure, { ...work, settings, surface })
  return finishPerformance(performance, carried, corrected, adjust?.onTheSpot === true)
}

/** The first stage where the pair of skeletons was read before. */
function planned(plan: TransferPlan, take: Take, adjust: AdjustOptions['adjust']): Performance {
  const { performerSkeleton: performer, performer: roles, performerFrame: frame } = plan
  return {
    performer,
    roles,
    take: adjustTake({ skeleton: performer, joints: roles.joints, take, frame }, adjust),
  }
}
