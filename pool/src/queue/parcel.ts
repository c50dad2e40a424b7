import { ChiraxisError } from '@chiraxis/core/math'
import type { JobKind } from '../jobs'
import { sha256 } from '../sha256'
import type { Store } from './store'

/** What a job is asked for or gives as JSON; bytes stand in it by their hashes. */
export type Parcel = unknown

interface Bytes {
  readonly $bytes: string
}
const isBytes = (value: unknown): value is Bytes =>
  typeof value === 'object' && value !== null && typeof (value as Bytes).$bytes === 'string'
/** A number JSON does not know. */
interface Odd {
  readonly $number: string
}
const isOdd = (value: unknown): value is Odd =>
  typeof value === 'object' && value !== null && typeof (value as Odd).$number === 'string'

/** Walks what structured cloning carries; what JSON would not give back as it was is refused, never altered. */
async function walk(value: unknown, leaf: (value: unknown) => Promise<unknown>): Promise<unknown> {
  const done = await leaf(value)
  if (done !== value || typeof value !== 'object' || value === null) return done
  if (Array.isArray(value)) return Promise.all(value.map(v => walk(v, leaf)))
  if (Object.getPrototypeOf(value) !== Object.prototype && Object.getPrototypeOf(value) !== null)
    throw new ChiraxisError('bad-input', `A job cannot carry a ${value.constructor.name}.`)
  const entries = Object.entries(value).filter(([, v]) => v !== undefined)
  return Object.fromEntries(await Promise.all(entries.map(async ([k, v]) => [k, await walk(v, leaf)] as const)))
}

/** Puts the bytes of a value into the store. @throws ChiraxisError */
export const packed = (value: unknown, store: Pick<Store, 'put'>): Promise<Parcel> =>
  walk(value, async v => {
    if (v instanceof Uint8Array) return { $bytes: await store.put(v) } satisfies Bytes
    if (typeof v === 'number' && !Number.isFinite(v)) return { $number: String(v) } satisfies Odd
    if (isBytes(v) || isOdd(v)) throw new ChiraxisError('bad-input', 'A job carries a name that is kept for bytes.')
    return v
  })

/** A value with its bytes again. @throws ChiraxisError `missing-file` where the store lacks some */
export const unpacked = (parcel: Parcel, store: Pick<Store, 'get'>): Promise<unknown> =>
  walk(parcel, async v => {
    if (isBytes(v)) return store.get(v.$bytes)
    if (isOdd(v)) return Number(v.$number)
    return v
  })

/** JSON with its names in order. */
const inOrder = (value: unknown): string =>
  JSON.stringify(value, (_, v: unknown) =>
    typeof v === 'object' && v !== null && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  )

/** Names a job by all that decides its answer: the program, what is asked for, and the bytes of its files. */
export const jobKey = (program: string, kind: JobKind, asked: Parcel): string =>
  sha256(inOrder({ program, kind, asked }))

/** Names the program that answers: the same answers are only expected of the same code on the same engine. */
export const programOf = (script: Uint8Array): string => sha256(`${sha256(script)} ${process.versions.v8}`)
