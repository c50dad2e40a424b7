import { readFile } from 'node:fs/promises'
import { Redis } from 'ioredis'
import { ChiraxisError } from '@chiraxis/core/math'
import { programOf } from './parcel'
import { folderStore, ownStore, type Store } from './store'

/** Seconds an unreachable queue is waited for. */
const PATIENCE = 5

/** A queue's address without what is secret in it. */
const shown = (url: string): string => {
  const { protocol, host } = new URL(url)
  return `${protocol}//${host}`
}

/** Checks an address. @throws ChiraxisError `bad-settings` */
function checkAddress(url: string): void {
  const known = URL.canParse(url) && ['redis:', 'rediss:'].includes(new URL(url).protocol)
  if (!known)
    throw new ChiraxisError('bad-settings', 'The queue must be told as redis://HOST:PORT or rediss://HOST:PORT.')
}

/**
 * A connection that comes back by itself once it was there.
 * @throws ChiraxisError `missing-file` where no queue answers
 */
export async function connect(url: string): Promise<Redis> {
  checkAddress(url)
  let there = false
  const redis = new Redis(url, {
    lazyConnect: true,
    // commands wait while the queue is away
    maxRetriesPerRequest: null,
    connectTimeout: PATIENCE * 1000,
    retryStrategy: times => (there ? Math.min(100 * times, 2000) : null),
  })
  // a connection that breaks is made anew; what matters is told by the commands
  redis.on('error', () => undefined)
  try {
    await redis.connect()
    there = true
    return redis
  } catch {
    redis.disconnect()
    throw new ChiraxisError('missing-file', `No queue answers at ${shown(url)}.`)
  }
}

/** Only machines with the same store and the same program share a queue. */
export const queueName = (store: Store, program: string): string =>
  `jobs-${store.id.slice(0, 8)}-${program.slice(0, 12)}`
export const PREFIX = 'chiraxis'

export interface QueueAddress {
  /** `redis://…` or `rediss://…` */
  readonly url: string
  readonly store: Store
  /** As `programOf` names it. */
  readonly program: string
}

/**
 * A queue for jobs of a program.
 * @param script the children's program  @param store a folder; this machine's own unless told
 * @throws ChiraxisError `bad-settings` for a bad address, or where the store cannot be used
 */
export async function addressOf(url: string, script: string, store = ownStore()): Promise<QueueAddress> {
  checkAddress(url)
  return { url, store: await folderStore(store), program: programOf(await readFile(script)) }
}

/** What lies in the queue of a job. */
export interface Queued {
  readonly asked: unknown
}

/** What a job ends in, kept in the store. */
export type Answer =
  { readonly given: unknown } | { readonly refused: { readonly code: string; readonly message: string } }
