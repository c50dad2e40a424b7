import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'

/** SHA-256 of bytes, in hexadecimal. */
export const hashBytes = (bytes: Uint8Array): string => bytesToHex(sha256(bytes))
