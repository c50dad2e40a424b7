import { bodyFrame } from '../retarget'
import { sourceAsRead } from '../document'
import { asRead, readReceived, type GltfContent, type Received } from '../formats'
import { ChiraxisError, type Vec3 } from '../math'
import { findContacts, movingGround, type Contacts, type Played } from '../motion'
import { travelOn, type Travelled } from '../perform'
import { findCues, foundBeside, travelCurves, withCues, type CueSettings } from '../cues'
import { addRoot, askedRoot, type Rig } from '../rig'
import type { RootSettings } from '../root-motion'
import { jointIds, unitOfSkeleton } from '../skeleton'

/** A take of a file with its travel put where it was asked for. */
export interface GroundedTake {
  readonly played: Played
  readonly contacts: Contacts
  readonly travelled: Travelled
}

export interface GroundedFile {
  readonly content: GltfContent
  readonly takes: readonly GroundedTake[]
  /** The joint that carries travel, where there is one, and whether it was added. */
  readonly root?: string
  readonly added: boolean
}

export interface GroundOptions {
  /** The root joint; one of this name is added where there is none, and `root` where travel asks for one. */
  readonly root?: string
  /** What moments and curves are found and written. */
  readonly cues?: CueSettings
}

/**
 * The takes of a figure or a recording as it came, with their travel on a root joint, on the hips or dropped. Nothing else of
 * the file changes.
 * @throws ChiraxisError `no-take` where nothing moves, `no-roles` where hips cannot be told, `bad-settings` for a joint that does not carry the hips
 */
export function groundReceived(
  name: string,
  received: Received,
  settings: RootSettings,
  { root: named, cues = {} }: GroundOptions = {},
): GroundedFile {
  const { mesh, skin, materials, images } = received
  const reading = readReceived(received)
  if (!received.skeleton || !reading || received.takes.length === 0)
    throw new ChiraxisError('no-take', `${name} holds no motion.`)
  if (reading.joints.hips === undefined || reading.missing.length > 0)
    throw new ChiraxisError(
      'no-roles',
      `Which joints of ${name} are hips and legs cannot be told, so its travel cannot be told either.`,
    )
  let rig: Rig = { skeleton: asRead(received.skeleton, reading), takes: received.takes, skin }
  const ids = jointIds(rig.skeleton)
  const { root, add } = askedRoot(rig.skeleton, reading.joints, settings, named)
  if (add) rig = addRoot(rig, add.name, add.at as Vec3)
  const { skeleton } = rig
  const place = new Map(ids.map((id, j) => [id, j]))
  const from = jointIds(skeleton).map(id => place.get(id) ?? -1)
  const joints = Object.fromEntries(Object.entries(reading.joints).map(([role, joint]) => [role, from.indexOf(joint)]))
  const frame = bodyFrame(skeleton, joints)
  const unit = unitOfSkeleton(skeleton).metres
  const takes = rig.takes.map((take): GroundedTake => {
    const played: Played = { skeleton, joints, take, frame }
    const contacts = findContacts(played)
    const ground = movingGround(played)
    const onRoot = { ...settings, ...(named !== undefined && { joint: named }) }
    const { rooted, travelled } = travelOn(played, onRoot, { contacts, movingGround: ground }, { unit })
    const { find = [], curves = [], surface } = cues
    const own: Played = { ...played, take: rooted.take }
    const done = withCues(
      rooted.take,
      foundBeside(take.events ?? [], findCues({ played: own, contacts, surface, unit }, find)),
      travelCurves(travelled.path, take.fps, curves, unit),
    )
    return { played: { ...own, take: done }, contacts, travelled }
  })
  const source = sourceAsRead(received)
  return {
    content: {
      name,
      mesh,
      skeleton,
      skin: rig.skin,
      materials,
      images,
      takes: takes.map(t => t.played.take),
      ...(source && {
        source: {
          ...source,
          joints: from,
          roles: from.map(j => (j >= 0 ? received.skeleton!.roles[j] : undefined)),
          // takes that stay as they are are written as they came
          takeFrom: takes.map((t, i) => (t.played.take === received.takes[i] ? i : -1)),
        },
      }),
    },
    takes,
    ...(root !== undefined && { root }),
    added: add !== undefined,
  }
}
