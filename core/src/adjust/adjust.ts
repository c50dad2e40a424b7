import { ChiraxisError } from '../math'
import { type Played, resampleTake, takeSeconds, type Take } from '../motion'
import { loopSeam } from './loop-seam'
import { mirrorTake } from './mirror'
import { ADJUST_DEFAULTS, ADJUST_LIMITS, type AdjustSettings } from './settings'
import { stepLength } from './step-length'
import { trimTake } from './trim'
import { vigourOf } from './vigour'

/**
 * Makes every change of a take that is made on the performer, before it is carried over.
 * @throws ChiraxisError `bad-settings` for values out of range or where nothing would be left
 */
export function adjustTake(played: Played, settings: Partial<AdjustSettings> = {}): Take {
  const s = { ...ADJUST_DEFAULTS, ...settings }
  for (const name of ['pace', 'stepLength', 'vigour', 'loopBlend', 'fps'] as const) {
    const value = s[name]
    const [least, most] = ADJUST_LIMITS[name]
    if (value !== undefined && !(value >= least && value <= most))
      throw new ChiraxisError('bad-settings', `${WORDS[name]} can be ${least} to ${most}, not ${value}.`)
  }
  let take = s.trim ? trimTake(played.take, s.trim[0], s.trim[1]) : played.take
  if (s.mirror) take = mirrorTake({ ...played, take })
  take = vigourOf({ ...played, take }, s.vigour)
  take = stepLength({ ...played, take }, s.stepLength)
  take = loopSeam({ ...played, take }, s.loopBlend)
  if (s.pace !== 1) {
    // the same frames in another time: tracks stay as they are, moments move
    const events = take.events?.map(e => ({ ...e, time: e.time / s.pace }))
    take = { ...take, fps: take.fps * s.pace, ...(events && { events }) }
  }
  const fps = s.fps ?? played.take.fps
  if (takeSeconds(take) * fps > ADJUST_LIMITS.frames)
    throw new ChiraxisError(
      'too-large',
      `${take.name} would have more than ${ADJUST_LIMITS.frames} frames at ${fps} frames a second.`,
    )
  return resampleTake(take, fps)
}

const WORDS = {
  pace: 'The pace',
  stepLength: 'The step length',
  vigour: 'The swing',
  loopBlend: 'The blend of a loop',
  fps: 'Frames a second',
} as const
