import type { Quat } from '../math'
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
  const { frames, translations, rotations } = take
  const all = new Float32Array(3 * frames * places.length)
  const ways = waysTo(
    skeleton,
    places.map(p => p.joint),
  )
  const J = skeleton.names.length
  const pose = worldPoseBuffer(J)
  const p = pose.positions,
    r = pose.rotations
  const [qx, qy, qz, qw] = frame
  const turned = Math.abs(qw) < 1
  const joints = Int32Array.from(places, place => place.joint)
  const rides = Uint8Array.from(places, place => (place.at ? 1 : 0))
  const offsets = Float64Array.from(places.flatMap(place => [...(place.at ?? [0, 0, 0])]))
  for (let f = 0; f < frames; f++) {
    forwardKinematics(skeleton.parents, ways, translations, rotations, f * J, pose)
    for (let i = 0; i < joints.length; i++) {
      const j = 3 * joints[i],
        o = 3 * (i * frames + f)
      let x = p[j],
        y = p[j + 1],
        z = p[j + 2]
      if (rides[i] === 1) {
        const k = 4 * joints[i],
          ax = r[k],
          ay = r[k + 1],
          az = r[k + 2],
          aw = r[k + 3]
        const vx = offsets[3 * i],
          vy = offsets[3 * i + 1],
          vz = offsets[3 * i + 2]
        const tx = 2 * (ay * vz - az * vy),
          ty = 2 * (az * vx - ax * vz),
          tz = 2 * (ax * vy - ay * vx)
        x += vx + aw * tx + ay * tz - az * ty
        y += vy + aw * ty + az * tx - ax * tz
        z += vz + aw * tz + ax * ty - ay * tx
      }
      if (turned) {
        const tx = 2 * (qy * z - qz * y),
          ty = 2 * (qz * x - qx * z),
          tz = 2 * (qx * y - qy * x)
        x += qw * tx + qy * tz - qz * ty
        y += qw * ty + qz * tx - qx * tz
        z += qw * tz + qx * ty - qy * tx
      }
      all[o] = x
      all[o + 1] = y
      all[o + 2] = z
    }
  }
  return places.map((_, i) => all.subarray(3 * frames * i, 3 * frames * (i + 1)))
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

/** The value below which a share of the values lies: by partition (Hoare 1961, "Find"), not by sorting them all. */
export function quantile(values: ArrayLike<number>, share: number): number {
  const n = values.length
  if (n === 0) return 0
  const v = Float64Array.from(values)
  const wanted = Math.min(n - 1, Math.floor(n * share))
  let low = 0,
    high = n - 1
  while (low < high) {
    const pivot = v[(low + high) >> 1]
    let i = low,
      j = high
    while (i <= j) {
      while (v[i] < pivot) i++
      while (v[j] > pivot) j--
      if (i > j) break
      const held = v[i]
      v[i++] = v[j]
      v[j--] = held
    }
    if (wanted <= j) high = j
    else if (wanted >= i) low = i
    else break
  }
  return v[wanted]
}
