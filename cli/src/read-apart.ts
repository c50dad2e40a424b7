import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { Worker } from 'node:worker_threads'
import type { FileReader, Received } from '@chiraxis/core/formats'
import { ChiraxisError, type ErrorCode } from '@chiraxis/core/math'
import { readAny } from '@chiraxis/loaders'

/** Whether a file goes through readers that are not ours: FBX, COLLADA, and compressed glTF. */
const isForeign = (bytes: Uint8Array, name: string): boolean =>
  /\.(fbx|dae)$/i.test(name) ||
  (/\.(glb|gltf)$/i.test(name) &&
    Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength).includes('_compression"'))
/** A file that takes longer than this is given up, milliseconds. */
const LONGEST = 60_000
/** Memory that reading one file may add, MiB. */
const MOST_MEMORY = 2048
const LOOK = 50

/** From the thread. */
export type Reading =
  | { readonly ok: true; readonly value: Received }
  | { readonly ok: false; readonly code: string; readonly message: string }

/**
 * Reads a file; one that goes through the 3D library's loaders in a thread of its own, which is ended when it takes too
 * long or asks for too much memory.
 */
export const readApart: FileReader = async (bytes, name, options = {}) => {
  const script = fileURLToPath(new URL('./read-thread.mjs', import.meta.url))
  // run from its sources, as tests do, there is no program for a thread
  if (!isForeign(bytes, name) || !existsSync(script)) return readAny(bytes, name, options)
  const worker = new Worker(script, { workerData: { bytes, name, beside: options.beside ?? new Map() } })
  const before = process.memoryUsage.rss()
  const since = performance.now()
  return new Promise<Received>((resolve, reject) => {
    const end = (error: ChiraxisError): void => {
      clearInterval(watch)
      void worker.terminate()
      reject(error)
    }
    const tooMuch = (): ChiraxisError =>
      new ChiraxisError('too-large', `${name} asks for more memory than can be given; it is too large or damaged.`)
    const watch = setInterval(() => {
      if (options.signal?.aborted) end(new ChiraxisError('stopped', 'The work was stopped.'))
      else if (performance.now() - since > LONGEST)
        end(
          new ChiraxisError(
            'too-large',
            `${name} took longer than ${LONGEST / 1000} seconds to read and was given up.`,
          ),
        )
      else if ((process.memoryUsage.rss() - before) / 2 ** 20 > MOST_MEMORY) end(tooMuch())
    }, LOOK)
    worker.once('message', (reading: Reading) => {
      clearInterval(watch)
      if (reading.ok) resolve(reading.value)
      else reject(new ChiraxisError(reading.code as ErrorCode, reading.message))
    })
    worker.once('error', () => end(tooMuch()))
  })
}
