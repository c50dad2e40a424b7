import { ChiraxisError } from '../math'

/** Reads UTF-8 text, refusing what is plainly no text. */
export function decodeText(bytes: Uint8Array, what: string): string {
  const head = bytes.subarray(0, 4096)
  if (head.includes(0)) throw new ChiraxisError('wrong-format', `This is not ${what}: it holds binary data.`)
  return new TextDecoder('utf-8').decode(bytes)
}
