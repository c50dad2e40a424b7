import * as Comlink from 'comlink'
import type { Answer, CoreApi } from './core-api'

/** Why a worker is no longer there. */
export interface LostWorker {
  readonly why: 'ended' | 'silent'
  /** Whether it is the second one within a short time: what it did is not begun again by itself. */
  readonly again: boolean
}

export interface SuperviseOptions {
  /** How often a worker that has something to do is asked whether it is there, milliseconds. */
  readonly every?: number
  /** Silence after which it is given up, counted while this window runs; shorter once somebody pressed Stop, milliseconds. */
  readonly silence?: number
  readonly silenceAfterStop?: number
}
const DEFAULTS = { every: 1000, silence: 120_000, silenceAfterStop: 3000 } as const
/** Two losses within this time are one trouble, milliseconds. */
const SOON = 60_000

const LOST: Answer<never> = {
  ok: false,
  refusal: { code: 'stopped', message: 'The work broke off and was begun anew.' },
}
/** What is answered for a lost worker where no refusal can be told. */
const INSTEAD: { readonly [K in keyof CoreApi]?: unknown } = { unkept: [], alive: true, follow: undefined, stop: undefined, hold: undefined } // prettier-ignore

/**
 * A worker that is watched: one that breaks, ends or stays silent is put away, everything that waits for it is answered
 * with a refusal, and a new one takes its place. Files that only the worker held are given to the new one.
 */
export function supervise(
  start: () => Worker,
  onLost: (lost: LostWorker) => void,
  options: SuperviseOptions = {},
): Comlink.Remote<CoreApi> {
  const { every, silence, silenceAfterStop } = { ...DEFAULTS, ...options }
  let worker: Worker
  let remote: Comlink.Remote<CoreApi>
  let waiting = 0
  /** Times it was asked and did not answer; a clock would count the sleep of the machine too. */
  let misses = 0
  let stopAsked = false
  let lastLoss = -Infinity
  let looking = false
  /** Files that the browser had no room for, by hash. */
  const held = new Map<string, { name: string; bytes: Uint8Array }>()

  const begin = (): void => {
    worker = start()
    remote = Comlink.wrap<CoreApi>(worker)
    misses = 0
    stopAsked = false
    const own = worker
    worker.onerror = event => {
      event.preventDefault?.()
      if (own === worker) lose('ended')
    }
  }
  /** Whoever waits for an answer; nobody is held on to once it came. */
  const pending = new Set<() => void>()
  function lose(why: LostWorker['why']): void {
    const now = performance.now()
    const again = now - lastLoss < SOON
    lastLoss = now
    worker.terminate()
    begin()
    for (const answerLost of pending) answerLost()
    pending.clear()
    if (held.size > 0) void remote.hold([...held.values()])
    onLost({ why, again })
  }
  /** The answer, or that the worker is lost. */
  function orLost(call: Promise<unknown>): Promise<unknown> {
    return new Promise((resolve, reject) => {
      const answerLost = (): void => resolve(LOST)
      pending.add(answerLost)
      call.then(resolve, reject).finally(() => pending.delete(answerLost))
    })
  }
  const look = async (): Promise<void> => {
    if (waiting === 0) {
      looking = false
      return
    }
    const own = worker
    let answered = false
    void remote.alive().then(() => {
      answered = true
      if (own !== worker) return
      misses = 0
      stopAsked = false
    })
    await new Promise(done => setTimeout(done, every))
    if (own === worker && !answered && ++misses * every >= (stopAsked ? silenceAfterStop : silence)) lose('silent')
    setTimeout(() => void look(), 0)
  }

  begin()
  return new Proxy({} as Comlink.Remote<CoreApi>, {
    get(_, name) {
      if (typeof name !== 'string' || name === 'then') return undefined
      return async (...args: unknown[]) => {
        const call = remote[name as keyof CoreApi] as unknown as (...args: unknown[]) => Promise<unknown>
        // silence counts from the first thing that is asked, and anew from the first Stop
        if (waiting++ === 0 || (name === 'stop' && !stopAsked)) misses = 0
        if (name === 'stop') stopAsked = true
        if (!looking) setTimeout(() => void look(), every)
        looking = true
        try {
          const value = await orLost(call(...args))
          if (value === LOST && name in INSTEAD) return INSTEAD[name as keyof CoreApi]
          if ((name === 'receive' || name === 'keep') && (value as Answer<unknown>).ok)
            void remember(args[0] as string, args[1] as Uint8Array, (value as { value: unknown }).value)
          return value
        } finally {
          waiting--
        }
      }
    },
  })

  /** Holds on to a file that the worker has in memory only. */
  async function remember(name: string, bytes: Uint8Array, value: unknown): Promise<void> {
    const { hash } = (value as { file?: { hash: string } }).file ?? (value as { hash: string })
    const list = (await orLost(remote.unkept())) as Awaited<ReturnType<CoreApi['unkept']>> | typeof LOST
    if (Array.isArray(list) && list.some(f => f.hash === hash)) held.set(hash, { name, bytes })
  }
}
