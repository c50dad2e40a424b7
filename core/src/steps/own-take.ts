import { ChiraxisError, IDENTITY, type Quat } from '../math'
import { takeSeconds, findContacts, movingGround, type Played } from '../motion'
import { recogniseRoles } from '../skeleton'
import { bodyFrame, measureTransfer, stanceOf } from '../retarget'
import { travelOn, type Performed } from '../perform'
import { ownTakeIds } from '../recipe'
import { applyLayers, type Layer } from '../layers'
import type { RootSettings } from '../root-motion'
import type { BodySurface } from '../surface'
import type { RigResult } from './types'

/** A take that came with the body, as one performed on its own skeleton: nothing is carried over or changed. */
export function performOwnTake(
  rig: Pick<RigResult, 'skeleton' | 'takes'>,
  id: string,
  layers: readonly Layer[] = [],
  root?: RootSettings,
  surface?: BodySurface,
): Performed {
  const below = rig.takes[ownTakeIds(rig.takes).indexOf(id)]
  if (!below) throw new ChiraxisError('no-take', 'The body has no such take.')
  const { skeleton } = rig
  const roles = recogniseRoles(skeleton)
  const known = roles.missing.length === 0
  const frame = known ? bodyFrame(skeleton, roles.joints) : ([...IDENTITY] as Quat)
  const own: Played = { skeleton, joints: roles.joints, take: below, frame }
  const { take, lost } = applyLayers(own, layers)
  const played: Played = { ...own, take }
  const contacts = known ? findContacts(played) : {}
  const ground = known ? movingGround(played) : undefined
  const { rooted, travelled } = travelOn(played, root, { contacts, movingGround: ground }, { surface })
  return {
    take: rooted.take,
    moved: rooted.moved,
    travelled,
    movingGround: ground,
    below,
    lostChannels: lost,
    carried: below,
    performerTake: below,
    performerSkeleton: skeleton,
    performerLeg: known ? stanceOf(skeleton, roles.joints, frame).leg : 0,
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
    measures: known
      ? measureTransfer(own, played, contacts)
      : { footSkateMetresPerSecond: 0, height: 1, handError: 0, footError: 0, clearance: 0 },
  }
}

export const ownTakesOf = (rig: Pick<RigResult, 'takes'>): { id: string; name: string; seconds: number }[] => {
  const ids = ownTakeIds(rig.takes)
  return rig.takes.map((t, i) => ({ id: ids[i], name: t.name, seconds: takeSeconds(t) }))
}
