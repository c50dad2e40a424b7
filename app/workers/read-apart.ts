import * as Comlink from 'comlink'
import type { BesideFiles, FileReader, Received } from '@chiraxis/core/formats'
import { ChiraxisError, type ErrorCode } from '@chiraxis/core/math'
import type { Answer } from './core-api'

export interface ReaderApi {
  read(bytes: Uint8Array, name: string, beside: BesideFiles): Promise<Answer<Received>>
}

/** A file that takes longer than this is given up, milliseconds. */
const LONGEST = 120_000
/** How often it is looked whether somebody stopped the reading, milliseconds. */
const LOOK = 40

interface Place {
  readonly worker: Worker
  readonly remote: Comlink.Remote<ReaderApi>
}
/** A place that is ready and has nothing to read. */
let idle: Place | undefined

function open(): Place {
  const worker = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module', name: 'reader' })
  return { worker, remote: Comlink.wrap<ReaderApi>(worker) }
}

/**
 * Reads a file in a worker of its own, so that reading can be ended at any moment: when it is stopped, takes too long, or
 * breaks the worker. The next file finds a new one.
 */
export const readApart: FileReader = async (bytes, name, { beside = new Map(), signal } = {}) => {
  const place = idle ?? open()
  idle = undefined
  let over = false
  const ended = new Promise<never>((_, reject) => {
    const since = performance.now()
    const end = (error: ChiraxisError): void => {
      over = true
      place.worker.terminate()
      reject(error)
    }
    place.worker.onerror = event => {
      event.preventDefault()
      end(
        new ChiraxisError(
          'too-large',
          `Reading ${name} broke off: it is damaged, or asks for more memory than there is.`,
          { reason: event.message },
        ),
      )
    }
    const look = (): void => {
      if (over) return
      if (signal?.aborted) end(new ChiraxisError('stopped', 'The work was stopped.'))
      else if (performance.now() - since > LONGEST)
        end(new ChiraxisError('too-large', `${name} took longer than two minutes to read and was given up.`))
      else setTimeout(look, LOOK)
    }
    look()
  })
  const answer = await Promise.race([place.remote.read(bytes, name, beside), ended])
  over = true
  place.worker.onerror = null
  if (idle) place.worker.terminate()
  else idle = place
  if (answer.ok) return answer.value
  throw new ChiraxisError(answer.refusal.code as ErrorCode, answer.refusal.message)
}
