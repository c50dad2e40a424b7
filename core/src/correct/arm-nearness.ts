import { minOf, rotateAt } from '../math'
import type { Played } from '../motion'
import { forwardKinematics, worldPoseBuffer } from '../skeleton'
import type { BodyRadii, BodySurface, PosedDistance } from '../surface'
import { SIDES } from '../body'
import { nearestPlace, partsNear, sampleArms, SEEN, type Arm, type Nearest, type Seen } from './arm-samples'

/** How many of the nearest looks are measured on the surface itself. */
const NEAREST = 6
/** An arm this far off just clears the body, metres. */
export const TOUCHES = 0.005

type Side = (typeof SIDES)[number]

/** Measures the place of an arm that is deepest in the skinned surface at a look. */
export type ExactLook = (found: Nearest, i: number, arm: Arm, at: number, places: Float64Array, room: number) => void

/** Smallest distance of either arm from the body over a take, metres, negative inside it. */
export function armRoom(played: Played, surface: BodySurface): number {
  const seen = sampleArms(played, surface.radii)
  const exactly = surface.exact && exactLook(seen, surface.exact)
  return minOf(
    SIDES.map(side => {
      const arm = seen.arms[side]
      const clear = new Float64Array(seen.count)
      if (arm) look(seen, arm, clear, undefined, undefined, TOUCHES)
      return arm ? least(arm, clear, undefined, exactly) : Infinity
    }),
  )
}

/**
 * The smallest distance of an arm over all looks: where the tables, which hold the outermost flesh, call it near, on the
 * surface itself. Arms that never came as near as they are measured are clear.
 */
export function least(
  arm: Arm,
  clear: Float64Array,
  opened: Float64Array | undefined,
  exactly: ExactLook | undefined,
): number {
  const told = nearestOf(clear)
  if (!exactly || !(told < TOUCHES)) return told
  const n = arm.radii.length
  const places = new Float64Array(3 * n)
  const turn = new Float64Array(4)
  const found: Nearest = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  const order = Array.from(clear.keys())
    .filter(i => clear[i] < SEEN)
    .sort((a, b) => clear[a] - clear[b])
    .slice(0, NEAREST)
  let nearest = TOUCHES
  for (const i of order) {
    // the surface is never nearer than its outermost flesh
    if (clear[i] >= nearest) break
    placesAt(places, turn, arm, i, opened)
    exactly(found, i, arm, 3 * i * (1 + n), places, nearest)
    nearest = Math.min(nearest, found.clear)
  }
  return nearest
}

/** Smallest distance of an arm from the body over a take, metres, as the tables tell it. */
export function armClearance(played: Played, radii: BodyRadii, side: Side): number {
  const seen = sampleArms(played, radii)
  const arm = seen.arms[side]
  const clear = new Float64Array(seen.count)
  if (arm) look(seen, arm, clear, undefined, undefined, -Infinity)
  return arm ? nearestOf(clear) : Infinity
}

/** The smallest distance; arms that never came as near as they are measured are clear. */
function nearestOf(clear: Float64Array): number {
  let nearest = Infinity
  for (let i = 0; i < clear.length; i++) nearest = Math.min(nearest, clear[i])
  return nearest < SEEN ? nearest : Infinity
}

/** Where an arm is at a look, turned as it was opened. */
export function placesAt(
  places: Float64Array,
  turn: Float64Array,
  arm: Arm,
  i: number,
  opened: Float64Array | undefined,
): void {
  const n = arm.radii.length
  const at = 3 * i * (1 + n)
  fromVector(turn, opened, 3 * i)
  if (opened) inWorld(turn, arm.hung, 4 * i)
  for (let m = 0; m < n; m++)
    rotateAt(places, 3 * m, turn, 0, arm.places[at + 3 + 3 * m], arm.places[at + 4 + 3 * m], arm.places[at + 5 + 3 * m])
}

/** Whether an arm was opened at a look. */
export const openedAt = (turns: Float64Array, i: number): boolean =>
  turns[3 * i] !== 0 || turns[3 * i + 1] !== 0 || turns[3 * i + 2] !== 0

/**
 * How near an arm is to the tables at each look, or at least is where that is neither the nearest nor within the room.
 * @param changed where the arm was opened since it was looked at last; undefined looks everywhere
 */
export function look(
  seen: Seen,
  arm: Arm,
  clear: Float64Array,
  opened: Float64Array | undefined,
  changed: Float64Array | undefined,
  room: number,
): void {
  const n = arm.radii.length
  const turn = new Float64Array(4)
  const places = new Float64Array(3 * n)
  const found: Nearest = { clear: 0, sample: 0, x: 0, y: 0, z: 0 }
  let nearest = SEEN
  for (let i = 0; i < seen.count; i++) {
    if (changed && !openedAt(changed, i)) continue
    placesAt(places, turn, arm, i, opened)
    // what is farther than both need not be known
    nearestPlace(found, seen, i, arm, 3 * i * (1 + n), places, Math.max(room, nearest))
    clear[i] = found.clear
    nearest = Math.min(nearest, found.clear)
  }
}

/** The surface is looked for this much beyond where the tables say it is, metres. */
const BEYOND = 0.01

/**
 * Measures the place of an arm that is deepest in the skinned surface, in place of what the tables told. They hold the
 * outermost flesh: only what they call nearer than the room needs a closer look.
 */
export function exactLook(seen: Seen, exact: NonNullable<BodySurface['exact']>): ExactLook {
  const { skeleton, take } = seen.played
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  let posed = -1
  const from: number[] = []
  const hit: PosedDistance = { distance: 0, x: 0, y: 0, z: 0 }
  return (found, i, arm, at, places, room) => {
    found.clear = Infinity
    for (let m = 0; m < arm.radii.length; m++) {
      const told = partsNear(from, seen, i, arm, at, places, m, room)
      if (from.length === 0) continue
      if (posed !== i) {
        const frame = Math.min(take.frames - 1, i * seen.step)
        forwardKinematics(skeleton.parents, undefined, take.translations, take.rotations, frame * J, pose)
        exact.pose(pose)
        posed = i
      }
      exact.distanceTo(
        hit,
        from,
        arm.places[at] + places[3 * m],
        arm.places[at + 1] + places[3 * m + 1],
        arm.places[at + 2] + places[3 * m + 2],
        arm.radii[m] + Math.max(room, -told) + BEYOND,
      )
      if (hit.distance - arm.radii[m] >= found.clear) continue
      found.clear = hit.distance - arm.radii[m]
      found.sample = m
      found.x = hit.x
      found.y = hit.y
      found.z = hit.z
    }
  }
}

/** The turn of a rotation vector; none where there is no vector. */
export function fromVector(out: Float64Array, v: Float64Array | undefined, o: number): void {
  const x = v ? v[o] : 0,
    y = v ? v[o + 1] : 0,
    z = v ? v[o + 2] : 0
  const angle = Math.sqrt(x * x + y * y + z * z)
  const k = angle > 1e-9 ? Math.sin(angle / 2) / angle : 0.5
  out[0] = x * k
  out[1] = y * k
  out[2] = z * k
  out[3] = Math.cos(angle / 2)
}

/** q ← hung · q · hung⁻¹ */
export function inWorld(q: Float64Array, hung: Float64Array, h: number): void {
  // the axis turns, the angle stays
  const w = q[3]
  rotateAt(q, 0, hung, h, q[0], q[1], q[2])
  q[3] = w
}
