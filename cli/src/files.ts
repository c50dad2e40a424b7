import { readFileSync, statSync, writeFileSync } from 'node:fs'
import { basename } from 'node:path'
import { readFile, type Received } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'

const LARGEST = 2 ** 30

/** Reads any supported file from disk. */
export async function receive(path: string): Promise<Received> {
  if (statSync(path).size > LARGEST) throw new ChiraxisError('too-large', `${basename(path)} is larger than 1 GiB and cannot be read.`)
  return readFile(readFileSync(path), basename(path))
}

export function readJson(path: string, what: string): unknown {
  try {
    return JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    if ((error as { code?: string }).code) throw error
    throw new ChiraxisError('bad-syntax', `The ${what} ${basename(path)} is not valid JSON.`)
  }
}

export const writeBytes = (path: string, bytes: Uint8Array): void => writeFileSync(path, bytes)
