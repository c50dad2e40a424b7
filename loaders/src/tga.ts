import { encode } from 'fast-png'
import { TGALoader } from 'three/examples/jsm/loaders/TGALoader.js'
import type { BesideFiles } from '@chiraxis/core/formats'
import { imageKind } from '@chiraxis/core/mesh'

/** Pictures of more points than this are left as they are. */
const MOST_PIXELS = 8192 * 8192

/**
 * A TGA picture as a PNG with the same points, through the 3D library's loader; anything else as it is.
 * @param name tells a TGA, which has no mark at its beginning
 */
export function plainImage(bytes: Uint8Array, name: string): Uint8Array {
  if (!/\.tga$/i.test(name) || imageKind(bytes) || bytes.length < 19) return bytes
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (view.getUint16(12, true) * view.getUint16(14, true) > MOST_PIXELS) return bytes
  try {
    const { data, width, height } = new TGALoader().parse(new Uint8Array(bytes).buffer) as unknown as {
      data: Uint8Array
      width: number
      height: number
    }
    return encode({ width, height, data, channels: 4, depth: 8 }) as Uint8Array
  } catch {
    // told as a picture that cannot be read
    return bytes
  }
}

/** Files that came along, their TGA pictures as PNG. */
export const plainPictures = (beside: BesideFiles | undefined): BesideFiles | undefined =>
  beside && new Map([...beside].map(([name, bytes]) => [name, plainImage(bytes, name)]))
