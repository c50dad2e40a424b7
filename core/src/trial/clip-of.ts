import { rootPath, type Contacts, type MovingGround, type Played, type Take } from '../motion'
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
