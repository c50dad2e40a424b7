import type { ImageFile } from '../mesh'
import { plainPng } from './plain-png'

/** Larger images are not decoded to be looked at: their size alone is told. */
const MOST_PIXELS = 4096 * 4096

export interface Pixels {
  readonly width: number
  readonly height: number
  readonly data: ArrayLike<number>
  readonly channels: number
  /** Brings a value to 0..255. */
  readonly scale: number
}

/** Pixels of an image; undefined where it is too large, damaged, or of a kind that cannot be decoded here (WebP). */
export async function decodeImage(image: ImageFile): Promise<Pixels | undefined> {
  try {
    if (image.mime === 'image/png') {
      const plain = plainPng(image.bytes, MOST_PIXELS)
      if (!plain) return undefined
      const { decode } = await import('fast-png')
      const { width, height, data, channels, palette, depth } = decode(plain)
      if (palette) {
        const colors = palette as readonly (readonly number[])[]
        const own = colors.some(c => (c[3] ?? 255) < 255) ? 4 : 3
        const out = new Uint8Array(own * data.length)
        for (let i = 0; i < data.length; i++)
          for (let k = 0; k < own; k++) out[own * i + k] = colors[data[i]]?.[k] ?? (k === 3 ? 255 : 0)
        return { width, height, data: out, channels: own, scale: 1 }
      }
      return { width, height, data, channels, scale: depth === 16 ? 1 / 257 : 1 }
    }
    if (image.mime === 'image/jpeg') {
      const { decode } = await import('jpeg-js')
      const { width, height, data } = decode(image.bytes, {
        useTArray: true,
        formatAsRGBA: false,
        maxResolutionInMP: 17,
        maxMemoryUsageInMB: 256,
      })
      return { width, height, data, channels: 3, scale: 1 }
    }
  } catch {
    return undefined
  }
  return undefined
}
