import { ChiraxisError } from '../math'
import { retime, type Take } from '../motion'

/**
 * The part of a take between two moments, whole frames.
 * @throws ChiraxisError `bad-settings` where nothing would be left
 */
export function trimTake(take: Take, from: number, to: number): Take {
  const first = Math.max(0, Math.round(from * take.fps))
  const last = Math.min(take.frames - 1, Math.round(to * take.fps))
  if (last < first)
    throw new ChiraxisError('bad-settings', `Nothing of ${take.name} lies between ${from} s and ${to} s.`)
  if (first === 0 && last === take.frames - 1) return take
  const joints = take.rotations.length / (4 * take.frames)
  return {
    ...take,
    ...retime(take, last - first + 1, take.fps, { of: t => t + first / take.fps, to: t => t - first / take.fps }),
    frames: last - first + 1,
    rotations: take.rotations.slice(4 * joints * first, 4 * joints * (last + 1)),
    translations: take.translations.slice(3 * joints * first, 3 * joints * (last + 1)),
  }
}
