import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'

/** SHA-256 of bytes, in hexadecimal. */
export const hashBytes = (bytes: Uint8Array): string => bytesToHex(sha256(bytes))

/** A short name for a text, the same for the same text. */
export const hashText = (text: string): string => hashBytes(new TextEncoder().encode(text)).slice(0, 24)
