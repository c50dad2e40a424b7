/** A result kept by its key, and about how much memory it holds. */
interface Entry<T> {
  readonly value: T
  readonly bytes: number
}

/** Results within a budget of bytes: what was asked for longest ago makes room first. */
export class ByteCache<T> {
  private readonly entries = new Map<string, Entry<T>>()
  private held = 0

  /** @param budget bytes; one result larger than that is still kept until the next one comes */
  constructor(private readonly budget: number) {}

  get bytes(): number {
    return this.held
  }

  has(key: string): boolean {
    return this.entries.has(key)
  }

  /** The result, which becomes the one asked for last. */
  get(key: string): Entry<T> | undefined {
    const entry = this.entries.get(key)
    if (!entry) return undefined
    this.entries.delete(key)
    this.entries.set(key, entry)
    return entry
  }

  set(key: string, value: T, bytes: number): void {
    const before = this.entries.get(key)
    if (before) {
      this.held -= before.bytes
      this.entries.delete(key)
    }
    this.entries.set(key, { value, bytes })
    this.held += bytes
    for (const [old, entry] of this.entries) {
      if (this.held <= this.budget || old === key) break
      this.entries.delete(old)
      this.held -= entry.bytes
    }
  }
}

/** About how many bytes a result holds: its buffers, each once, and a little for every other value. */
export function bytesOf(value: unknown): number {
  const seen = new Set<object>()
  let bytes = 0
  const open: unknown[] = [value]
  while (open.length > 0) {
    const item = open.pop()
    bytes += typeof item === 'string' ? 2 * item.length : 8
    if (typeof item !== 'object' || item === null || seen.has(item)) continue
    seen.add(item)
    if (ArrayBuffer.isView(item)) {
      if (!seen.has(item.buffer)) bytes += item.buffer.byteLength
      seen.add(item.buffer)
    } else if (item instanceof Map || item instanceof Set) open.push(...item.keys(), ...item.values())
    // a long list of numbers is told by its length
    else if (Array.isArray(item) && typeof item[0] === 'number') bytes += 8 * item.length
    else for (const part of Object.values(item)) open.push(part)
  }
  return bytes
}
