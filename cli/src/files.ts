import { readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import { readFile, type Received } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { OUTER_READERS } from '@chiraxis/loaders'

const LARGEST = 2 ** 30
const LARGEST_BESIDE = 2 ** 26

/** Reads any supported file from disk, together with the files it names beside itself. */
export async function receive(path: string): Promise<Received> {
  return readFile(readBody(path), basename(path), { beside: besideOf(path), readers: OUTER_READERS })
}

export function readBody(path: string): Uint8Array {
  if (statSync(path).size > LARGEST)
    throw new ChiraxisError('too-large', `${basename(path)} is larger than 1 GiB and cannot be read.`)
  return readFileSync(path)
}

/** Buffers, material libraries and images in the same folder that a file names, directly or through its library. */
export function besideOf(path: string): Map<string, Uint8Array> {
  const found = new Map<string, Uint8Array>()
  if (!/\.(obj|gltf|fbx|dae)$/i.test(path)) return found
  const folder = dirname(path)
  const candidates = readdirSync(folder).filter(
    name => /\.(mtl|png|jpe?g|webp|bin)$/i.test(name) && name !== basename(path),
  )
  const named = (text: string): void => {
    for (const name of candidates) {
      if (found.has(name) || !text.includes(name)) continue
      const file = join(folder, name)
      const info = statSync(file)
      if (!info.isFile() || info.size > LARGEST_BESIDE) continue
      const bytes = readFileSync(file)
      found.set(name, bytes)
      if (/\.mtl$/i.test(name)) named(bytes.toString('latin1'))
    }
  }
  if (candidates.length > 0 && statSync(path).size < LARGEST / 4) named(readFileSync(path).toString('latin1'))
  return found
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
