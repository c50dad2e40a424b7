import { conjugate, IDENTITY, multiply, normalizeQuat, quatAt, setQuat, type Quat } from '../math'
import type { Played, Take } from '../motion'

const PARTS = /^(spine|chest|upperChest|neck\d?|head|tail\d+)$|(Shoulder|UpperArm|LowerArm|Hand|Ear)$/

/**
 * Trunk, head, arms and tail go `share` times as far from their mean pose; hips and legs are left, so that steps stay where they are.
 * @param share 1 leaves the take as it is, 0 holds the mean pose
 */
export function vigourOf({ skeleton, joints, take }: Played, share: number): Take {
  if (share === 1) return take
  const J = skeleton.names.length
  const rotations = take.rotations.slice()
  for (const [role, j] of Object.entries(joints)) {
    if (!PARTS.test(role)) continue
    const mean = meanTurn(take, J, j)
    const back = conjugate(mean)
    for (let f = 0; f < take.frames; f++) {
      setQuat(rotations, f * J + j, multiply(mean, power(multiply(back, quatAt(take.rotations, f * J + j)), share)))
    }
  }
  return { ...take, rotations }
}

/** Mean of a joint's turns: the sum of all brought to one hemisphere, which is exact enough for what one joint does. */
function meanTurn(take: Take, J: number, j: number): Quat {
  const first = quatAt(take.rotations, j)
  const sum: Quat = [0, 0, 0, 0]
  for (let f = 0; f < take.frames; f++) {
    const q = quatAt(take.rotations, f * J + j)
    const s = q[0] * first[0] + q[1] * first[1] + q[2] * first[2] + q[3] * first[3] < 0 ? -1 : 1
    for (let k = 0; k < 4; k++) sum[k] += s * q[k]
  }
  return normalizeQuat(sum)
}

/** A turn taken `t` times, about its own axis; never past half a turn. */
function power(q: Quat, t: number): Quat {
  const s = q[3] < 0 ? -1 : 1
  const sine = Math.hypot(q[0], q[1], q[2])
  if (sine < 1e-9) return [...IDENTITY]
  const angle = Math.min(3, t * 2 * Math.atan2(sine, s * q[3])) / 2
  const k = (s * Math.sin(angle)) / sine
  return [q[0] * k, q[1] * k, q[2] * k, Math.cos(angle)]
}
