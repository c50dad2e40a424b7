import type { ImageFile } from '../mesh'
import { plainPng } from './plain-png'

/** Larger images are not decoded to be looked at: their size alone is told. */
const MOST_PIXELS = 4096 * 4096

/** Pixels of an image in red, green, blue and perhaps alpha, 0..255; undefined where it cannot be decoded. */
async function decode(
  image: ImageFile,
): Promise<{ data: ArrayLike<number>; channels: number; scale: number } | undefined> {
  try {
    if (image.mime === 'image/png') {
      const plain = plainPng(image.bytes, MOST_PIXELS)
      if (!plain) return undefined
      const { decode: decodePng } = await import('fast-png')
      const png = decodePng(plain)
      if (png.palette) {
        const { palette } = png
        return { data: Array.from(png.data).flatMap(i => palette[i]?.slice(0, 3) ?? [0, 0, 0]), channels: 3, scale: 1 }
      }
      return { data: png.data, channels: png.channels, scale: png.depth === 16 ? 1 / 257 : 1 }
    }
    if (image.mime === 'image/jpeg') {
      const { decode: decodeJpeg } = await import('jpeg-js')
      return {
        data: decodeJpeg(image.bytes, {
          useTArray: true,
          formatAsRGBA: false,
          maxResolutionInMP: 17,
          maxMemoryUsageInMB: 256,
        }).data,
        channels: 3,
        scale: 1,
      }
    }
  } catch {
    return undefined
  }
  return undefined
}

/**
 * Whether an image holds tangent-space normals: nearly every pixel, read as a direction, is of unit length and
 * points out of the surface, and the mean looks straight out.
 */
export async function looksLikeNormals(image: ImageFile): Promise<boolean> {
  const pixels = await decode(image)
  if (!pixels || pixels.channels < 3) return false
  const { data, channels, scale } = pixels
  const count = Math.floor(data.length / channels)
  const step = Math.max(1, Math.floor(count / 4000))
  let fitting = 0,
    n = 0,
    sx = 0,
    sy = 0,
    spread = 0
  for (let i = 0; i < count; i += step) {
    const x = (data[i * channels] * scale) / 127.5 - 1,
      y = (data[i * channels + 1] * scale) / 127.5 - 1,
      z = (data[i * channels + 2] * scale) / 127.5 - 1
    n++
    sx += x
    sy += y
    spread += Math.abs(x) + Math.abs(y)
    if (z > 0.2 && Math.abs(Math.hypot(x, y, z) - 1) < 0.09) fitting++
  }
  return n > 0 && fitting > 0.9 * n && Math.abs(sx / n) < 0.25 && Math.abs(sy / n) < 0.25 && spread / n < 1
}

/** Places of the images that hold normals. */
export async function bumpyImages(images: readonly ImageFile[]): Promise<number[]> {
  const out: number[] = []
  for (const [i, image] of images.entries()) if (await looksLikeNormals(image)) out.push(i)
  return out
}
