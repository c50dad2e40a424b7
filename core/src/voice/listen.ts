import { ChiraxisError, partOf, type WorkOptions } from '../math'
import { hear } from './hear'
import { whatIsSaid, type Said } from './said'
import { hearVowels } from './vowels'
import { soundSeconds, type Sound } from './wav'

/** What was heard of a voice. */
export interface Heard {
  readonly seconds: number
  readonly said: readonly Said[]
  /** Frequencies of the speaker's tract against a man's. */
  readonly tract: number
}

/** A sound quieter than this throughout holds no voice. */
const SILENT = 1e-4

/**
 * From a sound to what the mouth does when.
 * @throws ChiraxisError `bad-input` where nothing is to be heard
 */
export async function listen(sound: Sound, work: WorkOptions = {}): Promise<Heard> {
  if (!sound.samples.some(v => Math.abs(v) > SILENT))
    throw new ChiraxisError('bad-input', 'This sound is silent from beginning to end: there is no voice in it.')
  const hearing = await hear(sound, partOf(work, 0, 0.4))
  const vowels = await hearVowels(hearing, partOf(work, 0.4, 0.95))
  const said = await whatIsSaid(hearing, vowels, partOf(work, 0.95, 1))
  return { seconds: soundSeconds(sound), said, tract: vowels.tract }
}
