import {
  conjugate,
  inverseOf,
  multiply,
  quatAt,
  rotate,
  setQuat,
  setVec3,
  vec3At,
  within,
  type Quat,
  type Rigid,
} from '../math'
import type { Played, Take } from '../motion'
import { forwardKinematics, jointPlace, waysTo, worldPoseBuffer } from '../skeleton'
import { topOfBody } from './root-joint'

/** A turn about the vertical and a shift, in the body's own frame. */
export interface GroundMove {
  /** Across, height, ahead; unit of the skeleton. */
  readonly shift: readonly [number, number, number]
  /** Radians to its left. */
  readonly turn: number
}

export const uprightTurn = (radians: number): Quat => [0, Math.sin(radians / 2), 0, Math.cos(radians / 2)]

/** A move told in the body's own frame, in the space of the skeleton. */
export function inSkeletonSpace({ shift, turn }: GroundMove, frame: Quat): Rigid {
  const back = conjugate(frame)
  return { at: rotate(back, shift), turn: multiply(multiply(back, uprightTurn(turn)), frame) }
}

/**
 * Moves a whole body rigidly, frame by frame. What stands above the root joint stays, and so do joints without a parent that
 * hold still through the take: they are no part of what moves.
 * @param moves in the space of the skeleton, told for each frame
 * @param root name of the joint that carries travel, see {@link topOfBody}
 */
export function moveWhole({ skeleton, joints, take }: Played, moves: (f: number) => Rigid, root?: string): Take {
  const { parents } = skeleton
  const J = skeleton.names.length
  const top = topOfBody(skeleton, joints, root)
  const above = new Set<number>()
  for (let p = parents[top]; p >= 0; p = parents[p]) above.add(p)
  const own = skeleton.names.flatMap((_, j) => {
    if (above.has(j)) return []
    if (parents[j] < 0) return j === top || stirs(take, J, j) ? [j] : []
    return above.has(parents[j]) ? [j] : []
  })
  const ways = waysTo(skeleton, above)
  const pose = worldPoseBuffer(J)
  const rotations = take.rotations.slice()
  const translations = take.translations.slice()
  for (let f = 0; f < take.frames; f++) {
    const move = moves(f)
    if (above.size > 0) forwardKinematics(parents, ways, take.translations, take.rotations, f * J, pose)
    for (const j of own) {
      const i = f * J + j
      let place = within(
        move,
        inParent(pose, parents[j], { at: vec3At(take.translations, i), turn: quatAt(take.rotations, i) }),
      )
      if (parents[j] >= 0) place = within(inverseOf(jointPlace(pose, parents[j])), place)
      setVec3(translations, i, place.at)
      setQuat(rotations, i, place.turn)
    }
  }
  return { ...take, rotations, translations }
}

const inParent = (pose: Parameters<typeof jointPlace>[0], parent: number, place: Rigid): Rigid =>
  parent < 0 ? place : within(jointPlace(pose, parent), place)

/** Whether a joint's own values change through a take. */
function stirs({ rotations, translations, frames }: Take, J: number, j: number): boolean {
  for (let f = 1; f < frames; f++) {
    for (let k = 0; k < 4; k++) if (Math.abs(rotations[4 * (f * J + j) + k] - rotations[4 * j + k]) > 1e-6) return true
    for (let k = 0; k < 3; k++)
      if (Math.abs(translations[3 * (f * J + j) + k] - translations[3 * j + k]) > 1e-6) return true
  }
  return false
}
