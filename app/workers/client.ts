import * as Comlink from 'comlink'
import type { Answer, CoreApi, Refusal } from './core-api'

/** A refusal from the core, thrown again on this side. */
export class RefusedError extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.message)
    this.name = 'RefusedError'
  }

  get stopped(): boolean {
    return this.refusal.code === 'stopped'
  }
}

let remote: Comlink.Remote<CoreApi> | undefined

/** The worker, started when first needed. */
export function core(): Comlink.Remote<CoreApi> {
  remote ??= Comlink.wrap<CoreApi>(
    new Worker(new URL('./core.worker.ts', import.meta.url), { type: 'module', name: 'core' }),
  )
  return remote
}

/** The value of an answer, or its refusal thrown. */
export async function unwrap<T>(answer: Promise<Answer<T>> | Answer<T>): Promise<T> {
  const a = await answer
  if (a.ok) return a.value
  throw new RefusedError(a.refusal)
}

export const progressOf = (report: (share: number) => void): ((share: number) => void) => Comlink.proxy(report)
