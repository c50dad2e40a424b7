import type { Tangents } from '../light'
import { ChiraxisError, type StopSignal, type WorkOptions } from '../math'
import { readFile, type FileReader } from '../formats'
import { chainOf, digest, hashText, valueAt, type FileSource, type Recipe } from '../recipe'
import { ByteCache, bytesOf } from './cache'
import { STEPS } from './table'
import type { ParamOf, Read, Step, StepContext, StepName, StepRef, StepResults } from './types'

/** Memory that kept results may take, bytes. */
const BUDGET = 1024 * 2 ** 20

/** How often one who waits for shared work looks whether it was stopped, milliseconds. */
const LOOK = 40

type AnyStep = Step<StepName>
type Of = ParamOf<StepName>
type Asked<N extends StepName> = WorkOptions & (ParamOf<N> extends undefined ? unknown : { readonly of: ParamOf<N> })

/** The steps of a recipe, each worked out once for what it depends on. */
export interface Derivation {
  /**
   * The result of a step. Two who ask for one result share the work; it goes on while one of them still wants it.
   * @throws ChiraxisError as the step does; `stopped` where the signal says so
   */
  get<N extends StepName>(
    step: N,
    recipe: Recipe,
    ...options: ParamOf<N> extends undefined ? [WorkOptions?] : [Asked<N>]
  ): Promise<StepResults[N]>
  /** What a result is known by: equal keys, equal content. */
  key<N extends StepName>(step: N, recipe: Recipe, ...of: ParamOf<N> extends undefined ? [] : [ParamOf<N>]): string
  /** Whether a result is kept. */
  has(key: string): boolean
  /** Memory the kept results take, bytes. */
  readonly bytes: number
}

/** The key of a step's result, told by the table alone. */
export function keyOf<N extends StepName>(
  step: N,
  recipe: Recipe,
  ...of: ParamOf<N> extends undefined ? [] : [ParamOf<N>]
): string {
  return keyWith(step, recipe, of[0] as Of)
}

const keys = new WeakMap<Recipe, Map<string, string>>()

/** @param instead digests in place of those of some paths */
function keyWith(name: StepName, recipe: Recipe, of: Of, instead: Readonly<Record<string, string>> = {}): string {
  const plain = Object.keys(instead).length === 0
  const known = keys.get(recipe) ?? new Map<string, string>()
  keys.set(recipe, known)
  const own = `${name} ${digest(of)}`
  const before = plain ? known.get(own) : undefined
  if (before) return before
  const step = STEPS[name] as unknown as AnyStep
  const id = typeof of === 'string' ? of : undefined
  const inputs = step.reads.map(read => digestOf(read, recipe, id, instead))
  for (const [from, param] of fromOf(step, recipe, of)) inputs.push(keyWith(from, recipe, param))
  const asked = step.asked?.(of as never)
  if (asked !== undefined) inputs.push(digest(asked))
  const key = `${name}:${hashText(inputs.join('|'))}`
  if (plain) known.set(own, key)
  return key
}

function digestOf(
  read: Read,
  recipe: Recipe,
  id: string | undefined,
  instead: Readonly<Record<string, string>>,
): string {
  const path = typeof read === 'string' ? read : read.path
  const value = valueAt(recipe, path, id)
  return typeof read === 'string' ? (instead[path] ?? digest(value)) : digest(read.part(value as never))
}

function fromOf(step: AnyStep, recipe: Recipe, of: Of): readonly (readonly [StepName, Of])[] {
  const list: readonly StepRef[] = typeof step.from === 'function' ? step.from(recipe, of as never) : step.from
  return list.map(ref => (typeof ref === 'string' ? [ref, undefined] : ref))
}

/** Work under way, and everybody who waits for it. */
interface Running {
  readonly result: Promise<unknown>
  readonly askers: Set<StopSignal | undefined>
}

export interface DerivationOptions {
  /** How files are read. Default here, by what needs no 3D library. */
  readonly read?: FileReader
  /** Tangents as readers of normal maps work them out, for baking; left out where nothing is baked. */
  readonly tangents?: Tangents
  /** Memory that kept results may take, bytes. Default 1 GiB. */
  readonly budget?: number
  /** Where results of steps that are worth it are kept beyond this derivation. */
  readonly store?: ResultStore
}

/** Results kept over the end of the program, by their keys. It never fails: what it cannot do is worked out again. */
export interface ResultStore {
  find(key: string): Promise<unknown>
  /** Keeps a result; it is copied, so the caller may go on with its own. */
  put(key: string, value: unknown, bytes: number): Promise<void>
}

/**
 * The steps as pure functions of what they depend on, behind a cache by content within a budget of bytes.
 * A step that was stopped or failed leaves nothing behind, so it is worked out again when asked.
 */
export function createDerivation(
  source: FileSource,
  { read = readFile, tangents, budget = BUDGET, store }: DerivationOptions = {},
): Derivation {
  const cache = new ByteCache<unknown>(budget)
  const running = new Map<string, Running>()
  /** Share done of work under way, and who is told of it. */
  const shares = new Map<string, number>()
  const listeners = new Set<() => void>()

  function run(name: StepName, recipe: Recipe, of: Of, signal: StopSignal | undefined): Promise<unknown> {
    const key = keyWith(name, recipe, of)
    const kept = cache.get(key)
    if (kept) return Promise.resolve(kept.value)
    if (signal?.aborted) return Promise.reject(stopped())
    const shared = running.get(key) ?? begin(key, name, recipe, of, signal)
    shared.askers.add(signal)
    return untilStopped(shared.result, signal)
  }

  function begin(key: string, name: StepName, recipe: Recipe, of: Of, first: StopSignal | undefined): Running {
    const askers = new Set<StopSignal | undefined>([first])
    // shared work ends when nobody wants it any more
    const signal: StopSignal = {
      get aborted() {
        return [...askers].every(a => a?.aborted === true)
      },
    }
    const step = STEPS[name] as unknown as AnyStep
    const declared = new Set(fromOf(step, recipe, of).map(([from]) => from))
    const context = {
      recipe,
      of,
      source,
      read,
      tangents,
      work: {
        signal,
        onProgress: (share: number) => {
          shares.set(key, share)
          for (const listener of listeners) listener()
        },
      },
      get: (from: StepName, param?: Of) => {
        if (!declared.has(from)) throw new Error(`${name} asks for ${from}, which it does not declare`)
        return run(from, recipe, param, signal)
      },
      replay: (path: string, start: () => Promise<unknown>, next: Replay) =>
        replay(name, recipe, of, path, start, next, signal),
    }
    const result = (async () => {
      try {
        const stored = step.lasting ? await store?.find(key) : undefined
        const value = stored ?? (await step.compute(context as unknown as StepContext<never>))
        const bytes = bytesOf(step.sizeOf ? step.sizeOf(value as never) : value)
        cache.set(key, value, bytes)
        if (step.lasting && stored === undefined) void store?.put(key, value, bytes)
        return value
      } finally {
        running.delete(key)
        shares.delete(key)
        for (const listener of listeners) listener()
      }
    })()
    const made: Running = { result, askers }
    running.set(key, made)
    return made
  }

  type Replay = (state: unknown, edit: unknown, fresh: boolean) => Promise<unknown>
  async function replay(
    name: StepName,
    recipe: Recipe,
    of: Of,
    path: string,
    start: () => Promise<unknown>,
    next: Replay,
    signal: StopSignal,
  ): Promise<unknown> {
    const edits = valueAt(recipe, path, undefined) as readonly unknown[]
    const chain = chainOf(edits)
    let done = edits.length
    let state: unknown
    while (--done > 0) {
      const kept = cache.get(keyWith(name, recipe, of, { [path]: chain[done] }))
      if (kept) {
        state = kept.value
        break
      }
    }
    let fresh = done <= 0
    if (fresh) {
      done = 0
      state = await start()
    }
    for (let i = done; i < edits.length; i++) {
      if (signal.aborted) throw stopped()
      state = await next(state, edits[i], fresh)
      fresh = true
    }
    return state
  }

  /** Steps still to be worked out for a result, each with its weight. */
  function needed(name: StepName, recipe: Recipe, of: Of, out = new Map<string, number>()): Map<string, number> {
    const key = keyWith(name, recipe, of)
    if (out.has(key) || cache.has(key)) return out
    const step = STEPS[name] as unknown as AnyStep
    out.set(key, step.weight)
    for (const [from, param] of fromOf(step, recipe, of)) needed(from, recipe, param, out)
    return out
  }

  async function get(name: StepName, recipe: Recipe, options: WorkOptions & { of?: Of } = {}): Promise<unknown> {
    const { of, signal, onProgress } = options
    if (!onProgress) return run(name, recipe, of, signal)
    const steps = needed(name, recipe, of)
    const total = [...steps.values()].reduce((sum, w) => sum + w, 0) || 1
    let most = 0
    const tell = (): void => {
      let share = 0
      for (const [key, weight] of steps) share += weight * (cache.has(key) ? 1 : (shares.get(key) ?? 0))
      // a step that turns out not to be needed never makes the share go back
      most = Math.max(most, share / total)
      onProgress(most)
    }
    listeners.add(tell)
    try {
      return await run(name, recipe, of, signal)
    } finally {
      listeners.delete(tell)
    }
  }

  return {
    get: get as Derivation['get'],
    key: keyOf,
    has: key => cache.has(key),
    get bytes() {
      return cache.bytes
    },
  }
}

const stopped = (): ChiraxisError => new ChiraxisError('stopped', 'The work was stopped.')

/** The same result, given up by one who was stopped although others still wait for it. */
function untilStopped<T>(result: Promise<T>, signal: StopSignal | undefined): Promise<T> {
  if (!signal) return result
  return new Promise((resolve, reject) => {
    let over = false
    const look = (): void => {
      if (over) return
      if (signal.aborted) {
        over = true
        reject(stopped())
      } else setTimeout(look, LOOK)
    }
    result.then(
      value => {
        over = true
        resolve(value)
      },
      error => {
        over = true
        reject(error)
      },
    )
    setTimeout(look, LOOK)
  })
}
