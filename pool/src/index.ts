import { fork, type ChildProcess } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { availableParallelism } from 'node:os'
import { fileURLToPath } from 'node:url'
import { ChiraxisError, type ErrorCode, type StopSignal } from '@chiraxis/core/math'
import { sha256 } from './sha256'
import type { Ask, JobFile, JobKind, JobKinds, Reply } from './jobs'

export type { Inspected, JobFile, JobKind, JobKinds } from './jobs'

/** A file as jobs name it. */
export const jobFile = (name: string, bytes: Uint8Array): JobFile & { readonly bytes: Uint8Array } => ({
  // the system's own digest, since the server's thread waits for it
  key: sha256(bytes),
  name,
  bytes,
})

export interface PoolOptions {
  /** Children at a time. Default one a core, at most 8. */
  readonly size?: number
  /** A job that takes longer is ended, seconds. Default 60. */
  readonly seconds?: number
  /** A child that holds more is ended, MiB resident, typed arrays included. Default 1024. */
  readonly memoryMiB?: number
  /** A child with nothing to do is let go after this, seconds. Default 10. */
  readonly idleSeconds?: number
}
export const POOL_DEFAULTS = { seconds: 60, memoryMiB: 1024, idleSeconds: 10 } as const

export interface Pool {
  readonly size: number
  /** Children that are there at the moment. */
  readonly children: number
  /**
   * Runs a job in a child of its own; as soon as it is begun the progress is 0. When it is stopped, takes too long or asks for too much memory the child is ended,
   * and the next job finds another one.
   * @throws ChiraxisError as the job does; `too-large`, `stopped`
   */
  run<K extends JobKind>(
    kind: K,
    asked: JobKinds[K]['asked'],
    signal?: StopSignal,
    onProgress?: (share: number) => void,
  ): Promise<JobKinds[K]['given']>
  close(): void
}

/** How often running jobs are looked at, milliseconds. */
const LOOK = 100

interface Child {
  readonly process: ChildProcess
  idle?: ReturnType<typeof setTimeout>
}

/** @param script the child's program, built from `@chiraxis/pool/build-child` */
export function createPool(script: URL | string, options: PoolOptions = {}): Pool {
  const { seconds, memoryMiB, idleSeconds } = { ...POOL_DEFAULTS, ...options }
  const size = options.size ?? Math.max(1, Math.min(8, availableParallelism()))
  const file = typeof script === 'string' ? script : fileURLToPath(script)
  const idle: Child[] = []
  const all = new Set<Child>()
  const waiting: ((child: Child) => void)[] = []
  let ids = 0
  let closed = false

  function start(): Child {
    // the heap may take what the whole child may; what is beyond it is seen from here
    const child: Child = {
      process: fork(file, [], {
        serialization: 'advanced',
        stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
        execArgv: [`--max-old-space-size=${memoryMiB}`],
      }),
    }
    all.add(child)
    const gone = (): void => {
      clearTimeout(child.idle)
      all.delete(child)
      if (idle.includes(child)) idle.splice(idle.indexOf(child), 1)
      // somebody may be waiting for its place
      if (!closed && waiting.length > 0 && all.size < size) waiting.shift()!(start())
    }
    child.process.once('exit', gone)
    child.process.once('error', gone)
    return child
  }
  function end(child: Child): void {
    clearTimeout(child.idle)
    child.process.kill('SIGKILL')
  }
  function give(child: Child): void {
    if (!all.has(child)) return
    const next = waiting.shift()
    if (next) return next(child)
    idle.push(child)
    child.idle = setTimeout(() => end(child), 1000 * idleSeconds)
    child.idle.unref()
  }
  async function free(): Promise<Child> {
    const known = idle.pop()
    if (known) clearTimeout(known.idle)
    return known ?? (all.size < size ? start() : new Promise<Child>(resolve => waiting.push(resolve)))
  }

  async function run(
    kind: JobKind,
    asked: JobKinds[JobKind]['asked'],
    signal?: StopSignal,
    onProgress?: (share: number) => void,
  ): Promise<unknown> {
    const child = await free()
    if (signal?.aborted) {
      give(child)
      throw stopped()
    }
    onProgress?.(0)
    const id = ++ids
    const called = nameOf(asked)
    return new Promise((resolve, reject) => {
      const since = performance.now()
      const done = (): void => {
        clearInterval(watch)
        child.process.off('message', heard)
        child.process.off('exit', died)
      }
      const giveUp = (error: ChiraxisError): void => {
        done()
        end(child)
        reject(error)
      }
      const heard = (reply: Reply): void => {
        if (reply.id !== id) return
        if ('progress' in reply) return onProgress?.(reply.progress)
        // files it has not seen yet go along with the second asking
        if ('needs' in reply) return send(asked)
        done()
        give(child)
        if ('refused' in reply) return reject(new ChiraxisError(reply.refused.code as ErrorCode, reply.refused.message))
        resolve(reply.given)
      }
      const died = (): void => {
        done()
        reject(tooMuch(called))
      }
      const watch = setInterval(() => {
        if (signal?.aborted) giveUp(stopped())
        else if (performance.now() - since > 1000 * seconds)
          giveUp(new ChiraxisError('too-large', `${called} took longer than ${seconds} seconds and was given up.`))
        else if (residentMiB(child.process.pid) > memoryMiB) giveUp(tooMuch(called))
      }, LOOK)
      const send = (what: object): void => {
        child.process.send({ id, kind, asked: what } as Ask, error => {
          if (error && all.has(child)) giveUp(tooMuch(called))
        })
      }
      child.process.on('message', heard)
      child.process.once('exit', died)
      send(withoutBytes(asked))
    })
  }

  return {
    size,
    get children() {
      return all.size
    },
    run: run as Pool['run'],
    close() {
      closed = true
      for (const child of all) end(child)
      idle.length = 0
    },
  }
}

const stopped = (): ChiraxisError => new ChiraxisError('stopped', 'The work was stopped.')
const tooMuch = (name: string): ChiraxisError =>
  new ChiraxisError('too-large', `${name} asks for more memory than a job may take; it is too large or damaged.`)

/** A job's files by name alone. */
function withoutBytes(asked: object): object {
  return Object.fromEntries(
    Object.entries(asked).map(([key, value]) => [
      key,
      isFile(value)
        ? named(value)
        : Array.isArray(value) && value.every(isFile)
          ? value.map(named)
          : (value as unknown),
    ]),
  )
}
const named = ({ key, name }: JobFile): JobFile => ({ key, name })
const isFile = (value: unknown): value is JobFile =>
  typeof value === 'object' && value !== null && 'bytes' in value && 'key' in value
const nameOf = (asked: object): string => {
  const files = Object.values(asked).filter(isFile)
  return files[files.length - 1]?.name ?? 'The job'
}

/** Memory a process holds, MiB, as the system counts it; 0 where it does not tell. */
function residentMiB(pid: number | undefined): number {
  try {
    return (Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * 4096) / 2 ** 20
  } catch {
    return 0
  }
}
