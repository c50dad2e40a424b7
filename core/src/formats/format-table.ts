import type { ImagePlace, PackingKind } from '../packing'

interface FormatTold {
  readonly holds: readonly ('body' | 'motion')[]
  readonly takes: 'many' | 'one' | 'none'
  /** Whether axes and unit are left open. */
  readonly axes: boolean
  /** Whether it may be left-handed. */
  readonly leftHanded: boolean
  readonly document: boolean
  readonly packs: readonly PackingKind[]
  readonly images: readonly ImagePlace[]
}

/**
 * Formats figures and takes are delivered in, and what each can hold; into some the document a figure came in is written whole.
 * Numbers can be packed in some, and images go with the file, beside it, or not at all.
 */
export const FORMATS = {
  glb: { holds: ['body', 'motion'], takes: 'many', axes: false, leftHanded: false, document: true, packs: ['plain', 'quantized', 'meshopt'], images: ['with', 'beside', 'none'] }, // prettier-ignore
  gltf: { holds: ['body', 'motion'], takes: 'many', axes: false, leftHanded: false, document: true, packs: ['plain', 'quantized'], images: ['with', 'none'] }, // prettier-ignore
  vrm: { holds: ['body', 'motion'], takes: 'many', axes: false, leftHanded: false, document: true, packs: ['plain'], images: ['with', 'none'] }, // prettier-ignore
  vrma: {
    holds: ['motion'],
    takes: 'one',
    axes: false,
    leftHanded: false,
    document: false,
    packs: ['plain'],
    images: ['with'],
  },
  bvh: {
    holds: ['motion'],
    takes: 'one',
    axes: true,
    leftHanded: true,
    document: false,
    packs: ['plain'],
    images: ['with'],
  },
  usda: { holds: ['body', 'motion'], takes: 'many', axes: true, leftHanded: false, document: false, packs: ['plain'], images: ['with', 'none'] }, // prettier-ignore
  obj: {
    holds: ['body'],
    takes: 'none',
    axes: true,
    leftHanded: true,
    document: false,
    packs: ['plain'],
    images: ['with', 'none'],
  },
} as const satisfies Record<string, FormatTold>
export type DeliveryFormat = keyof typeof FORMATS
export const DELIVERY_FORMATS = Object.keys(FORMATS) as DeliveryFormat[]
