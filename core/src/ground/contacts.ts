import { rotate, vec3At, type Quat, type Vec3 } from '../math'
import type { Take } from '../motion'
import { worldPose, worldPoseBuffer, type Skeleton } from '../skeleton'

/** Frames in which a foot rests on the ground: N flags a foot. */
export interface Contacts { readonly left: Uint8Array; readonly right: Uint8Array }

/** Where one joint goes over a take, in the body's own frame: one point a frame. */
export function jointPath(skeleton: Skeleton, take: Take, joint: number, frame: Quat): Vec3[] {
  const n = skeleton.names.length
  const pose = worldPoseBuffer(n)
  return Array.from({ length: take.frames }, (_, f) => {
    worldPose(skeleton, take.translations, take.rotations, f * n, pose)
    return rotate(frame, vec3At(pose.positions, joint))
  })
}

/**
 * Finds foot contacts: the joint at the ball of the foot (or the ankle) stays near its lowest height and
 * nearly still. Thresholds are shares of leg length; single-frame gaps are closed.
 */
export function findContacts(skeleton: Skeleton, roles: Readonly<Record<string, number>>, take: Take, frame: Quat): Contacts {
  const rest = worldPose(skeleton)
  const at = (j: number): Vec3 => rotate(frame, vec3At(rest.positions, j))
  const side = (name: 'left' | 'right'): Uint8Array => {
    const joint = roles[`${name}Toes`] ?? roles[`${name}Foot`]
    const flags = new Uint8Array(take.frames)
    if (joint === undefined) return flags
    const leg = Math.abs(at(roles.hips)[1] - at(joint)[1]) || 1
    const path = jointPath(skeleton, take, joint, frame)
    const low = path.map(p => p[1]).sort((a, b) => a - b)[Math.floor(path.length * 0.05)]
    for (let f = 0; f < take.frames; f++) {
      const a = path[Math.max(0, f - 1)], b = path[Math.min(take.frames - 1, f + 1)]
      const span = Math.max(1, Math.min(take.frames - 1, f + 1) - Math.max(0, f - 1)) / take.fps
      const speed = Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2]) / span
      if (path[f][1] < low + 0.04 * leg && speed < 0.3 * leg) flags[f] = 1
    }
    for (let f = 1; f < take.frames - 1; f++) if (flags[f - 1] && flags[f + 1]) flags[f] = 1
    return flags
  }
  return { left: side('left'), right: side('right') }
}

/** Mean speed over the ground of resting feet, metres a second; 0 where no foot rests. */
export function footSkate(skeleton: Skeleton, roles: Readonly<Record<string, number>>, take: Take, frame: Quat, contacts: Contacts): number {
  let way = 0
  let steps = 0
  for (const name of ['left', 'right'] as const) {
    const joint = roles[`${name}Toes`] ?? roles[`${name}Foot`]
    if (joint === undefined) continue
    const path = jointPath(skeleton, take, joint, frame)
    for (let f = 1; f < take.frames; f++) {
      if (!contacts[name][f] || !contacts[name][f - 1]) continue
      way += Math.hypot(path[f][0] - path[f - 1][0], path[f][2] - path[f - 1][2])
      steps++
    }
  }
  return steps > 0 ? (way / steps) * take.fps : 0
}
