import { createHash } from 'node:crypto'

/** The system's own digest, hex. */
export const sha256 = (bytes: Uint8Array | string): string => createHash('sha256').update(bytes).digest('hex')
