import * as Comlink from 'comlink'
import { describe, expect, it } from 'vitest'
import type { Answer, CoreApi } from '~/workers/core-api'
import { supervise, type LostWorker } from '~/workers/supervise'

/** A worker made of two ports: what it does, and whether it still answers, is up to the test. */
class FakeWorker {
  onerror: ((event: { message: string }) => void) | null = null
  terminated = false
  readonly held: string[] = []
  private readonly far: MessagePort
  private readonly near: MessagePort
  readonly addEventListener: MessagePort['addEventListener']
  readonly removeEventListener: MessagePort['removeEventListener']
  readonly postMessage: MessagePort['postMessage']
  /** Deaf: what is asked is never heard. */
  deaf = false

  constructor(api: Partial<Record<keyof CoreApi, (...args: never[]) => unknown>>) {
    const { port1, port2 } = new MessageChannel()
    this.near = port1
    this.far = port2
    this.addEventListener = port1.addEventListener.bind(port1) as never
    this.removeEventListener = port1.removeEventListener.bind(port1) as never
    this.postMessage = ((...args: [never, never]) => {
      if (!this.deaf) port1.postMessage(...args)
    }) as never
    port1.start()
    Comlink.expose({ alive: async () => true, hold: async (files: { name: string }[]) => void this.held.push(...files.map(f => f.name)), ...api }, port2) // prettier-ignore
  }
  terminate(): void {
    this.terminated = true
    this.near.close()
    this.far.close()
  }
}

const never = (): Promise<never> => new Promise(() => undefined)
function watched(...apis: ConstructorParameters<typeof FakeWorker>[0][]) {
  const workers: FakeWorker[] = []
  const losses: LostWorker[] = []
  const core = supervise(
    () => {
      const made = new FakeWorker(apis[Math.min(workers.length, apis.length - 1)]!)
      workers.push(made)
      return made as unknown as Worker
    },
    lost => losses.push(lost),
    { every: 10, silence: 120, silenceAfterStop: 40 },
  )
  const end = (): void => workers.forEach(w => w.terminate())
  return { core, workers, losses, end }
}
const pause = (ms: number): Promise<void> => new Promise(done => setTimeout(done, ms))

describe('a worker that is watched', () => {
  it('is left alone while it answers, however long its work takes', async () => {
    const { core, workers, losses, end } = watched({
      pack: async () => {
        await pause(300)
        return { ok: true, value: new Uint8Array(3) }
      },
    })
    expect(await core.pack(1)).toEqual({ ok: true, value: new Uint8Array(3) })
    expect([workers.length, losses.length]).toEqual([1, 0])
    end()
  })
  it('that breaks is put away: whatever waits is answered, and another one takes its place', async () => {
    const { core, workers, losses, end } = watched({ pack: never }, { pack: async () => ({ ok: true, value: 7 }) })
    const waiting = [core.pack(1), core.pack(2)]
    await pause(20)
    workers[0]!.onerror!({ message: 'out of memory' })
    for (const answer of await Promise.all(waiting)) expect((answer as Answer<never>).ok).toBe(false)
    expect(workers[0]!.terminated).toBe(true)
    expect(losses).toEqual([{ why: 'ended', again: false }])
    expect(await core.pack(3)).toEqual({ ok: true, value: 7 })
    end()
  })
  it('that stays silent is put away after a while, and at once when somebody pressed Stop', async () => {
    const { core, workers, losses, end } = watched({ pack: never })
    const from = performance.now()
    const first = core.pack(1)
    workers[0]!.deaf = true
    expect(((await first) as Answer<never>).ok).toBe(false)
    expect(performance.now() - from).toBeGreaterThan(100)
    expect(losses).toEqual([{ why: 'silent', again: false }])
    const again = performance.now()
    const second = core.pack(2)
    workers[1]!.deaf = true
    void core.stop('job')
    await second
    expect(performance.now() - again).toBeLessThan(110)
    // the second within a short time is told as such
    expect(losses[1]).toEqual({ why: 'silent', again: true })
    end()
  })
  it('that answers late is not taken for silent', async () => {
    const { core, losses, end } = watched({
      pack: async () => {
        // one long stretch of work
        const until = performance.now() + 90
        while (performance.now() < until);
        return { ok: true, value: 1 }
      },
    })
    expect(await core.pack(1)).toEqual({ ok: true, value: 1 })
    expect(losses).toEqual([])
    end()
  })
  it('that was the only one to hold a file hands it on to the next', async () => {
    const file = { name: 'a.glb', hash: 'h', size: 3 }
    const api = { keep: async () => ({ ok: true, value: file }), unkept: async () => [{ hash: 'h', name: 'a.glb' }] }
    const { core, workers, end } = watched(api)
    await core.keep('a.glb', new Uint8Array([1, 2, 3]))
    await pause(20)
    workers[0]!.onerror!({ message: 'gone' })
    await pause(30)
    expect(workers[1]!.held).toEqual(['a.glb'])
    end()
  })
})
