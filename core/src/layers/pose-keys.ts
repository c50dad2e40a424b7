import { rotate, rotationVector, type Quat } from '../math'
import type { PoseTurn } from '../skeleton'
import { channelName, type LayerKey } from './layer'

/**
 * Keys that lay a pose over a take, in the place of what its joints do: one for every joint that the pose turns.
 * @param at seconds of the recording  @param frame from the figure's space to its body's own frame
 */
export const poseKeys = (turns: readonly PoseTurn[], at: number, frame: Quat = [0, 0, 0, 1]): LayerKey[] =>
  turns.map(({ joint, by }) => ({
    at,
    channel: channelName('turn', joint),
    value: rotate(frame, rotationVector([...by])),
  }))
