import { rotate, vec3At, within, type Rigid } from '../math'
import {
  rootPath,
  ROOT_CHANNELS,
  takeSeconds,
  type Contacts,
  type Played,
  type RootChannel,
  type RootPath,
  type Take,
} from '../motion'
import { holdFeet } from '../correct'
import { worldPose } from '../skeleton'
import type { Sole } from '../surface'
import { travelFromFeet } from './from-feet'
import { inSkeletonSpace, moveWhole, type GroundMove } from './move-whole'
import { standOnFloor } from './on-floor'
import { rootJoint } from './root-joint'
import { isFloor, ROOT_SMOOTH, type RootSettings } from './settings'
import { splitRoot, type RootShare } from './split'
import { alongWay, wayGone } from './way'

/** What is known of the feet of a body in a take. */
export interface Feet {
  readonly soles: Readonly<Record<string, Sole>>
  /** When they rest, by leg. */
  readonly contacts: Contacts
  /** How far the ground lies over them at rest. */
  readonly lift?: number
  /** Metres a unit of the skeleton is. */
  readonly unit?: number
}

/** A take as it travels. */
export interface Rooted {
  readonly take: Take
  /** Where the body goes, as it is told to, evened out; what is dropped is still in it. */
  readonly path: RootPath
  /** How the body was moved against the take that came in, in the space of the skeleton, frame by frame; undefined where it was not. */
  readonly moved?: (f: number) => Rigid
  /** Travel was asked for on a root, and the hips hang on nothing. */
  readonly noRoot: boolean
}

/** Whether settings leave every take as it is. */
export const leavesTravel = (settings: RootSettings | undefined): boolean =>
  settings === undefined ||
  (ROOT_CHANNELS.every(c => settings[c] === undefined) &&
    !settings.fromFeet &&
    !settings.way &&
    !isFloor(settings.floor) &&
    !settings.start?.length &&
    !settings.close?.length)

/**
 * Last stage of a take: how it travels. In turn: travel found from the feet, another way over the ground, ends that meet, the
 * start, channels dropped, and what is left put on root or hips. Whatever is only put elsewhere leaves every joint
 * where it is in the world. Where the way changes, resting feet are held anew.
 * @returns the same take where nothing is asked for
 */
export function rootTake(played: Played, settings: RootSettings, feet: Feet): Rooted {
  const smooth = settings.smooth ?? ROOT_SMOOTH
  const { frame } = played
  const unit = feet.unit ?? 1
  let own = played
  let moved: ((f: number) => Rigid) | undefined
  const move = (by: (f: number) => GroundMove, about?: (f: number) => readonly [number, number]): void => {
    const each = rigidMoves(by, about, frame)
    const before = moved
    moved = before ? f => within(each(f), before(f)) : each
    own = { ...own, take: moveWhole(own, each, settings.joint) }
  }
  if (settings.fromFeet) {
    const shift = travelFromFeet(own, feet.soles)
    move(f => ({ shift: [shift[2 * f], 0, shift[2 * f + 1]], turn: 0 }))
  }
  let path = rootPath(own, smooth)
  const standing = standsAt(own)
  const here = (f: number): [number, number] => [standing[0] + path.across[f], standing[1] + path.ahead[f]]
  const before = own
  const { way, close = [], start = [] } = settings
  if (way) {
    // steps sway beside the way, whatever amount of it goes on the root
    const even = rootPath(own, Math.max(ROOT_SMOOTH, smooth))
    const other = alongWay(even, way, unit)
    move(
      f => ({
        shift: [other.across[f] - even.across[f], 0, other.ahead[f] - even.ahead[f]],
        turn: other.turned[f],
      }),
      f => [standing[0] + even.across[f], standing[1] + even.ahead[f]],
    )
    path = rootPath(own, smooth)
  }
  const last = played.take.frames - 1
  if (close.length > 0 && last > 0) {
    const gap = (c: RootChannel): number => (close.includes(c) ? path[c][last] - path[c][0] : 0)
    const [x, y, z] = [gap('across'), gap('height'), gap('ahead')]
    // a whole round is no gap
    const t = gap('turn') - 2 * Math.PI * Math.round(gap('turn') / (2 * Math.PI))
    move(f => ({ shift: [(-x * f) / last, (-y * f) / last, (-z * f) / last], turn: (-t * f) / last }), here)
    path = rootPath(own, smooth)
  }
  // resting feet stay where they stood on the way they had
  if ((way || close.length > 0) && Object.keys(feet.soles).length > 0) {
    const lift = feet.lift ?? 0
    const held = holdFeet(
      { played: own, soles: feet.soles, lift },
      { played: before, soles: feet.soles, lift },
      { travel: { scale: 1 }, contacts: feet.contacts, still: true },
    )
    own = { ...own, take: held }
    path = rootPath(own, smooth)
  }
  if (start.length > 0) {
    const [x, z, t] = [path.across[0], path.ahead[0], path.turn[0]]
    const place = start.includes('place')
    const facing = start.includes('facing')
    move(
      () => ({ shift: place ? [-x, 0, -z] : [0, 0, 0], turn: facing ? -t : 0 }),
      () => [standing[0] + x, standing[1] + z],
    )
    path = rootPath(own, smooth)
  }
  if (isFloor(settings.floor)) {
    const { contacts, lift, unit } = feet
    const on = { contacts, lift, unit, root: settings.joint }
    own = { ...own, take: standOnFloor(own, feet.soles, settings.floor, on) }
    path = rootPath(own, smooth)
  }
  const travelled = path
  const gone = (c: RootChannel): boolean => settings[c] === 'dropped'
  if (ROOT_CHANNELS.some(gone)) {
    const away = (c: RootChannel, f: number): number => (gone(c) ? path[c][0] - path[c][f] : 0)
    move(f => ({ shift: [away('across', f), away('height', f), away('ahead', f)], turn: away('turn', f) }), here)
    path = dropped(path, gone)
  }
  const shares = Object.fromEntries(ROOT_CHANNELS.map(c => [c, shareOf(settings[c])])) as Record<RootChannel, RootShare>
  const onRoot = ROOT_CHANNELS.some(c => settings[c] === 'root')
  const root = rootJoint(own.skeleton, own.joints, settings.joint)
  return {
    take: splitRoot(own, path, shares, settings.joint),
    path: travelled,
    moved,
    noRoot: onRoot && root === undefined,
  }
}

const shareOf = (place: RootSettings[RootChannel]): RootShare =>
  place === undefined ? 'as-it-came' : place === 'root' ? 'all' : 'none'

/** A path whose dropped channels stay as they began. */
const dropped = (path: RootPath, gone: (c: RootChannel) => boolean): RootPath =>
  Object.fromEntries(
    ROOT_CHANNELS.map(c => [c, gone(c) ? new Float64Array(path[c].length).fill(path[c][0]) : path[c]]),
  ) as unknown as RootPath

/** Where the hips stand over the ground at rest, across and ahead. */
function standsAt({ skeleton, joints, frame }: Played): readonly [number, number] {
  const p = rotate(frame, vec3At(worldPose(skeleton).positions, joints.hips))
  return [p[0], p[2]]
}

/** Moves that turn about a place on the ground before they shift. */
const rigidMoves =
  (
    by: (f: number) => GroundMove,
    about: ((f: number) => readonly [number, number]) | undefined,
    frame: Played['frame'],
  ) =>
  (f: number): Rigid => {
    const { shift, turn } = by(f)
    const at = about?.(f)
    if (!at || turn === 0) return inSkeletonSpace({ shift, turn }, frame)
    const away = inSkeletonSpace({ shift: [-at[0], 0, -at[1]], turn: 0 }, frame)
    return within(inSkeletonSpace({ shift: [shift[0] + at[0], shift[1], shift[2] + at[1]], turn }, frame), away)
  }

/** How far and how fast a take goes. */
export interface Pace {
  /** Way over the ground and straight from beginning to end, metres. */
  readonly way: number
  readonly straight: number
  /** Metres a second, over the whole take. */
  readonly speed: number
  /** Degrees to its left from beginning to end. */
  readonly turn: number
}

/** @param path as it travels, evened out  @param unit metres a unit of the skeleton is */
export function paceOf(take: Pick<Take, 'frames' | 'fps'>, path: RootPath, unit = 1): Pace {
  const last = take.frames - 1
  const way = last > 0 ? wayGone(path).gone[last] * unit : 0
  const seconds = takeSeconds(take as Take)
  return {
    way,
    straight: last > 0 ? unit * Math.hypot(path.across[last] - path.across[0], path.ahead[last] - path.ahead[0]) : 0,
    speed: seconds > 0 ? way / seconds : 0,
    turn: last > 0 ? ((path.turn[last] - path.turn[0]) * 180) / Math.PI : 0,
  }
}
