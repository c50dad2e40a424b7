import { decodeImage, type Pixels } from '../images'
import { partsOfVertices, type ImageFile, type Material, type Mesh } from '../mesh'
import type { Shade } from './bake'

const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : Math.pow((v + 0.055) / 1.055, 2.4))
const LINEAR = Float32Array.from({ length: 256 }, (_, i) => linear(i / 255))

/** What colour a body shows: of its piece or material, times those of its vertices, times its image where it has one that can be read. */
export async function shadeOf(
  mesh: Mesh,
  materials: readonly Material[],
  images: readonly ImageFile[],
): Promise<Shade> {
  const partOf = partsOfVertices(mesh)
  const pictures: (Pixels | undefined)[] = []
  const looks: { color: readonly number[]; picture?: Pixels }[] = []
  for (const part of mesh.parts) {
    const material = part.material === undefined ? undefined : materials[part.material]
    const at = material?.maps.color
    if (at !== undefined && !(at in pictures)) pictures[at] = images[at] && (await decodeImage(images[at]))
    const picture = at === undefined ? undefined : pictures[at]
    looks.push({ color: material?.color ?? part.color, ...(picture && { picture }) })
  }
  const { colors, uvs } = mesh
  return (a, b, c, u, v, w) => {
    const look = looks[partOf[a]]
    const out: [number, number, number] = [look.color[0], look.color[1], look.color[2]]
    if (colors)
      for (let k = 0; k < 3; k++) out[k] *= u * colors[3 * a + k] + v * colors[3 * b + k] + w * colors[3 * c + k]
    if (look.picture && uvs) {
      const { width, height, data, channels, scale } = look.picture
      const x = u * uvs[2 * a] + v * uvs[2 * b] + w * uvs[2 * c],
        y = u * uvs[2 * a + 1] + v * uvs[2 * b + 1] + w * uvs[2 * c + 1]
      const px = Math.min(width - 1, Math.floor((x - Math.floor(x)) * width)),
        py = Math.min(height - 1, Math.floor((y - Math.floor(y)) * height))
      const at = channels * (py * width + px)
      for (let k = 0; k < 3; k++) out[k] *= LINEAR[Math.min(255, Math.round(data[at + (channels > 2 ? k : 0)] * scale))]
    }
    return out
  }
}
