import { describe, expect, it } from 'vitest'
import { lend, messageBytes } from '~/workers/lend'

describe('what is lent across the border', () => {
  it('is copied once, so that what is kept here stays whole when the copies leave', () => {
    const kept = { mesh: { positions: Float32Array.of(1, 2, 3), name: 'body' }, parts: [{ start: 0 }, { start: 3 }] }
    const { value, buffers } = lend(kept)
    expect(value).toEqual(kept)
    expect(value.mesh.positions.buffer).not.toBe(kept.mesh.positions.buffer)
    expect(buffers).toEqual([value.mesh.positions.buffer])
    const moved = structuredClone(value, { transfer: buffers })
    expect(moved).toEqual(kept)
    expect(kept.mesh.positions).toEqual(Float32Array.of(1, 2, 3))
    expect(value.mesh.positions.byteLength).toBe(0)
  })
  it('shares on the other side what was shared here', () => {
    const one = Float32Array.of(1, 2, 3, 4)
    const { value, buffers } = lend({ a: one, b: one, half: one.subarray(2) })
    expect(buffers).toHaveLength(1)
    expect(value.a).toBe(value.b)
    expect(value.half.buffer).toBe(value.a.buffer)
    expect([...value.half]).toEqual([3, 4])
  })
  it('takes only itself along where it is a small part of a large buffer', () => {
    const file = new Uint8Array(100_000)
    file.set([7, 8, 9], 500)
    const { value, buffers } = lend({ image: file.subarray(500, 503) })
    expect(buffers[0]!.byteLength).toBe(3)
    expect([...value.image]).toEqual([7, 8, 9])
  })
  it('is moved as it is where it is kept nowhere else', () => {
    const bytes = new Uint8Array(10)
    const { value, buffers } = lend({ bytes }, true)
    expect(value.bytes.buffer).toBe(bytes.buffer)
    expect(buffers).toEqual([bytes.buffer])
  })
  it('leaves everything else alone: rings, sets, long lists of numbers, nothing', () => {
    const ring: { own?: unknown; set: Set<number>; map: Map<string, number> } = {
      set: new Set([1]),
      map: new Map([['a', 1]]),
    }
    ring.own = ring
    const { value } = lend(ring)
    expect(value.own).toBe(value)
    expect(value.set).toBe(ring.set)
    const numbers = [1, 2, 3]
    expect(lend({ numbers }).value.numbers).toBe(numbers)
    expect(lend(undefined).value).toBeUndefined()
    expect(lend({ nothing: null, not: undefined }).value).toEqual({ nothing: null, not: undefined })
  })
  it('is weighed by its buffers and texts, each buffer once', () => {
    const buffer = new Float32Array(100)
    expect(messageBytes({ a: buffer, b: buffer })).toBeLessThan(440)
    expect(messageBytes({ a: buffer.slice(), b: buffer.slice() })).toBeGreaterThanOrEqual(800)
    expect(messageBytes('hello')).toBe(5)
  })
})
