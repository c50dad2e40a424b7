import { decodeImage } from '../images'
import type { ImageFile, Material } from '../mesh'
import type { Received } from './received'

/**
 * Opacity that a material keeps in an image of its own, put into the alpha of its colour image, where glTF has it. An image
 * that cannot be decoded stays beside and is told.
 */
export async function withOpacity(received: Received): Promise<Received> {
  const { materials, images = [] } = received
  if (!materials?.some(m => m.maps.alpha !== undefined)) return received
  const all = [...images]
  const dropped = [...received.dropped]
  const made = new Map<string, number>()
  const merge = async (m: Material): Promise<Material> => {
    const { alpha, ...maps } = m.maps
    if (alpha === undefined) return m
    const blend = m.blend === 'opaque' ? 'blend' : m.blend
    // one image for both: its own alpha is meant
    if (alpha === maps.color) return { ...m, maps, blend }
    const key = `${maps.color}/${alpha}`
    let at = made.get(key)
    if (at === undefined) {
      const merged = await mergeImages(maps.color === undefined ? undefined : all[maps.color], all[alpha])
      if (!merged) {
        dropped.push(
          `The opacity image ${all[alpha].name} of ${m.name} could not be put into its colour; it is carried beside it.`,
        )
        return m
      }
      at = all.push(merged) - 1
      made.set(key, at)
    }
    return { ...m, maps: { ...maps, color: at }, blend }
  }
  const settled: Material[] = []
  for (const m of materials) settled.push(await merge(m))
  return { ...received, materials: settled, images: all, dropped }
}

async function mergeImages(color: ImageFile | undefined, opacity: ImageFile): Promise<ImageFile | undefined> {
  const a = await decodeImage(opacity)
  const c = color && (await decodeImage(color))
  if (!a || (color && !c)) return undefined
  const { width, height } = c ?? a
  const data = new Uint8Array(4 * width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x
      if (c) {
        const from = c.channels * i
        for (let k = 0; k < 3; k++) data[4 * i + k] = c.data[from + (c.channels < 3 ? 0 : k)] * c.scale
      } else data.fill(255, 4 * i, 4 * i + 3)
      const at = a.channels * (Math.floor((y * a.height) / height) * a.width + Math.floor((x * a.width) / width))
      // an image with an alpha of its own tells opacity by that, another by how light it is
      const own = a.channels === 2 || a.channels === 4 ? a.data[at + a.channels - 1] * a.scale : 255
      data[4 * i + 3] = own < 255 ? own : a.data[at] * a.scale
    }
  const { encode } = await import('fast-png')
  const bytes = encode({ width, height, data, channels: 4, depth: 8 })
  const stem = (color ?? opacity).name.replace(/\.[^.]*$/, '')
  return { name: `${stem} with opacity`, mime: 'image/png', bytes: new Uint8Array(bytes) }
}
