import { viewBytes } from './accessors'
import { pad } from './container'
import type { GltfDocument, GltfJson } from './gltf'
import { imageNames } from './image-names'

/** A file that lies beside another. */
export interface BesideImage {
  readonly name: string
  readonly bytes: Uint8Array<ArrayBuffer>
}

/** A glTF as several files: its description, its data and its images. */
export interface SplitGltf {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly beside: readonly BesideImage[]
}

/**
 * A document that names its images as files beside it, with the data that is left laid out in one buffer.
 * @param stem what they are called after
 */
export function imagesBeside(
  { json, buffers }: GltfDocument,
  stem: string,
): { readonly document: GltfDocument; readonly beside: readonly BesideImage[] } {
  const images = new Set((json.images ?? []).flatMap(i => (i.bufferView === undefined ? [] : [i.bufferView])))
  const beside: BesideImage[] = []
  const nameOf = imageNames(stem)
  const told = (json.images ?? []).map(image => {
    if (image.bufferView === undefined) return image
    const { bufferView, mimeType, ...rest } = image
    const name = nameOf(image.name ?? 'image', mimeType ?? 'image/png')
    beside.push({ name, bytes: new Uint8Array(viewBytes({ json, buffers }, bufferView)!) })
    return { ...rest, mimeType, uri: encodeURIComponent(name) }
  })
  // data that is left, in the order it came
  const kept = (json.bufferViews ?? []).flatMap((v, i) => (images.has(i) ? [] : [{ v, i }]))
  const starts: number[] = []
  let length = 0
  for (const { v } of kept) {
    starts.push(length)
    length += pad(v.byteLength)
  }
  const data = new Uint8Array(length)
  kept.forEach(({ i }, n) => data.set(viewBytes({ json, buffers }, i)!, starts[n]))
  const at = new Map(kept.map(({ i }, n) => [i, n]))
  const whole: GltfJson = renumbered(
    {
      ...json,
      bufferViews: kept.map(({ v }, n) => ({ ...v, buffer: 0, byteOffset: starts[n] })),
      buffers: [{ byteLength: length }],
      ...(json.images && { images: told }),
    },
    at,
  )
  if (kept.length > 0) return { document: { json: whole, buffers: [data] }, beside }
  delete whole.bufferViews
  delete whole.buffers
  return { document: { json: whole, buffers: [] }, beside }
}

/**
 * Lays a document out as a .gltf with its data and images beside it. The same document gives the same bytes.
 * @param stem what they are called after
 */
export function splitGltf(source: GltfDocument, stem: string): SplitGltf {
  const { document, beside } = imagesBeside(source, stem)
  const { json, buffers } = document
  const bin = `${stem}.bin`
  const [data] = buffers
  const whole = data ? { ...json, buffers: [{ uri: encodeURIComponent(bin), byteLength: data.length }] } : json
  return {
    bytes: new TextEncoder().encode(`${JSON.stringify(whole, null, 1)}\n`),
    beside: [...(data ? [{ name: bin, bytes: new Uint8Array(data) }] : []), ...beside],
  }
}

/** Accessors told by the new numbers of their data. */
function renumbered(json: GltfJson, at: ReadonlyMap<number, number>): GltfJson {
  const of = (view: number | undefined): number | undefined => (view === undefined ? undefined : at.get(view))
  return {
    ...json,
    ...(json.accessors && {
      accessors: json.accessors.map(a => {
        const { sparse } = a
        return {
          ...a,
          ...(a.bufferView !== undefined && { bufferView: of(a.bufferView) }),
          ...(sparse && {
            sparse: {
              ...sparse,
              indices: { ...sparse.indices, bufferView: of(sparse.indices.bufferView)! },
              values: { ...sparse.values, bufferView: of(sparse.values.bufferView)! },
            },
          }),
        }
      }),
    }),
  }
}
