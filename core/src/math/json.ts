import { ChiraxisError } from './error'

/** Reads JSON of any making. @throws ChiraxisError `bad-syntax` in plain words */
export function jsonOf(source: Uint8Array | string, what: string): unknown {
  try {
    return JSON.parse(typeof source === 'string' ? source : new TextDecoder().decode(source)) as unknown
  } catch {
    throw new ChiraxisError('bad-syntax', `${what} is not valid JSON, so it cannot be read.`)
  }
}
