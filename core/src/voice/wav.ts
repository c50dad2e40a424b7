import * as library from 'wavefile'
import { ChiraxisError } from '../math'

// as a module in the window, as a script's export elsewhere
const { WaveFile } = 'WaveFile' in library ? library : (library as unknown as { default: typeof library }).default

/** One voice, its channels joined to one. */
export interface Sound {
  /** Samples a second. */
  readonly rate: number
  /** -1..1 */
  readonly samples: Float32Array
}

/** The longest sound that is listened to, minutes. */
export const LONGEST_MINUTES = 10
const RATES = [4_000, 384_000] as const

/** Seconds a sound lasts. */
export const soundSeconds = ({ samples, rate }: Sound): number => samples.length / rate

/**
 * Reads a WAV of any rate and number of channels: whole numbers of 8 to 32 bits, floating point, and the telephone codes.
 * @throws ChiraxisError `wrong-format` where it is none, `truncated-file`, `bad-syntax`, `not-finite`, and `too-large` past `LONGEST_MINUTES`
 */
export function readWav(bytes: Uint8Array): Sound {
  if (bytes.length === 0) throw new ChiraxisError('empty-file', 'The sound file is empty.')
  const word = (at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
  if (!['RIFF', 'RIFX', 'RF64'].includes(word(0)) || word(8) !== 'WAVE')
    throw new ChiraxisError('wrong-format', 'This is no WAV file. Save the voice as WAV and bring that.')
  const wav = new WaveFile()
  const data = read(() => {
    wav.fromBuffer(bytes, false)
    return { format: wav.fmt as Format, length: (wav.data as { chunkSize: number }).chunkSize }
  })
  const { numChannels: channels, sampleRate: rate, byteRate } = data.format
  if (!(channels > 0 && channels <= 64) || !(rate >= RATES[0] && rate <= RATES[1]) || !(byteRate > 0))
    throw new ChiraxisError('bad-syntax', `The sound tells ${channels} channels at ${rate} samples a second.`)
  const minutes = data.length / byteRate / 60
  if (minutes > LONGEST_MINUTES)
    throw new ChiraxisError(
      'too-large',
      `This sound lasts ${Math.round(minutes)} minutes, and a voice may last ${LONGEST_MINUTES}. Cut it into lines.`,
    )
  if (data.length > bytes.length) throw new ChiraxisError('truncated-file', 'The sound ends before its end.')
  const all = read(() => {
    wav.fromBuffer(bytes)
    // the samples of the telephone codes are bytes of a code, not levels
    if (wav.bitDepth === '8a') wav.fromALaw()
    else if (wav.bitDepth === '8m') wav.fromMuLaw()
    else if (wav.bitDepth === '4') wav.fromIMAADPCM()
    wav.toBitDepth('32f')
    return wav.getSamples(true, Float32Array) as unknown as Float32Array
  })
  const length = Math.floor(all.length / channels)
  if (length === 0) throw new ChiraxisError('empty-file', 'There is no sound in this file.')
  const samples = new Float32Array(length)
  for (let i = 0; i < length; i++) {
    let sum = 0
    for (let c = 0; c < channels; c++) sum += all[channels * i + c]
    if (!Number.isFinite(sum)) throw new ChiraxisError('not-finite', 'The sound holds values that are no numbers.')
    samples[i] = sum / channels
  }
  return { rate, samples }
}

interface Format {
  numChannels: number
  sampleRate: number
  byteRate: number
}

function read<T>(what: () => T): T {
  try {
    return what()
  } catch (error) {
    if (error instanceof ChiraxisError) throw error
    throw new ChiraxisError('bad-syntax', 'This WAV could not be read: its parts do not fit together.', {
      reason: String(error),
    })
  }
}

/** A sound as a WAV of one channel and 16 bits. */
export function writeWav({ rate, samples }: Sound): Uint8Array {
  const wav = new WaveFile()
  const levels = Int16Array.from(samples, v => Math.round(32_767 * Math.min(1, Math.max(-1, v))))
  wav.fromScratch(1, rate, '16', levels)
  return wav.toBuffer()
}
