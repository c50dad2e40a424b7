type View = Exclude<ArrayBufferView, DataView> & { slice(): View; constructor: unknown }

/**
 * A value whose buffers may leave: every buffer is copied once and the copies are listed, so that they can be moved to
 * the other side without being cloned there again. What is kept here stays as it is.
 * @param given the value is kept nowhere else: its buffers are moved without a copy
 */
export function lend<T>(value: T, given = false): { value: T; buffers: ArrayBuffer[] } {
  const copies = new Map<ArrayBufferLike, ArrayBuffer>()
  const made = new Map<object, unknown>()
  const copyOf = (buffer: ArrayBufferLike): ArrayBuffer => {
    const known = copies.get(buffer)
    if (known) return known
    const copy = (given ? buffer : buffer.slice(0)) as ArrayBuffer
    copies.set(buffer, copy)
    return copy
  }
  const walk = (item: unknown): unknown => {
    if (typeof item !== 'object' || item === null) return item
    const known = made.get(item)
    if (known !== undefined) return known
    if (ArrayBuffer.isView(item)) {
      const view = item as View
      // a small part of a large buffer, such as an image in a file, takes only itself along
      const whole = view.byteLength * 4 > view.buffer.byteLength
      const Kind = view.constructor as new (buffer: ArrayBufferLike, offset?: number, length?: number) => View
      const length = (view as unknown as ArrayLike<unknown>).length
      const copy = whole ? new Kind(copyOf(view.buffer), view.byteOffset, length) : view.slice()
      if (!whole) copies.set(copy.buffer, copy.buffer as ArrayBuffer)
      made.set(item, copy)
      return copy
    }
    if (Array.isArray(item)) {
      // plain numbers and texts need no look at each
      const out = item.some(x => typeof x === 'object' && x !== null) ? item.map(walk) : item
      made.set(item, out)
      return out
    }
    if (item instanceof Map || item instanceof Set) return item
    const out: Record<string, unknown> = {}
    made.set(item, out)
    for (const [key, part] of Object.entries(item)) out[key] = walk(part)
    return out
  }
  return { value: walk(value) as T, buffers: [...copies.values()] }
}

/** Bytes of the buffers and texts of a message, each buffer once. */
export function messageBytes(value: unknown): number {
  const seen = new Set<object>()
  const open: unknown[] = [value]
  let bytes = 0
  while (open.length > 0) {
    const item = open.pop()
    if (typeof item === 'string') bytes += item.length
    else if (typeof item === 'object' && item !== null && !seen.has(item)) {
      seen.add(item)
      if (ArrayBuffer.isView(item)) {
        if (!seen.has(item.buffer)) bytes += item.buffer.byteLength
        seen.add(item.buffer)
      } else open.push(...Object.keys(item), ...Object.values(item))
    } else bytes += 8
  }
  return bytes
}
