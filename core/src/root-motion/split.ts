import {
  conjugate,
  inverseOf,
  multiply,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  sub,
  vec3At,
  within,
  type Rigid,
  type Vec3,
} from '../math'
import { ROOT_CHANNELS, turnAboutVertical, type Played, type RootChannel, type RootPath, type Take } from '../motion'
import { forwardKinematics, jointPlace, waysTo, worldPose, worldPoseBuffer } from '../skeleton'
import { inSkeletonSpace } from './move-whole'
import { rootJoint } from './root-joint'

/** What of a channel the root takes: all of the travel, nothing, or what it had. */
export type RootShare = 'all' | 'none' | 'as-it-came'

/**
 * Puts travel on the root joint, channel by channel, and leaves every other joint where it is: what hangs on the root is
 * told anew from it.
 * @param path the travel of the whole body
 * @returns the take itself where nothing hangs above the hips
 */
export function splitRoot(
  played: Played,
  path: RootPath,
  shares: Readonly<Record<RootChannel, RootShare>>,
  name?: string,
): Take {
  const { skeleton, joints, take, frame } = played
  const root = rootJoint(skeleton, joints, name)
  if (root === undefined || ROOT_CHANNELS.every(c => shares[c] === 'as-it-came')) return take
  const J = skeleton.names.length
  const rest = worldPose(skeleton)
  const rootRest = jointPlace(rest, root)
  // the body turns about where its hips stand at rest
  const pivot = rotate(frame, vec3At(rest.positions, joints.hips))
  const had = ROOT_CHANNELS.some(c => shares[c] === 'as-it-came')
    ? pathOfRoot(played, root, rootRest, pivot)
    : undefined
  const of = (channel: RootChannel, f: number): number => {
    const share = shares[channel]
    return share === 'none' ? 0 : share === 'all' ? path[channel][f] : had![channel][f]
  }
  const below = skeleton.names.flatMap((_, j) => (skeleton.parents[j] === root ? [j] : []))
  const rotations = take.rotations.slice()
  const translations = take.translations.slice()
  const parent = skeleton.parents[root]
  const ways = waysTo(skeleton, [parent])
  const pose = worldPoseBuffer(J)
  for (let f = 0; f < take.frames; f++) {
    const i = f * J + root
    const before: Rigid = { at: vec3At(take.translations, i), turn: quatAt(take.rotations, i) }
    if (parent >= 0) forwardKinematics(skeleton.parents, ways, take.translations, take.rotations, f * J, pose)
    const stands = placedRoot(rootRest, pivot, frame, {
      across: of('across', f),
      height: of('height', f),
      ahead: of('ahead', f),
      turn: of('turn', f),
    })
    const after = parent < 0 ? stands : within(inverseOf(jointPlace(pose, parent)), stands)
    setVec3(translations, i, after.at)
    setQuat(rotations, i, after.turn)
    const anew = within(inverseOf(after), before)
    for (const j of below) {
      const k = f * J + j
      const place = within(anew, { at: vec3At(take.translations, k), turn: quatAt(take.rotations, k) })
      setVec3(translations, k, place.at)
      setQuat(rotations, k, place.turn)
    }
  }
  return { ...take, rotations, translations }
}

/** Where the root stands when it travelled so far. */
function placedRoot(
  rest: Rigid,
  pivot: Vec3,
  frame: Played['frame'],
  { across, height, ahead, turn }: Record<RootChannel, number>,
): Rigid {
  const away = inSkeletonSpace({ shift: pivot, turn: 0 }, frame)
  const move = inSkeletonSpace({ shift: [pivot[0] + across, pivot[1] + height, pivot[2] + ahead], turn }, frame)
  return within(move, within(inverseOf(away), rest))
}

/** How the root itself travelled, in the same channels. */
function pathOfRoot({ skeleton, take, frame }: Played, root: number, rest: Rigid, pivot: Vec3): RootPath {
  const n = take.frames
  const J = skeleton.names.length
  const out = {
    across: new Float64Array(n),
    ahead: new Float64Array(n),
    height: new Float64Array(n),
    turn: new Float64Array(n),
  }
  const pose = worldPoseBuffer(J)
  for (let f = 0; f < n; f++) {
    worldPose(skeleton, take.translations, take.rotations, f * J, pose)
    const { at, turn } = jointPlace(pose, root)
    const turned = multiply(turn, conjugate(rest.turn))
    const told = turnAboutVertical(multiply(multiply(frame, turned), conjugate(frame))).turn
    out.turn[f] = f === 0 ? told : told + 2 * Math.PI * Math.round((out.turn[f - 1] - told) / (2 * Math.PI))
    // where the hips would stand if they stood on it as at rest
    const upright = inSkeletonSpace({ shift: [0, 0, 0], turn: out.turn[f] }, frame).turn
    const hips = rotate(frame, [at[0], at[1], at[2]])
    const reach = rotate(frame, rotate(upright, sub(rotate(conjugate(frame), pivot), rest.at)))
    out.across[f] = hips[0] + reach[0] - pivot[0]
    out.height[f] = hips[1] + reach[1] - pivot[1]
    out.ahead[f] = hips[2] + reach[2] - pivot[2]
  }
  return out
}
