import { Unzlib } from 'fflate'

const HEAD = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)
/** Parts a picture needs; comments and profiles are not looked at. */
const NEEDED: ReadonlySet<string> = new Set(['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND'])
const CHANNELS: Readonly<Record<number, number>> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 }

/**
 * A PNG with its picture alone, once it is known that its data expand to no more than its size tells.
 * @returns undefined where it is damaged, larger than `pixels`, or holds more than it says
 */
export function plainPng(bytes: Uint8Array, pixels: number): Uint8Array | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const kept: [number, number][] = []
  const data: Uint8Array[] = []
  let expected = -1
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at)
    const end = at + 12 + length
    if (end > bytes.length) return undefined
    const kind = String.fromCharCode(...bytes.subarray(at + 4, at + 8))
    if (kind === 'IHDR') {
      if (length !== 13 || expected >= 0) return undefined
      const [width, height, depth] = [view.getUint32(at + 8), view.getUint32(at + 12), bytes[at + 16]]
      const channels = CHANNELS[bytes[at + 17]]
      if (!channels || width * height > pixels || width * height === 0) return undefined
      // interlaced pictures have up to seven times as many row filters
      expected = Math.ceil((width * channels * depth) / 8) * height + 8 * height + 64
    }
    if (kind === 'IDAT') data.push(bytes.subarray(at + 8, at + 8 + length))
    if (NEEDED.has(kind)) kept.push([at, end])
    at = end
    if (kind === 'IEND') break
  }
  if (expected < 0 || !expandsWithin(data, expected)) return undefined
  const out = new Uint8Array(8 + kept.reduce((n, [from, to]) => n + to - from, 0))
  out.set(HEAD)
  let at = 8
  for (const [from, to] of kept) {
    out.set(bytes.subarray(from, to), at)
    at += to - from
  }
  return out
}

const CHUNK = 16 * 1024

function expandsWithin(parts: readonly Uint8Array[], most: number): boolean {
  let expanded = 0
  const inflate = new Unzlib(chunk => {
    expanded += chunk.length
  })
  try {
    for (const [i, part] of parts.entries())
      for (let from = 0; from < part.length || from === 0; from += CHUNK) {
        const last = i === parts.length - 1 && from + CHUNK >= part.length
        inflate.push(part.subarray(from, from + CHUNK), last)
        if (expanded > most) return false
      }
  } catch {
    return false
  }
  return true
}
