import { distance, type Vec3, maxOf, minOf } from '../math'
import { footSkate, tracksOf, type Contacts, type Played, type Tracks } from '../motion'
import { ballRole, legsOf, limbsOf } from '../body'
import { framedPositions } from './body-frame'

/** How well a transferred take keeps what the performer did; lengths as shares of the figure's height over its feet. */
export interface TransferMeasures {
  /** How fast resting feet slide over the ground; null where the ground would have to move and does not: on the spot. */
  readonly footSkateMetresPerSecond: number | null
  /** The same against the ground as it moves, as carried over and after corrections, metres a second; of takes on the spot too. */
  readonly slideBefore?: number
  readonly slide?: number
  /** Height over the feet at rest, unit of the figure. */
  readonly height: number
  /** Mean distance of hands and feet from where the performer's are, told from the shoulder or hip and scaled by limb reach. */
  readonly handError: number
  readonly footError: number
  /** Height of the lowest place of the body over the ground as a share of height: negative is under it. Of its surface where that is known, else of the balls of its feet. */
  readonly clearance: number
  /** Smallest distance of an arm from the body's own surface as carried over and after corrections, metres; only where elbow room is kept. */
  readonly armRoom?: number
  readonly armRoomBefore?: number
}

/** What {@link measureTransfer} looks at. */
export const measuredRoles = (joints: Readonly<Record<string, number>>): string[] => [
  ...new Set([...limbsOf(joints).flatMap(([a, , c]) => [a, c]), ...legsOf(joints).map(leg => ballRole(joints, leg))]),
]

/**
 * How far hands and feet are from where the performer's are, told from the shoulder and hip and scaled by limb reach: N by role,
 * units of the figure. @param theirs, own tracks of {@link measuredRoles}
 */
export function endsApart(
  performer: Played,
  figure: Played,
  theirs: Tracks,
  own: Tracks,
): Record<string, Float32Array> {
  const pr = framedPositions(performer.skeleton, performer.frame)
  const fr = framedPositions(figure.skeleton, figure.frame)
  const reach = (p: readonly Vec3[], joints: Readonly<Record<string, number>>, limb: readonly string[]): number =>
    distance(p[joints[limb[0]]], p[joints[limb[1]]]) + distance(p[joints[limb[1]]], p[joints[limb[2]]])
  const out: Record<string, Float32Array> = {}
  for (const limb of limbsOf(figure.joints)) {
    const apart = (out[limb[2]] = new Float32Array(figure.take.frames))
    const a = theirs[limb[0]],
      b = theirs[limb[2]],
      c = own[limb[0]],
      d = own[limb[2]]
    if (!a || !b || !c || !d) continue
    const ratio = reach(fr, figure.joints, limb) / (reach(pr, performer.joints, limb) || 1)
    for (let f = 0, i = 0; f < apart.length; f++, i += 3) {
      const x = d[i] - c[i] - ratio * (b[i] - a[i]),
        y = d[i + 1] - c[i + 1] - ratio * (b[i + 1] - a[i + 1]),
        z = d[i + 2] - c[i + 2] - ratio * (b[i + 2] - a[i + 2])
      apart[f] = Math.sqrt(x * x + y * y + z * z)
    }
  }
  return out
}

/** Measures a transferred take against the performer's. */
export function measureTransfer(
  performer: Played,
  figure: Played,
  contacts: Contacts,
  theirs: Tracks = tracksOf(performer, measuredRoles(performer.joints)),
  own: Tracks = tracksOf(figure, measuredRoles(figure.joints)),
): TransferMeasures {
  const rest = framedPositions(figure.skeleton, figure.frame)
  const height = maxOf(rest.map(p => p[1])) - minOf(rest.map(p => p[1])) || 1
  const apart = Object.entries(endsApart(performer, figure, theirs, own))
  const mean = (end: 'Hand' | 'Foot'): number => {
    const tracks = apart.filter(([role]) => role.endsWith(end)).map(([, track]) => track)
    let sum = 0
    for (const track of tracks) for (let f = 0; f < track.length; f++) sum += track[f]
    return sum / Math.max(1, tracks.length * figure.take.frames) / height
  }
  return {
    footSkateMetresPerSecond: footSkate(figure, contacts, own),
    height,
    handError: mean('Hand'),
    footError: mean('Foot'),
    clearance: lowestBall(figure, rest, own) / height,
  }
}

/** Lowest height of the ball of a foot over where it stands. */
function lowestBall({ joints }: Played, rest: readonly Vec3[], tracks: Tracks): number {
  let lowest = Infinity
  for (const leg of legsOf(joints)) {
    const role = ballRole(joints, leg)
    const track = tracks[role]
    if (!track) continue
    const floor = rest[joints[role]][1]
    for (let i = 1; i < track.length; i += 3) lowest = Math.min(lowest, track[i] - floor)
  }
  return Number.isFinite(lowest) ? lowest : 0
}
