import { rootPath, runsOf, type Contacts, type MovingGround, type Played, type Take } from '../motion'
import { trimTake } from '../adjust'
import { legsOf } from '../body'
import { gaitOf, onceOf, standOf, type Clip } from './clip'

/** Slower than this, metres a second, no take goes anywhere. */
const SLOW = 0.35
/** Radians a second a cycle may turn; what turns more in itself is done once. */
const TURNS = 1.2
/** A take that stands ends no farther than this from where it began, metres, and is as it was then within this much a joint on average, radians. */
const STAYS = 0.3,
  COMES_BACK = 0.12
/** Radians it may be turned at its end. */
const FACES = 0.35
/** Words of takes that stand whatever they do. */
const STANDS = /(^|[^\p{L}])(idle|stand|wait)([^\p{L}]|$)/iu
/** Share of a take that must be like its cycle, for the take to be one of steps. */
const STEADY = 0.3

/** What a take is: measured, its name asked only where it stands. */
export function clipOf(played: Played, contacts: Contacts, ground?: MovingGround): Clip {
  const { take } = played
  const onTheWay = ground ? undefined : setOffOrStop(played, contacts)
  if (onTheWay) return onTheWay
  const path = rootPath(played)
  const last = take.frames - 1
  const gait = gaitOf(played, contacts, { ground })
  if (gait && gait.speed > SLOW && Math.abs(gait.turn) < TURNS && isSteady(played, path, gait, ground !== undefined))
    return gait
  const far = Math.hypot(path.across[last] - path.across[0], path.ahead[last] - path.ahead[0])
  const turned = Math.abs(path.turn[last] - path.turn[0])
  if (far < STAYS && turned < FACES && !ground && (STANDS.test(take.name) || endsAsItBegan(take)))
    return standOf(played)
  return onceOf(played, contacts)
}

/** Words of takes in which somebody sets off, and of those in which somebody comes to stand. */
const SETS_OFF = /(^|[^\p{L}])(start|set|sets|begin)([^\p{L}]|$)/iu
const STOPS = /(^|[^\p{L}])(stop|stops|halt|halts)([^\p{L}]|$)/iu
/** Seconds in which it is told how fast a take goes at an end of it. */
const AT_END = 0.3
/** Slower than this it stands. */
const STILL = 0.2

/**
 * A take that begins standing and ends going, or the other way around, cut where the first leg lands: there it goes over into steps or
 * comes out of them. What it is for is told by its name, that it does so is measured.
 */
function setOffOrStop(played: Played, contacts: Contacts): Clip | undefined {
  const { take, joints } = played
  const sets = SETS_OFF.test(take.name),
    stops = STOPS.test(take.name)
  if (sets === stops) return undefined
  const [leg] = legsOf(joints).filter(l => contacts[l]?.includes(1))
  if (leg === undefined) return undefined
  const landings = runsOf(contacts[leg]).flatMap(([first]) => (first > 0 ? [first] : []))
  const path = rootPath(played, AT_END)
  const reach = Math.max(1, Math.round(AT_END * take.fps))
  const speed = (a: number, b: number): number =>
    (Math.hypot(path.across[b] - path.across[a], path.ahead[b] - path.ahead[a]) * take.fps) / Math.max(1, b - a)
  const last = take.frames - 1
  const cut = sets ? landings[landings.length - 1] : landings[0]
  if (cut === undefined || (sets ? cut < reach : last - cut < reach)) return undefined
  const goes = sets ? speed(cut - reach, cut) : speed(cut, cut + reach)
  const stands = sets ? speed(0, Math.min(last, reach)) : speed(last - reach, last)
  if (goes < SLOW || stands > STILL) return undefined
  const [from, to] = sets ? [0, cut] : [cut, last]
  const clip = onceOf(
    { ...played, take: trimTake(take, from / take.fps, to / take.fps) },
    cutContacts(contacts, from, to),
  )
  return { ...clip, ...(sets ? { ends: goes } : { begins: goes }) }
}

const cutContacts = (contacts: Contacts, from: number, to: number): Contacts =>
  Object.fromEntries(Object.entries(contacts).map(([leg, flags]) => [leg, flags.slice(from, to + 1)]))

/** Whether a take goes as its cycle does over most of it: one that starts, stops or hops goes so only for a while. */
function isSteady(played: Played, path: ReturnType<typeof rootPath>, gait: Clip, onTheSpot: boolean): boolean {
  if (onTheSpot) return true
  const { take } = played
  const n = take.frames
  const step = Math.max(1, Math.round((gait.seconds / 2) * take.fps))
  let like = 0,
    all = 0
  for (let f = 0; f + step < n; f += Math.max(1, step >> 2)) {
    const speed =
      (Math.hypot(path.across[f + step] - path.across[f], path.ahead[f + step] - path.ahead[f]) / step) * take.fps
    all++
    if (Math.abs(speed - gait.speed) < STEADY * gait.speed) like++
  }
  return all === 0 || like / all > 0.75
}

function endsAsItBegan({ rotations: R, frames }: Take): boolean {
  const J = R.length / (4 * frames)
  const end = 4 * J * (frames - 1)
  let sum = 0
  for (let j = 0; j < J; j++) {
    let dot = 0
    for (let c = 0; c < 4; c++) dot += R[4 * j + c] * R[end + 4 * j + c]
    sum += 2 * Math.acos(Math.min(1, Math.abs(dot)))
  }
  return sum / J < COMES_BACK
}
