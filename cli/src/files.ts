import { randomUUID } from 'node:crypto'
import {
  closeSync,
  fsyncSync,
  openSync,
  readdirSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
  writeSync,
} from 'node:fs'
import { basename, dirname, join, resolve } from 'node:path'
import type { Delivered, Received } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { readApart } from './read-apart'

const LARGEST = 2 ** 30
const LARGEST_BESIDE = 2 ** 26

/** Reads any supported file from disk, together with the files it names beside itself. */
export async function receive(path: string): Promise<Received> {
  return readApart(readBody(path), basename(path), { beside: besideOf(path) })
}

export function readBody(path: string): Uint8Array {
  if (statSync(path).isDirectory()) throw new ChiraxisError('missing-file', `${path} is a folder, not a file.`)
  if (statSync(path).size > LARGEST)
    throw new ChiraxisError('too-large', `${basename(path)} is larger than 1 GiB and cannot be read.`)
  return readFileSync(path)
}

/** What a figure is called after its file. */
export const nameOf = (path: string): string => basename(path).replace(/\.[^.]+$/, '') || 'figure'

/** Buffers, material libraries and images in the same folder that a file names, directly or through its library. */
export function besideOf(path: string): Map<string, Uint8Array> {
  const found = new Map<string, Uint8Array>()
  if (!/\.(obj|gltf|fbx|dae)$/i.test(path)) return found
  const folder = dirname(path)
  const candidates = readdirSync(folder).filter(
    name => /\.(mtl|png|jpe?g|webp|tga|ktx2|avif|bin)$/i.test(name) && name !== basename(path),
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

/** Files on their way, thrown away when the program ends before they are complete. */
const drafts = new Set<string>()
const throwAway = (): void => {
  for (const draft of drafts) rmSync(draft, { force: true })
  drafts.clear()
}
process.on('exit', throwAway)
for (const [signal, status] of [
  ['SIGINT', 130],
  ['SIGTERM', 143],
] as const)
  process.on(signal, () => {
    // others may want to end in good order; who does not is ended here
    if (process.listenerCount(signal) === 1) process.exit(status)
  })

/**
 * Writes a whole file or none: beside its place under a name nobody can guess, then into it at once. What stood there
 * stays until the new one is complete.
 */
export function writeBytes(path: string, bytes: Uint8Array): void {
  const place = placeOf(path)
  const there = statSync(place, { throwIfNoEntry: false })
  // a device or a pipe has nothing that could be kept, and must not be put in a file's place
  if (there && !there.isFile() && !there.isDirectory()) return writeFileSync(place, bytes)
  const draft = join(dirname(place), `.${basename(place)}.${randomUUID()}.part`)
  drafts.add(draft)
  try {
    const file = openSync(draft, 'wx')
    try {
      for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at)
      fsyncSync(file)
    } finally {
      closeSync(file)
    }
    renameSync(draft, place)
  } catch (error) {
    rmSync(draft, { force: true })
    // told by the place that was asked for
    throw Object.assign(error as Error, { path, syscall: 'write' })
  } finally {
    drafts.delete(draft)
  }
}

/** Writes a delivered file with what belongs to it in the same folder. */
export function writeDelivered(path: string, { bytes, beside = [] }: Pick<Delivered, 'bytes' | 'beside'>): void {
  for (const file of beside) writeBytes(join(dirname(path), file.name), file.bytes)
  writeBytes(path, bytes)
}

/** The place a path leads to, links followed; of a file that is not there yet the place it would get. */
export function placeOf(path: string): string {
  const whole = resolve(path)
  try {
    return realpathSync(whole)
  } catch {
    try {
      return join(realpathSync(dirname(whole)), basename(whole))
    } catch {
      return whole
    }
  }
}

/**
 * Makes sure that nothing that is read would be written over, before any work is done.
 * @param written what will be written, by what it is called
 * @throws ChiraxisError `bad-settings`; `missing-file` where a folder is missing
 */
export function checkPlaces(read: readonly string[], written: Readonly<Record<string, string | undefined>>): void {
  const inputs = new Map(read.map(path => [placeOf(path), path]))
  for (const [what, path] of Object.entries(written)) {
    if (path === undefined) continue
    const place = placeOf(path)
    const other = inputs.get(place)
    if (other !== undefined)
      throw new ChiraxisError('bad-settings', `The ${what} ${path} is the same file as ${other}, which would be written over. Give it another name.`) // prettier-ignore
    inputs.set(place, path)
    const folder = statSync(dirname(resolve(path)), { throwIfNoEntry: false })
    if (!folder?.isDirectory())
      throw new ChiraxisError('missing-file', `There is no folder ${dirname(path)} to write ${basename(path)} into.`)
    if (statSync(path, { throwIfNoEntry: false })?.isDirectory())
      throw new ChiraxisError('missing-file', `${path} is a folder, so no file can be written there.`)
  }
}
