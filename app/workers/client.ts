import * as Comlink from 'comlink'
import { graft, type Recipe } from '@chiraxis/core/recipe'
import type { Answer, CoreApi, Refusal, Revision } from './core-api'
import { supervise, type LostWorker } from './supervise'

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
const listeners = new Set<(lost: LostWorker) => void>()

/** Told when the worker was lost and another one stands ready. */
export function onWorkerLost(listener: (lost: LostWorker) => void): () => void {
  listeners.add(listener)
  return () => listeners.delete(listener)
}

/** The worker, started when first needed, and anew when it is lost. */
export function core(): Comlink.Remote<CoreApi> {
  remote ??= supervise(
    () => new Worker(new URL('./core.worker.ts', import.meta.url), { type: 'module', name: 'core' }),
    lost => {
      // a new one knows nothing: it is told the whole recipe
      told = undefined
      for (const listener of listeners) listener(lost)
    },
  )
  return remote
}

/** Stands another worker in, for tests. */
export function useCore(other: CoreApi): void {
  remote = other as unknown as Comlink.Remote<CoreApi>
  told = undefined
}

/** The value of an answer, or its refusal thrown. */
export async function unwrap<T>(answer: Promise<Answer<T>> | Answer<T>): Promise<T> {
  const a = await answer
  if (a.ok) return a.value
  throw new RefusedError(a.refusal)
}

export const progressOf = (report: (share: number) => void): ((share: number) => void) => Comlink.proxy(report)

let told: { recipe: Recipe; rev: Revision } | undefined
let revisions = 0

/**
 * The number by which the worker knows a recipe. A recipe it does not know yet is told by what changed against the one
 * told before, so a large project costs no more than a small one.
 */
export function tell(recipe: Recipe): Revision {
  const raw = toRaw(recipe)
  if (told?.recipe === raw) return told.rev
  const rev = ++revisions
  if (told) void core().follow(rev, { base: told.rev, patches: graft(told.recipe, raw).patches })
  else void core().follow(rev, { recipe: raw })
  told = { recipe: raw, rev }
  return rev
}
