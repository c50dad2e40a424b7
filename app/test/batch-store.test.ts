import 'fake-indexeddb/auto'
import { describe, expect, it } from 'vitest'
import { openBatchStore, type JobReport } from '~/keeping/batch-store'

const result = (size: number, name = 'a.glb') => ({
  ...({ name, takes: ['walk'], notes: [], proof: { maxPositionError: 0, bytes: size } } as unknown as JobReport),
  bytes: new Uint8Array(size).fill(7),
  beside: [{ name: 'a.bin', bytes: new Uint8Array(3) }],
})

describe('files of batches', () => {
  it('are there after a reload, by project and by what they were made of', async () => {
    const name = 'batch-a'
    await openBatchStore({ name }).put('one', 'k1', result(10))
    await openBatchStore({ name }).put('one', 'k2', result(20, 'b.glb'))
    await openBatchStore({ name }).put('two', 'k3', result(30))
    const again = openBatchStore({ name })
    const reports = await again.reports('one')
    expect([...reports.keys()].sort()).toEqual(['k1', 'k2'])
    expect(reports.get('k2')!.name).toBe('b.glb')
    expect('bytes' in reports.get('k2')!).toBe(false)
    const files = (await again.files('k1'))!
    expect([files.bytes.length, files.bytes[0], files.beside![0]!.name]).toEqual([10, 7, 'a.bin'])
    expect(await again.files('none')).toBeUndefined()
  })
  it('go when they are wanted no more, and those of other projects stay', async () => {
    const store = openBatchStore({ name: 'batch-b' })
    for (const k of ['k1', 'k2', 'k3']) await store.put('one', k, result(5))
    await store.put('two', 'k4', result(5))
    await store.keepOnly('one', new Set(['k2']))
    expect([...(await store.reports('one')).keys()]).toEqual(['k2'])
    expect(await store.files('k1')).toBeUndefined()
    expect(await store.files('k4')).toBeDefined()
  })
  it('take no more room than they may: the oldest give way', async () => {
    const store = openBatchStore({ name: 'batch-c', budget: 100 })
    for (let i = 0; i < 6; i++) {
      await store.put('one', `k${i}`, result(30))
      await new Promise(done => setTimeout(done, 3))
    }
    expect([...(await store.reports('one')).keys()].sort()).toEqual(['k3', 'k4', 'k5'])
    expect(await store.files('k0')).toBeUndefined()
    // one that is larger than the room by itself is kept while it is the newest
    await store.put('one', 'big', result(500))
    expect(await store.files('big')).toBeDefined()
  })
})
