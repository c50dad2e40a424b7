import {
  followPlaces,
  footSkate,
  movingGround,
  type Contacts,
  type Followed,
  type MovingGround,
  type Played,
  type Tracks,
} from '../motion'
import type { Skeleton } from '../skeleton'
import { groundedAs, lowestPlace, NEAR_GROUND, solePlaces, type PlacedContact } from '../correct'
import { kindOf } from '../body'
import { solesOf, usualSurface, type BodySurface } from '../surface'
import { measuredRoles, measureTransfer, type TransferMeasures } from '../retarget'
import type { Carried } from './perform'

/** Both bodies as corrections see them; what is asked of the performer is asked once. */
export interface Scene {
  readonly theirs: Played
  /** The figure as the take was carried over. */
  readonly carried: Played
  readonly surface?: BodySurface
  /** The figure's surface, or the usual one where its own is not at hand; bodies on two legs only. */
  readonly body?: BodySurface
  readonly usual?: BodySurface
  readonly travel: Carried['travel']
  readonly soles: ReturnType<typeof solesOf>
  readonly theirSoles: ReturnType<typeof solesOf>
  readonly soleTracks: readonly Float32Array[]
  readonly tracks: Tracks
  readonly ground?: MovingGround
  /** When the performer's balls rest, as found. */
  readonly contacts: Contacts
  readonly told: readonly PlacedContact[]
}

/** Both bodies as they came out of being carried over. @param ground how it moves, where that is known */
export function sceneOf(
  {
    played: theirs,
    take,
    figure,
    figureFrame,
    travel,
  }: Pick<Carried, 'played' | 'take' | 'figure' | 'figureFrame' | 'travel'>,
  skeleton: Skeleton,
  surface: BodySurface | undefined,
  ground?: MovingGround,
): Omit<Scene, 'contacts' | 'told'> {
  const roles = [...measuredRoles(theirs.joints), ...NEAR_GROUND]
  const theirSoles = solesOf(theirs.skeleton, theirs.joints, theirs.frame)
  const [tracks, soleTracks] = followBoth(theirs, roles, solePlaces(theirSoles))
  const biped = kindOf(figure.joints) === 'biped'
  return {
    theirs,
    carried: { skeleton, joints: figure.joints, take, frame: figureFrame },
    surface,
    body: surface ?? (biped ? usualSurface(skeleton, figure.joints, figureFrame) : undefined),
    usual: biped ? usualSurface(theirs.skeleton, theirs.joints, theirs.frame) : undefined,
    travel,
    soles: solesOf(skeleton, figure.joints, figureFrame, surface?.outermost),
    theirSoles,
    soleTracks,
    tracks,
    ground: ground ?? movingGround(theirs, tracks),
  }
}

/** How well a take on the figure keeps what the performer did. */
export function measuresOf(
  { theirs, tracks, contacts, ground, body, soles, travel, carried }: Omit<Scene, 'told' | 'surface'>,
  own: Played,
  arms: { readonly before: number; readonly after: number } | undefined,
): TransferMeasures {
  const [ownTracks, places] = followBoth(own, [...measuredRoles(own.joints), ...NEAR_GROUND], solePlaces(soles))
  const measured = measureTransfer(theirs, own, contacts, tracks, ownTracks)
  const runs = ground && { x: ground.x * travel.scale, z: ground.z * travel.scale }
  const low =
    body && lowestPlace(groundedAs({ played: own, soles, lift: travel.figureLift, near: ownTracks }, body), places)
  return {
    ...measured,
    ...(ground && { footSkateMetresPerSecond: null }),
    slideBefore: footSkate(carried, contacts, undefined, runs),
    slide: footSkate(own, contacts, ownTracks, runs),
    ...(low !== undefined && { clearance: low / measured.height }),
    ...(arms && { armRoom: arms.after, armRoomBefore: arms.before }),
  }
}

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
