import { parentPort, workerData } from 'node:worker_threads'
import type { BesideFiles } from '@chiraxis/core/formats'
import { ChiraxisError } from '@chiraxis/core/math'
import { readAny } from '@chiraxis/loaders'
import type { Reading } from './read-apart'

const { bytes, name, beside } = workerData as { bytes: Uint8Array; name: string; beside: BesideFiles }
try {
  parentPort!.postMessage({ ok: true, value: await readAny(bytes, name, { beside }) } satisfies Reading)
} catch (error) {
  const known = error instanceof ChiraxisError ? error : new ChiraxisError('bad-syntax', `${name} could not be read.`)
  parentPort!.postMessage({ ok: false, code: known.code, message: known.message } satisfies Reading)
}
