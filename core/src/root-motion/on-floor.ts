import {
  conjugate,
  fromTo,
  IDENTITY,
  multiply,
  quatAt,
  rotate,
  slerp,
  sub,
  vec3At,
  type Quat,
  type Vec3,
} from '../math'
import {
  createLimbSolver,
  evened,
  followPlaces,
  limbOf,
  reachingLimb,
  rootPath,
  type Contacts,
  type Followed,
  type Played,
  type Take,
} from '../motion'
import { forwardKinematics, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { kneeWay, legsOf } from '../body'
import type { Sole } from '../surface'
import { moveWhole } from './move-whole'
import { overStairs, stairHeight } from './on-stairs'
import type { FloorSettings } from './settings'

/** Metres a floor rises on a metre of the way. */
const floorRise = (degrees = 0): number => Math.tan((degrees * Math.PI) / 180)

/** How high a floor lies, metres, so far across and ahead of where bodies stand at rest, metres. */
export const floorHeight = (floor: FloorSettings, x: number, z: number): number =>
  slopeHeight(floor, x, z) + (floor.stairs ? stairHeight(floor.stairs, z) : 0)

/** The same without stairs. */
const slopeHeight = ({ height = 0, ahead, across }: FloorSettings, x: number, z: number): number =>
  height + floorRise(across) * x + floorRise(ahead) * z

/** How high over the floor a foot no longer lies along it, share of the leg. */
const LIES = 0.12
/** A leg is not stretched farther than this share of its length. */
const STRETCH = 0.985
/** Seconds over which the hips come down where a leg would be too short, and over which the body follows the floor. */
const SINKS = 0.3,
  FOLLOWS = 0.6,
  CLIMBS = 0.35

/** Points of a sole in the order of their heights at rest. */
const POINTS = ['heel', 'ball', 'tip'] as const

/**
 * Stands a take made on flat ground on a floor that lies higher, slopes or has stairs: the body follows the floor under it, every foot is as high
 * over the floor at its place as it was over the ground, feet near it lie along it, and the hips come down where a leg
 * would be too short. Places over the ground stay, so what rested still rests.
 * @param contacts when balls of feet rest, for stairs
 * @param lift how far the ground lies over feet at rest, unit of the skeleton
 * @param root name of the joint that carries travel
 */
export function standOnFloor(
  played: Played,
  soles: Readonly<Record<string, Sole>>,
  floor: FloorSettings,
  {
    contacts = {},
    lift = 0,
    unit = 1,
    root,
  }: {
    readonly contacts?: Contacts
    readonly lift?: number
    readonly unit?: number
    readonly root?: string
  } = {},
): Take {
  const { skeleton, joints, frame, take } = played
  const n = take.frames
  const at = (x: number, z: number): number => slopeHeight(floor, x * unit, z * unit) / unit
  const along = fromTo([0, 1, 0], [-floorRise(floor.across), 1, -floorRise(floor.ahead)])
  const rest = worldPose(skeleton)
  const hips = rotate(frame, vec3At(rest.positions, joints.hips))
  const path = rootPath(played, FOLLOWS)
  const back = conjugate(frame)
  const J = skeleton.names.length
  const legs = legsOf(joints).flatMap(leg => {
    const chain = ['UpperLeg', 'LowerLeg', 'Foot'].map(p => joints[leg + p])
    return soles[leg] && chain.every(j => j !== undefined) ? [{ leg, chain, sole: soles[leg] }] : []
  })
  const tracks = followPlaces(
    played,
    legs.flatMap(({ chain, sole }): Followed[] => [
      { joint: chain[0] },
      { joint: chain[2] },
      ...POINTS.map(p => sole[p]),
    ]),
  )
  const { stairs } = floor
  const climbs = legs.map(({ leg, sole }, i) => {
    const low = sole.rest.map(y => y + lift)
    const points = tracks.slice(5 * i + 2, 5 * i + 5)
    return stairs && overStairs(points, low, contacts[leg] ?? new Uint8Array(n), { ...floor, stairs }, unit, take)
  })
  // the body follows the floor under it, on stairs the middle of its feet
  const climbed = climbs.some(c => c !== undefined)
    ? evened(
        Float64Array.from({ length: n }, (_, f) => climbs.reduce((s, c) => s + (c?.higher[f] ?? 0), 0) / legs.length),
        Math.max(1, Math.round(CLIMBS * take.fps)),
      )
    : undefined
  const body = Float64Array.from(
    { length: n },
    (_, f) => at(hips[0] + path.across[f], hips[2] + path.ahead[f]) + (climbed?.[f] ?? 0),
  )
  const placed = legs.map(({ leg, chain, sole }, i) => {
    const [top, ankle, , ball] = tracks.slice(5 * i, 5 * i + 5)
    const climb = climbs[i]
    const limb = reachingLimb(skeleton, rest, limbOf(rest, chain[0], chain[1], chain[2], rotate(back, kneeWay(leg))))
    const bone = (a: number, b: number): number =>
      Math.hypot(...sub(vec3At(rest.positions, a), vec3At(rest.positions, b)))
    const long = bone(chain[0], chain[1]) + bone(chain[1], chain[2])
    const turns: Quat[] = []
    const places: Vec3[] = []
    for (let f = 0; f < n; f++) {
      const b = vec3At(ball, f),
        a = vec3At(ankle, f)
      const over = Math.max(0, b[1] - sole.rest[1] - lift) / (LIES * long)
      const lies = over >= 1 ? 0 : 1 - over * over * (3 - 2 * over)
      const turn = slerp(IDENTITY, along, lies)
      const foot = rotate(turn, sub(a, b))
      turns.push(turn)
      const z = b[2] + (climb?.ahead[f] ?? 0)
      places.push([b[0] + foot[0], b[1] + at(b[0], z) + (climb?.higher[f] ?? 0) + foot[1], z + foot[2]])
    }
    return { limb, long, top, ankle, turns, places, end: chain[2] }
  })
  const sunk = sinking(placed, body, take)
  const moved = moveWhole(played, f => ({ at: rotate(back, [0, body[f] - sunk[f], 0]), turn: [0, 0, 0, 1] }), root)
  const frames = { rotations: moved.rotations.slice(), translations: moved.translations }
  const solver = createLimbSolver(skeleton)
  const pose = worldPoseBuffer(J)
  const ways = waysTo(
    skeleton,
    placed.map(p => p.end),
  )
  for (let f = 0; f < n; f++) {
    forwardKinematics(skeleton.parents, ways, frames.translations, frames.rotations, f * J, pose)
    for (const { limb, places, turns, end } of placed) {
      const turn = multiply(multiply(multiply(back, turns[f]), frame), quatAt(pose.rotations, end))
      solver.reach(limb, pose, frames, f * J, { place: rotate(back, places[f]), turn, firm: true })
    }
  }
  return { ...moved, rotations: frames.rotations }
}

/** How far the hips come down in each frame so that every leg reaches, coming and going softly. */
function sinking(
  legs: readonly {
    readonly long: number
    readonly top: Float32Array
    readonly ankle: Float32Array
    readonly places: readonly Vec3[]
  }[],
  body: Float64Array,
  { frames, fps }: Take,
): Float64Array {
  const needed = new Float64Array(frames)
  for (const { long, top, ankle, places } of legs)
    for (let f = 0; f < frames; f++) {
      const [x, y, z] = sub(places[f], [top[3 * f], top[3 * f + 1] + body[f], top[3 * f + 2]])
      const flat = x * x + z * z
      // a leg that was straighter before may be so again
      const was = Math.hypot(...sub(vec3At(ankle, f), vec3At(top, f)))
      const most = Math.max(STRETCH * long, was) ** 2
      if (flat + y * y > most && flat < most) needed[f] = Math.max(needed[f], -y - Math.sqrt(most - flat))
    }
  const reach = Math.max(1, Math.round(SINKS * fps))
  // the most of all around, evened out: never less than what a frame needs
  const over = needed.map((_, f) => {
    let most = 0
    for (let g = Math.max(0, f - reach); g <= Math.min(frames - 1, f + reach); g++) most = Math.max(most, needed[g])
    return most
  })
  return evened(over, Math.max(1, Math.round(reach / 2)))
}
