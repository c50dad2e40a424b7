import { findHeels, placeContacts, type ToldContact } from '../correct'
import { ChiraxisError, IDENTITY, type Quat, type WorkOptions } from '../math'
import { takeSeconds, findContacts, movingGround, type Contacts, type Played } from '../motion'
import { recogniseRoles, type RoleReading } from '../skeleton'
import { bodyFrame, measureTransfer, stanceOf, travelScale, type Travel } from '../retarget'
import { correctCarried, EXACT_TRANSFER, travelOn, type Performed } from '../perform'
import { ownTakeIds } from '../recipe'
import { applyLayers, type Layer } from '../layers'
import type { RootSettings } from '../root-motion'
import { solesOf, type BodySurface } from '../surface'
import type { RigResult } from './types'

/** What is told of a take that came with the body. */
export interface ToldOfOwnTake extends WorkOptions {
  readonly contacts?: readonly ToldContact[]
  readonly layers?: readonly Layer[]
  readonly root?: RootSettings
  /** The body around the bones, for feet. */
  readonly surface?: BodySurface
}

/**
 * A take that came with the body, as one performed on its own skeleton: nothing is carried over, and nothing changed but where it
 * is told.
 */
export async function performOwnTake(
  rig: Pick<RigResult, 'skeleton' | 'takes'>,
  id: string,
  { contacts: told = [], layers = [], root, surface, ...work }: ToldOfOwnTake = {},
): Promise<Performed> {
  const came = rig.takes[ownTakeIds(rig.takes).indexOf(id)]
  if (!came) throw new ChiraxisError('no-take', 'The body has no such take.')
  const { skeleton } = rig
  const roles = recogniseRoles(skeleton)
  const known = roles.missing.length === 0
  const frame = known ? bodyFrame(skeleton, roles.joints) : ([...IDENTITY] as Quat)
  const theirs: Played = { skeleton, joints: roles.joints, take: came, frame }
  const stance = known ? stanceOf(skeleton, roles.joints, frame) : undefined
  const stood =
    stance && told.length > 0
      ? await correctCarried(
          { played: theirs, take: came, figure: roles, figureFrame: frame, travel: ownTravel(theirs, roles, stance) },
          skeleton,
          {
            ...work,
            settings: { ...EXACT_TRANSFER, ground: true },
            surface,
            told: { contacts: placeContacts(told, came), stretches: [] },
          },
        )
      : undefined
  const below = stood?.take ?? came
  const own: Played = { ...theirs, take: below }
  const { take, lost } = applyLayers(own, layers)
  const played: Played = { ...own, take }
  const ground = known ? movingGround(played) : undefined
  const contacts = stood?.contacts ?? (known ? findContacts(played, undefined, ground) : {})
  const heels = stood?.heels ?? (known ? heelsOf(played, ground) : undefined)
  const { rooted, travelled } = travelOn(played, root, { contacts, movingGround: ground }, { surface })
  return {
    take: rooted.take,
    moved: rooted.moved,
    travelled,
    movingGround: ground,
    below,
    lostChannels: lost,
    carried: came,
    performerTake: came,
    performerSkeleton: skeleton,
    performerLeg: stance?.leg ?? 0,
    figureSkeleton: skeleton,
    performer: roles,
    figure: roles,
    performerFrame: frame,
    figureFrame: frame,
    roleMap: {},
    restMatch: {},
    match: {},
    travel: { scale: 1, performerStand: 0, figureStand: 0, performerLift: 0, figureLift: 0 },
    contacts,
    heels,
    measures: known
      ? measureTransfer(theirs, played, contacts)
      : { footSkateMetresPerSecond: 0, height: 1, handError: 0, footError: 0, clearance: 0 },
  }
}

const heelsOf = (played: Played, ground: Performed['movingGround']): Contacts =>
  findHeels({ played, soles: solesOf(played.skeleton, played.joints, played.frame), lift: 0 }, ground)

/** How a body travels that is carried onto itself; one whose rest pose hangs in the air takes its ground from the take. */
function ownTravel(played: Played, roles: RoleReading, stance: ReturnType<typeof stanceOf>): Travel {
  const travel = travelScale(
    {
      performer: roles,
      performerSkeleton: played.skeleton,
      performerFrame: played.frame,
      performerStance: stance,
      figureStance: stance,
    },
    played.take,
  )
  return { ...travel, figureLift: travel.performerLift, figureStand: travel.performerStand }
}

export const ownTakesOf = (rig: Pick<RigResult, 'takes'>): { id: string; name: string; seconds: number }[] => {
  const ids = ownTakeIds(rig.takes)
  return rig.takes.map((t, i) => ({ id: ids[i], name: t.name, seconds: takeSeconds(t) }))
}
