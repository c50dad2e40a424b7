/** How numbers of vertices and turns are written: as they are, in whole numbers, or in whole numbers and compressed. */
export const PACKINGS = ['plain', 'quantized', 'meshopt'] as const
export type PackingKind = (typeof PACKINGS)[number]

/** What becomes of images: with the file as its format takes them, as files beside it, or left out. */
export const IMAGE_PLACES = ['with', 'beside', 'none'] as const
export type ImagePlace = (typeof IMAGE_PLACES)[number]

export interface Packing {
  readonly numbers: PackingKind
  readonly images: ImagePlace
  /** Pixels a side no image may pass; left out, as they are. */
  readonly largest?: number
}

export const PLAIN_PACKING: Packing = { numbers: 'plain', images: 'with' }

export const isPlain = ({ numbers, images, largest }: Packing): boolean =>
  numbers === 'plain' && images === 'with' && largest === undefined
