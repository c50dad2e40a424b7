/** What a texture image stands for on a surface. */
export type MapKind =
  | 'color'
  | 'normal'
  | 'occlusion'
  | 'emission'
  | 'roughness'
  // what older formats tell and glTF has no place for: carried beside
  | 'alpha'
  | 'bump'
  | 'specular'
  | 'gloss'
  | 'displacement'
  | 'light'
  | 'reflection'
  | 'rough'
  | 'metal'

/** How a surface looks, as glTF tells it: metal and roughness. */
export interface Material {
  readonly name: string
  /** Linear base colour, 0..1. */
  readonly color: readonly [number, number, number]
  readonly alpha: number
  readonly metallic: number
  readonly roughness: number
  readonly blend: 'opaque' | 'mask' | 'blend'
  readonly doubleSided: boolean
  /** Linear light it gives of itself, times its emission image; left out for none. */
  readonly emission?: readonly [number, number, number]
  /** Place in the list of images by what each stands for. */
  readonly maps: Readonly<Partial<Record<MapKind, number>>>
}

/** A texture image as it came, still encoded. */
export interface ImageFile {
  readonly name: string
  readonly mime: 'image/png' | 'image/jpeg' | 'image/webp'
  readonly bytes: Uint8Array
}

export const PLAIN_COLOR = [0.78, 0.74, 0.68] as const

export const plainMaterial = (name: string, color: readonly [number, number, number] = PLAIN_COLOR): Material => ({
  name,
  color,
  alpha: 1,
  metallic: 0,
  roughness: 0.85,
  blend: 'opaque',
  doubleSided: false,
  maps: {},
})

/** The kind of an image by its first bytes; undefined where it is none that games use. */
export function imageKind(bytes: Uint8Array): ImageFile['mime'] | undefined {
  const starts = (...head: number[]): boolean => head.every((b, i) => bytes[i] === b)
  if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a)) return 'image/png'
  if (starts(0xff, 0xd8, 0xff)) return 'image/jpeg'
  if (starts(0x52, 0x49, 0x46, 0x46) && bytes[8] === 0x57 && bytes[9] === 0x45) return 'image/webp'
  return undefined
}

/** Materials with some of their colour images used as the normal maps they are. */
export const settleNormalMaps = (materials: readonly Material[], names: readonly string[]): Material[] =>
  materials.map(m => {
    if (!names.includes(m.name) || m.maps.color === undefined) return m
    const { color, ...maps } = m.maps
    return { ...m, maps: { ...maps, normal: maps.normal ?? color } }
  })
