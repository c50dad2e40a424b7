import { decodeImage } from '../images'
import type { ImageFile } from '../mesh'

/**
 * Whether an image holds tangent-space normals: nearly every pixel, read as a direction, is of unit length and
 * points out of the surface, and the mean looks straight out.
 */
export async function looksLikeNormals(image: ImageFile): Promise<boolean> {
  const pixels = await decodeImage(image)
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
