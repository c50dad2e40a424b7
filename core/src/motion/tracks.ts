import { rotateAt, type Quat } from '../math'
import type { Take } from './take'
import { forwardKinematics, waysTo, worldPoseBuffer, type Skeleton } from '../skeleton'
import { ballRole, legsOf } from '../body'

/** A take on its skeleton, read by roles: `frame` turns the skeleton's space to Y up, facing +Z, left at +X. */
export interface Played {
  readonly skeleton: Skeleton
  /** Joint by role. */
  readonly joints: Readonly<Record<string, number>>
  readonly take: Take
  readonly frame: Quat
}

/** Where joints go over a take: 3·N by role, in the body's own frame, unit of the skeleton. */
export type Tracks = Readonly<Record<string, Float32Array | undefined>>

/** A joint, or a place that rides on it, told in the joint's own space. */
export interface Followed {
  readonly joint: number
  readonly at?: readonly [number, number, number]
}

/** Follows places through a take in one pass: 3·N each, in the body's own frame. */
export function followPlaces({ skeleton, take, frame }: Played, places: readonly Followed[]): Float32Array[] {
  const out = places.map(() => new Float32Array(3 * take.frames))
  const ways = waysTo(
    skeleton,
    places.map(p => p.joint),
  )
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const p = pose.positions,
    r = pose.rotations
  const [qx, qy, qz, qw] = frame
  const joints = Int32Array.from(places, place => place.joint)
  const rides = Uint8Array.from(places, place => (place.at ? 1 : 0))
  const offsets = Float64Array.from(places.flatMap(place => [...(place.at ?? [0, 0, 0])]))
  const ridden = new Float64Array(3)
  for (let f = 0; f < take.frames; f++) {
    forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    for (let i = 0; i < joints.length; i++) {
      const j = 3 * joints[i],
        o = 3 * f
      let x = p[j],
        y = p[j + 1],
        z = p[j + 2]
      if (rides[i] === 1) {
        rotateAt(ridden, 0, r, 4 * joints[i], offsets[3 * i], offsets[3 * i + 1], offsets[3 * i + 2])
        x += ridden[0]
        y += ridden[1]
        z += ridden[2]
      }
      const tx = 2 * (qy * z - qz * y),
        ty = 2 * (qz * x - qx * z),
        tz = 2 * (qx * y - qy * x)
      const track = out[i]
      track[o] = x + qw * tx + qy * tz - qz * ty
      track[o + 1] = y + qw * ty + qz * tx - qx * tz
      track[o + 2] = z + qw * tz + qx * ty - qy * tx
    }
  }
  return out
}

/** Follows the joints of the given roles through a take in one pass; roles the skeleton lacks are left out. */
export function tracksOf(played: Played, roles: readonly string[]): Tracks {
  const here = roles.filter(r => played.joints[r] !== undefined)
  const tracks = followPlaces(
    played,
    here.map(r => ({ joint: played.joints[r] })),
  )
  return Object.fromEntries(here.map((r, i) => [r, tracks[i]]))
}

/** Follows the balls of all feet. */
export const ballTracks = (played: Played): Tracks =>
  tracksOf(
    played,
    legsOf(played.joints).map(leg => ballRole(played.joints, leg)),
  )

/** The value below which a share of the values lies. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const sorted = Float64Array.from(values).sort()
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0
}
