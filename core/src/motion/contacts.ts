import { rotate, vec3At } from '../math'
import { worldPose } from '../skeleton'
import { ballRole, legsOf } from '../body'
import { ballTracks, followPlaces, quantile, type Played, type Tracks } from './tracks'

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
 * @param ground how the ground moves, see {@link movingGround}
 */
export function findContacts(
  played: Played,
  tracks: Tracks = ballTracks(played),
  ground: MovingGround | undefined = movingGround(played, tracks),
): Contacts {
  const { joints, take } = played
  return Object.fromEntries(
    legsOf(joints).map(leg => {
      const role = ballRole(joints, leg)
      const track = tracks[role]
      return [leg, track ? restsOf(track, take.fps, legLength(played, role), ground) : new Uint8Array(take.frames)]
    }),
  )
}

/** Height of the hips over the ball of a foot at rest, unit of the skeleton. */
function legLength({ skeleton, joints, frame }: Played, role: string): number {
  const rest = worldPose(skeleton)
  const height = (j: number): number => rotate(frame, vec3At(rest.positions, j))[1]
  return Math.abs(height(joints.hips) - height(joints[role])) || 1
}

/**
 * When a place of a body rests: near its lowest height and nearly still, or still at any height.
 * @param track 3·N  @param long length of a leg
 */
export function restsOf(track: Float32Array, fps: number, long: number, ground?: MovingGround): Uint8Array {
  const frames = track.length / 3
  const flags = new Uint8Array(frames)
  const heights = new Float32Array(frames)
  for (let f = 0; f < frames; f++) heights[f] = track[3 * f + 1]
  const low = quantile(heights, 0.05)
  const reach = Math.max(1, Math.round(LOOK * fps))
  const stays = new Uint8Array(frames)
  const gx = ground?.x ?? 0,
    gz = ground?.z ?? 0
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - reach),
      b = Math.min(frames - 1, f + reach)
    const span = Math.max(1, b - a) / fps
    const dx = track[3 * b] - track[3 * a] - span * gx,
      dy = track[3 * b + 1] - track[3 * a + 1],
      dz = track[3 * b + 2] - track[3 * a + 2] - span * gz
    const speed = Math.sqrt(dx * dx + dy * dy + dz * dz) / span
    if (speed < STILL * long) stays[f] = 1
    if (heights[f] < low + NEAR * long && speed < SLOW * long) flags[f] = 1
  }
  forgetRuns(stays, 1, Math.floor(STAYS * fps), true)
  for (let f = 0; f < frames; f++) flags[f] |= stays[f]
  forgetRuns(flags, 0, Math.round(BLINK * fps))
  forgetRuns(flags, 1, Math.floor(SHORTEST * fps))
  return flags
}

/** How the ground runs away under a body that walks on the spot, in its own frame, units a second. */
export interface MovingGround {
  readonly x: number
  readonly z: number
}

/** On the spot: hips slower and feet on the ground faster than this, leg lengths a second; shares of the time feet are low, and of that time they go one way. */
const STAYING = 0.12,
  RUNNING = 0.35,
  LOW_TIME = 0.3,
  ONE_WAY = 0.55

/**
 * Tells a take in which the ground moves and the body does not: hips that stay where they are over feet that, while low,
 * travel one way at one speed.
 * @returns undefined where the ground rests
 */
export function movingGround(played: Played, tracks: Tracks = ballTracks(played)): MovingGround | undefined {
  const { joints, take } = played
  const n = take.frames
  const legs = legsOf(joints).flatMap(leg => {
    const role = ballRole(joints, leg)
    const track = tracks[role]
    return track ? [{ track, long: legLength(played, role) }] : []
  })
  if (legs.length < 2 || n < 4) return undefined
  const { long } = legs[0]
  const hips = tracks.hips ?? followPlaces(played, [{ joint: joints.hips }])[0]
  const gone = Math.hypot(hips[3 * n - 3] - hips[0], hips[3 * n - 1] - hips[2])
  if ((gone * take.fps) / (n - 1) > STAYING * long) return undefined
  const ways: [number, number][] = []
  for (const { track } of legs) {
    const heights = Float32Array.from({ length: n }, (_, f) => track[3 * f + 1])
    const low = quantile(heights, 0.05)
    for (let f = 1; f + 1 < n; f++)
      if (heights[f] < low + NEAR * long)
        ways.push([
          ((track[3 * f + 3] - track[3 * f - 3]) * take.fps) / 2,
          ((track[3 * f + 5] - track[3 * f - 1]) * take.fps) / 2,
        ])
  }
  if (ways.length < LOW_TIME * legs.length * n) return undefined
  const x = quantile(
      ways.map(w => w[0]),
      0.5,
    ),
    z = quantile(
      ways.map(w => w[1]),
      0.5,
    )
  const speed = Math.hypot(x, z)
  if (speed < RUNNING * long) return undefined
  const with_ = ways.filter(w => Math.hypot(w[0] - x, w[1] - z) < 0.35 * speed)
  if (with_.length < ONE_WAY * ways.length) return undefined
  // the mean of those that go along is told finer than the one in the middle
  return {
    x: with_.reduce((s, w) => s + w[0], 0) / with_.length,
    z: with_.reduce((s, w) => s + w[1], 0) / with_.length,
  }
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

/**
 * Mean speed over the ground of resting feet, units a second; 0 where no foot rests.
 * @param ground how the ground itself moves
 */
export function footSkate(
  played: Played,
  contacts: Contacts,
  tracks: Tracks = ballTracks(played),
  ground: MovingGround = { x: 0, z: 0 },
): number {
  const { fps } = played.take
  let way = 0
  let steps = 0
  for (const [leg, rests] of Object.entries(contacts)) {
    const track = tracks[ballRole(played.joints, leg)]
    if (!track) continue
    for (let f = 1; f < played.take.frames; f++) {
      if (!rests[f] || !rests[f - 1]) continue
      way += Math.hypot(
        track[3 * f] - track[3 * f - 3] - ground.x / fps,
        track[3 * f + 2] - track[3 * f - 1] - ground.z / fps,
      )
      steps++
    }
  }
  return steps > 0 ? (way / steps) * fps : 0
}

/** Runs of frames with a flag, first and last. */
export function runsOf(flags: Uint8Array): [number, number][] {
  const out: [number, number][] = []
  for (let f = 0; f < flags.length; f++) {
    if (!flags[f]) continue
    let end = f
    while (end + 1 < flags.length && flags[end + 1]) end++
    out.push([f, end])
    f = end
  }
  return out
}
