import type { GltfDocument, GltfJson } from './gltf'

const GLB = { magic: 0x46546c67, json: 0x4e4f534a, binary: 0x004e4942 } as const

/** A document as one GLB. The same document gives the same bytes. */
export function packGlb({ json, buffers }: GltfDocument): Uint8Array<ArrayBuffer> {
  const starts: number[] = []
  let length = 0
  for (const buffer of buffers) {
    starts.push(length)
    length += pad(buffer.length)
  }
  // data that is there only compressed has a buffer without bytes
  const absent = json.buffers?.slice(buffers.length) ?? []
  const views = json.bufferViews?.map(v =>
    v.buffer < buffers.length
      ? { ...v, buffer: 0, byteOffset: starts[v.buffer] + (v.byteOffset ?? 0) }
      : { ...v, buffer: v.buffer - buffers.length + 1 },
  )
  const whole: GltfJson = { ...json }
  if (views) whole.bufferViews = views
  if (length > 0) whole.buffers = [{ byteLength: length }, ...absent]
  else delete whole.buffers
  const text = new TextEncoder().encode(JSON.stringify(whole))
  const first = pad(text.length)
  const total = 12 + 8 + first + (length > 0 ? 8 + length : 0)
  const out = new Uint8Array(total)
  const data = new DataView(out.buffer)
  data.setUint32(0, GLB.magic, true)
  data.setUint32(4, 2, true)
  data.setUint32(8, total, true)
  data.setUint32(12, first, true)
  data.setUint32(16, GLB.json, true)
  out.set(text, 20)
  out.fill(0x20, 20 + text.length, 20 + first)
  if (length > 0) {
    const at = 20 + first
    data.setUint32(at, length, true)
    data.setUint32(at + 4, GLB.binary, true)
    buffers.forEach((buffer, i) => out.set(buffer, at + 8 + starts[i]))
  }
  return out
}

/** Four bytes are the finest step of a GLB. */
export const pad = (n: number): number => (n + 3) & ~3
