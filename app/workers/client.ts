import * as Comlink from 'comlink'
import { graft, type Recipe } from '@chiraxis/core/recipe'
import type { Answer, CoreApi, Refusal, Revision } from './core-api'

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

/**
 * The number by which the worker knows a recipe. A recipe it does not know yet is told by what changed against the one
 * told before, so a large project costs no more than a small one.
 */
export function tell(recipe: Recipe): Revision {
  const raw = toRaw(recipe)
  if (told?.recipe === raw) return told.rev
  const rev = (told?.rev ?? 0) + 1
  if (told) void core().follow(rev, { base: told.rev, patches: graft(told.recipe, raw).patches })
  else void core().follow(rev, { recipe: raw })
  told = { recipe: raw, rev }
  return rev
}
