import { viewBytes } from './accessors'
import type { GltfDocument, GltfJson } from './gltf'
import { pad } from './container'
import { imageNames } from './image-names'

/** A glTF as several files: its description, its data and its images. */
export interface SplitGltf {
  readonly bytes: Uint8Array<ArrayBuffer>
  readonly beside: readonly { readonly name: string; readonly bytes: Uint8Array<ArrayBuffer> }[]
}

/**
 * Lays a document out as a .gltf with its data and images beside it. The same document gives the same bytes.
 * @param stem what they are called after
 */
export function splitGltf({ json, buffers }: GltfDocument, stem: string): SplitGltf {
  const images = new Set((json.images ?? []).flatMap(i => (i.bufferView === undefined ? [] : [i.bufferView])))
  const beside: { name: string; bytes: Uint8Array<ArrayBuffer> }[] = []
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
  const bin = `${stem}.bin`
  const whole: GltfJson = renumbered(
    {
      ...json,
      bufferViews: kept.map(({ v }, n) => ({ ...v, buffer: 0, byteOffset: starts[n] })),
      buffers: [{ uri: encodeURIComponent(bin), byteLength: length }],
      ...(json.images && { images: told }),
    },
    at,
  )
  if (kept.length === 0) {
    delete whole.bufferViews
    delete whole.buffers
  } else beside.unshift({ name: bin, bytes: data })
  return { bytes: new TextEncoder().encode(`${JSON.stringify(whole, null, 1)}\n`), beside }
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
