import type { ImageFile } from '../mesh'
import { decodeImage, type Pixels } from './decode-image'

/** What the numbers of an image stand for: light, directions, or plain amounts. */
export type ImageUse = 'color' | 'normal' | 'amount'

/** Of JPEG, of a hundred. */
const QUALITY = 92

/** Width and height so that neither is more than `largest`; those of an image that is small enough stay. */
export function sizeWithin(width: number, height: number, largest: number): { width: number; height: number } {
  const by = Math.min(1, largest / Math.max(width, height))
  const side = (n: number): number => Math.max(1, Math.round(n * by))
  return { width: side(width), height: side(height) }
}

/**
 * An image no larger than asked, in the kind it came in. Every new pixel is the mean of the area it covers (box filter, exact at
 * its edges): light is averaged as light and by how opaque it is, directions are made unit long again.
 * @param largest pixels a side
 * @returns the same image where it is small enough; undefined where it cannot be decoded here
 */
export async function shrinkImage(image: ImageFile, largest: number, use: ImageUse): Promise<ImageFile | undefined> {
  const size = imageSize(image)
  if (size && Math.max(size.width, size.height) <= largest) return image
  const pixels = await decodeImage(image)
  if (!pixels) return undefined
  const { width, height } = sizeWithin(pixels.width, pixels.height, largest)
  if (width === pixels.width && height === pixels.height) return image
  const data = averaged(pixels, width, height, use)
  const { channels } = pixels
  if (image.mime === 'image/jpeg') {
    const { encode } = await import('jpeg-js')
    const wide = new Uint8Array(4 * width * height).fill(255)
    for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) wide[4 * i + k] = data[channels * i + k]
    return { ...image, bytes: new Uint8Array(encode({ width, height, data: wide }, QUALITY).data) }
  }
  const { encode } = await import('fast-png')
  return {
    ...image,
    mime: 'image/png',
    bytes: new Uint8Array(encode({ width, height, data, channels: channels as 1 | 2 | 3 | 4, depth: 8 })),
  }
}

/** Light a value of sRGB stands for, and back (IEC 61966-2-1). */
const toLight = Float32Array.from({ length: 256 }, (_, v) => {
  const c = v / 255
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
})
const fromLight = (l: number): number => 255 * (l <= 0.0031308 ? 12.92 * l : 1.055 * l ** (1 / 2.4) - 0.055)

function averaged({ width, height, data, channels, scale }: Pixels, w: number, h: number, use: ImageUse): Uint8Array {
  const alpha = channels === 2 || channels === 4 ? channels - 1 : -1
  const told = alpha < 0 ? channels : alpha
  const out = new Uint8Array(channels * w * h)
  const sum = new Float64Array(channels)
  const across = covers(width, w)
  const down = covers(height, h)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      sum.fill(0)
      let all = 0
      let weighed = 0
      for (let v = down[y].from; v < down[y].to; v++)
        for (let u = across[x].from; u < across[x].to; u++) {
          const share = overlap(down[y], v) * overlap(across[x], u)
          const at = channels * (v * width + u)
          const opaque = alpha < 0 ? 1 : (data[at + alpha] * scale) / 255
          // what cannot be seen lends no colour
          const by = use === 'color' ? share * opaque : share
          for (let k = 0; k < told; k++) {
            const value = data[at + k] * scale
            sum[k] += by * (use === 'color' ? toLight[Math.round(value)] : value)
          }
          if (alpha >= 0) sum[alpha] += share * opaque * 255
          all += share
          weighed += by
        }
      const at = channels * (y * w + x)
      for (let k = 0; k < told; k++) {
        const mean = weighed > 0 ? sum[k] / weighed : 0
        out[at + k] = Math.round(use === 'color' ? fromLight(mean) : mean)
      }
      if (alpha >= 0) out[at + alpha] = Math.round(sum[alpha] / all)
      if (use === 'normal' && told === 3) unit(out, at)
    }
  return out
}

interface Cover {
  readonly low: number
  readonly high: number
  readonly from: number
  readonly to: number
}

/** Which of `many` old pixels each of `few` new ones lies on. */
const covers = (many: number, few: number): Cover[] =>
  Array.from({ length: few }, (_, i) => {
    const low = (i * many) / few
    const high = ((i + 1) * many) / few
    return { low, high, from: Math.floor(low), to: Math.min(many, Math.ceil(high - 1e-9)) }
  })

const overlap = ({ low, high }: Cover, i: number): number => Math.min(high, i + 1) - Math.max(low, i)

/** A direction of three bytes made unit long. */
function unit(values: Uint8Array, at: number): void {
  const d = [0, 1, 2].map(k => values[at + k] / 127.5 - 1)
  const l = Math.hypot(d[0], d[1], d[2])
  if (l < 1e-3) return
  for (let k = 0; k < 3; k++) values[at + k] = Math.round((d[k] / l + 1) * 127.5)
}

/** Width and height by the head of a PNG or JPEG, without decoding it. */
export function imageSize({ mime, bytes }: ImageFile): { width: number; height: number } | undefined {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (mime === 'image/png')
    return bytes.length < 24 ? undefined : { width: view.getUint32(16), height: view.getUint32(20) }
  if (mime !== 'image/jpeg') return undefined
  for (let at = 2; at + 9 < bytes.length;) {
    if (bytes[at] !== 0xff) return undefined
    const marker = bytes[at + 1]
    // frames tell the size; C4, C8 and CC are tables
    if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { width: view.getUint16(at + 7), height: view.getUint16(at + 5) }
    at += marker === 0xff ? 1 : 2 + view.getUint16(at + 2)
  }
  return undefined
}
