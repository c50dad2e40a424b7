import { imagesBeside, type BesideImage, type GltfDocument } from '../document'
import { meshoptPacked } from './meshopt'
import { quantized } from './quantize'
import type { Packing } from './settings'
import { withImages } from './textures'

/** A document made smaller, files that lie beside it, and what could not be done. */
export interface Packed {
  readonly document: GltfDocument
  readonly beside: readonly BesideImage[]
  readonly notes: readonly string[]
}

/**
 * A document with its images and its numbers as they are asked for.
 * @param stem what files beside it are called after
 */
export async function packed(source: GltfDocument, packing: Packing, stem: string): Promise<Packed> {
  const { document: shown, notes } = await withImages(source, packing)
  const { document, beside } = packing.images === 'beside' ? imagesBeside(shown, stem) : { document: shown, beside: [] }
  if (packing.numbers === 'plain') return { document, beside, notes }
  const small = quantized(document)
  const all = [...notes, ...small.notes]
  if (packing.numbers === 'quantized' || small.notes.length > 0) return { document: small.document, beside, notes: all }
  return { document: await meshoptPacked(small.document), beside, notes: all }
}
