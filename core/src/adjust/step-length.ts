import { conjugate, rotate, type Vec3 } from '../math'
import { rootPath, tracksOf, type Played, type Take, createLimbSolver, limbOf } from '../motion'
import { forwardKinematics, rootAbove, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { kneeWay, legsOf } from '../body'

/** Seconds over which travel is told from the sway of each step. */
const EVEN = 0.6

/** Where the body goes over the ground, without the sway of single steps: 2·N, x and z in the body's own frame, from its start. */
function travelPath(played: Played): Float64Array {
  const { across, ahead } = rootPath(played, EVEN)
  const out = new Float64Array(2 * played.take.frames)
  for (let f = 0; f < played.take.frames; f++) {
    out[2 * f] = across[f] - across[0]
    out[2 * f + 1] = ahead[f] - ahead[0]
  }
  return out
}

/** Shifts the whole body in each frame, 3·N in the body's own frame. */
function shiftBody({ skeleton, joints, take, frame }: Played, shifts: (f: number) => Vec3): Take {
  const root = rootAbove(skeleton, joints.hips)
  const J = skeleton.names.length
  const back = conjugate(frame)
  const translations = take.translations.slice()
  for (let f = 0; f < take.frames; f++) {
    const [x, y, z] = rotate(back, shifts(f))
    const o = 3 * (f * J + root)
    translations[o] += x
    translations[o + 1] += y
    translations[o + 2] += z
  }
  return { ...take, translations }
}

/**
 * Longer or shorter steps: travel over the ground and the reach of each foot ahead of and behind the hips, along the way the body
 * goes, are multiplied; the legs are solved anew.
 */
export function stepLength(played: Played, share: number): Take {
  if (share === 1) return played.take
  const { skeleton, joints, frame } = played
  const path = travelPath(played)
  const n = played.take.frames
  const moved: Played = {
    ...played,
    take: shiftBody(played, f => [(share - 1) * path[2 * f], 0, (share - 1) * path[2 * f + 1]]),
  }
  const tracks = tracksOf(moved, ['hips', ...legsOf(joints).flatMap(leg => [`${leg}UpperLeg`, `${leg}Foot`])])
  const rest = worldPose(skeleton)
  const back = conjugate(frame)
  const legs = legsOf(joints).map(leg => ({
    limb: limbOf(
      rest,
      joints[`${leg}UpperLeg`],
      joints[`${leg}LowerLeg`],
      joints[`${leg}Foot`],
      rotate(back, kneeWay(leg)),
    ),
    top: tracks[`${leg}UpperLeg`]!,
    foot: tracks[`${leg}Foot`]!,
  }))
  const J = skeleton.names.length
  const rotations = moved.take.rotations.slice()
  const pose = worldPoseBuffer(J)
  const ways = waysTo(
    skeleton,
    legs.map(l => l.limb.end),
  )
  const solver = createLimbSolver(skeleton)
  const heading = headingOf(path, n)
  const hips = tracks.hips!
  // front legs reach from where they mostly hang, ahead of the hips
  const offsets = legs.map(({ top }) => meanAhead(top, hips, heading))
  for (let f = 0; f < n; f++) {
    const [hx, hz] = [heading[2 * f], heading[2 * f + 1]]
    if (hx === 0 && hz === 0) continue
    forwardKinematics(skeleton.parents, ways, moved.take.translations, rotations, f * J, pose)
    for (const [i, { limb, foot }] of legs.entries()) {
      const reach = (foot[3 * f] - hips[3 * f]) * hx + (foot[3 * f + 2] - hips[3 * f + 2]) * hz - offsets[i]
      const shift = rotate(back, [(share - 1) * reach * hx, 0, (share - 1) * reach * hz])
      solver.solve(limb, pose, rotations, f * J, shift[0], shift[1], shift[2])
    }
  }
  return { ...moved.take, rotations }
}

/** How far a joint is ahead of the hips, in the mean. */
function meanAhead(track: Float32Array, hips: Float32Array, heading: Float64Array): number {
  let sum = 0
  const n = heading.length / 2
  for (let f = 0; f < n; f++)
    sum += (track[3 * f] - hips[3 * f]) * heading[2 * f] + (track[3 * f + 2] - hips[3 * f + 2]) * heading[2 * f + 1]
  return sum / Math.max(1, n)
}

/** The way the body goes in each frame, unit, x and z; the whole way's where it hardly moves, zero where there is none. */
function headingOf(path: Float64Array, n: number): Float64Array {
  const out = new Float64Array(2 * n)
  const whole = [path[2 * n - 2] - path[0], path[2 * n - 1] - path[1]]
  const far = Math.hypot(whole[0], whole[1])
  for (let f = 0; f < n; f++) {
    const a = Math.max(0, f - 2),
      b = Math.min(n - 1, f + 2)
    let x = path[2 * b] - path[2 * a],
      z = path[2 * b + 1] - path[2 * a + 1]
    const l = Math.hypot(x, z)
    if (l < 0.1 * (far / Math.max(1, n - 1)) * (b - a)) {
      x = whole[0]
      z = whole[1]
    }
    const m = Math.hypot(x, z)
    if (m < 1e-6) continue
    out[2 * f] = x / m
    out[2 * f + 1] = z / m
  }
  return out
}
