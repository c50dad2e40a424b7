import { rotate, vec3At } from '../math'
import { worldPose } from '../skeleton'
import { ballRole, legsOf } from '../body'
import { ballTracks, quantile, type Played, type Tracks } from './tracks'

/** Frames in which a foot rests on the ground: N flags by leg, as {@link legsOf} names them. */
export type Contacts = Readonly<Record<string, Uint8Array>>

/** A resting foot stays this near its lowest height and this slow, in leg lengths and leg lengths a second. */
const NEAR = 0.04,
  SLOW = 0.3
/** Half the time over which speed is told, shortest rest, and shortest lift between two rests, seconds. */
const LOOK = 1 / 30,
  SHORTEST = 0.055,
  BLINK = 0.04
/** A foot as good as still for this long rests wherever it is, on a step or a rung: leg lengths a second, seconds. */
const STILL = 0.12,
  STAYS = 0.2

/**
 * Finds foot contacts: the ball of the foot (or the ankle) stays near its lowest height and nearly still, or still at any height. Everything is told in
 * seconds and leg lengths, so that rate, unit and size of the recording do not matter.
 * @param tracks of the balls of both feet, where they are at hand
 */
export function findContacts(played: Played, tracks: Tracks = ballTracks(played)): Contacts {
  const { skeleton, joints, take, frame } = played
  const rest = worldPose(skeleton)
  const height = (j: number): number => rotate(frame, vec3At(rest.positions, j))[1]
  const ofLeg = (leg: string): Uint8Array => {
    const role = ballRole(joints, leg)
    const track = tracks[role]
    const flags = new Uint8Array(take.frames)
    if (!track) return flags
    const long = Math.abs(height(joints.hips) - height(joints[role])) || 1
    const heights = new Float32Array(take.frames)
    for (let f = 0; f < take.frames; f++) heights[f] = track[3 * f + 1]
    const low = quantile(heights, 0.05)
    const reach = Math.max(1, Math.round(LOOK * take.fps))
    const stays = new Uint8Array(take.frames)
    for (let f = 0; f < take.frames; f++) {
      const a = Math.max(0, f - reach),
        b = Math.min(take.frames - 1, f + reach)
      const span = Math.max(1, b - a) / take.fps
      const dx = track[3 * b] - track[3 * a],
        dy = track[3 * b + 1] - track[3 * a + 1],
        dz = track[3 * b + 2] - track[3 * a + 2]
      const speed = Math.sqrt(dx * dx + dy * dy + dz * dz) / span
      if (speed < STILL * long) stays[f] = 1
      if (heights[f] < low + NEAR * long && speed < SLOW * long) flags[f] = 1
    }
    forgetRuns(stays, 1, Math.floor(STAYS * take.fps), true)
    for (let f = 0; f < take.frames; f++) flags[f] |= stays[f]
    forgetRuns(flags, 0, Math.round(BLINK * take.fps))
    forgetRuns(flags, 1, Math.floor(SHORTEST * take.fps))
    return flags
  }
  return Object.fromEntries(legsOf(joints).map(leg => [leg, ofLeg(leg)]))
}

/** Turns runs of `value` of at most `longest` frames into their neighbours' value; those at the ends stay, unless `ends`. */
function forgetRuns(flags: Uint8Array, value: 0 | 1, longest: number, ends = false): void {
  for (let f = 0; f < flags.length; f++) {
    if (flags[f] !== value) continue
    let end = f
    while (end + 1 < flags.length && flags[end + 1] === value) end++
    if ((ends || (f > 0 && end + 1 < flags.length)) && end - f + 1 <= longest) flags.fill(1 - value, f, end + 1)
    f = end
  }
}

/** Mean speed over the ground of resting feet, units a second; 0 where no foot rests. */
export function footSkate(played: Played, contacts: Contacts, tracks: Tracks = ballTracks(played)): number {
  let way = 0
  let steps = 0
  for (const [leg, rests] of Object.entries(contacts)) {
    const track = tracks[ballRole(played.joints, leg)]
    if (!track) continue
    for (let f = 1; f < played.take.frames; f++) {
      if (!rests[f] || !rests[f - 1]) continue
      way += Math.hypot(track[3 * f] - track[3 * f - 3], track[3 * f + 2] - track[3 * f - 1])
      steps++
    }
  }
  return steps > 0 ? (way / steps) * played.take.fps : 0
}
