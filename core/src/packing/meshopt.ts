import {
  COMPONENT_BYTES,
  pad,
  rawValues,
  TYPE_SIZE,
  viewBytes,
  type GltfBufferView,
  type GltfDocument,
  type GltfJson,
} from '../document'

export const MESHOPT = 'EXT_meshopt_compression'

type Mode = 'ATTRIBUTES' | 'TRIANGLES' | 'INDICES'

/**
 * A document whose data is compressed without loss: each list of numbers on its own, where that makes it smaller. Corners of a
 * triangle may begin elsewhere, going around the same way.
 *
 * After EXT_meshopt_compression (Khronos Group 2022), by the format's reference encoder.
 */
export async function meshoptPacked(source: GltfDocument): Promise<GltfDocument> {
  const { MeshoptEncoder } = await import('meshoptimizer/encoder')
  await MeshoptEncoder.ready
  const json: GltfJson = structuredClone(source.json)
  const views: GltfBufferView[] = []
  const parts: Uint8Array[] = []
  let stored = 0
  let open = 0
  const put = (bytes: Uint8Array): number => {
    const at = stored
    parts.push(bytes)
    stored += pad(bytes.length)
    return at
  }
  /** A view whose data lies there as it is. */
  const plain = (bytes: Uint8Array, told: Partial<GltfBufferView>): number =>
    views.push({ ...told, buffer: 0, byteOffset: put(bytes), byteLength: bytes.length }) - 1
  const kinds = kindsOf(source.json)
  const attributes = attributesOf(source.json)
  json.accessors = json.accessors?.map((a, i) => {
    if (a.bufferView === undefined || a.sparse) return a
    const values = rawValues(source, i)
    const each = COMPONENT_BYTES[a.componentType] * TYPE_SIZE[a.type]
    const kind = kinds.get(i) ?? 'ATTRIBUTES'
    const index = kind !== 'ATTRIBUTES'
    // attributes lie at steps of four bytes
    const step = attributes.has(i) ? pad(each) : each
    const { byteOffset: _, ...rest } = a
    const bytes = spread(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), each, step)
    const told = {
      ...(index && { target: 34963 }),
      ...(attributes.has(i) && { target: 34962 }),
      ...(step !== each && { byteStride: step }),
    }
    const can = a.count > 0 && (index ? each >= 2 : step % 4 === 0 && step <= 256)
    const small = can ? MeshoptEncoder.encodeGltfBuffer(bytes, a.count, step, kind, 0) : undefined
    if (!small || small.length >= bytes.length) return { ...rest, bufferView: plain(bytes, told) }
    const at = put(small)
    const view: GltfBufferView = {
      ...told,
      buffer: 1,
      byteOffset: open,
      byteLength: bytes.length,
      extensions: {
        [MESHOPT]: {
          buffer: 0,
          byteOffset: at,
          byteLength: small.length,
          byteStride: step,
          count: a.count,
          mode: kind,
        },
      },
    }
    open += pad(bytes.length)
    return { ...rest, bufferView: views.push(view) - 1 }
  })
  const moved = new Map<number, number>()
  const asItIs = (view: number): number => {
    const known = moved.get(view)
    if (known !== undefined) return known
    const { byteStride, target } = source.json.bufferViews![view]
    const told = { ...(byteStride !== undefined && { byteStride }), ...(target !== undefined && { target }) }
    const at = plain(viewBytes(source, view)!, told)
    moved.set(view, at)
    return at
  }
  json.accessors?.forEach((a, i) => {
    const { sparse } = a
    if (!sparse) return
    const { bufferView } = source.json.accessors![i]
    if (bufferView !== undefined) a.bufferView = asItIs(bufferView)
    a.sparse = {
      ...sparse,
      indices: { ...sparse.indices, bufferView: asItIs(sparse.indices.bufferView) },
      values: { ...sparse.values, bufferView: asItIs(sparse.values.bufferView) },
    }
  })
  for (const image of json.images ?? []) if (image.bufferView !== undefined) image.bufferView = asItIs(image.bufferView)
  if (open === 0) return source
  json.bufferViews = views
  json.buffers = [{ byteLength: stored }, { byteLength: open, extensions: { [MESHOPT]: { fallback: true } } }]
  const add = (list: string[] | undefined): string[] => [...new Set([...(list ?? []), MESHOPT])]
  json.extensionsUsed = add(json.extensionsUsed)
  json.extensionsRequired = add(json.extensionsRequired)
  const data = new Uint8Array(stored)
  let at = 0
  for (const p of parts) {
    data.set(p, at)
    at += pad(p.length)
  }
  // the second buffer is there only compressed
  return { json, buffers: [data] }
}

function spread(bytes: Uint8Array, each: number, step: number): Uint8Array {
  if (step === each) return bytes
  const count = bytes.length / each
  const out = new Uint8Array(count * step)
  for (let i = 0; i < count; i++) out.set(bytes.subarray(i * each, (i + 1) * each), i * step)
  return out
}

/** Accessors that are told of vertices. */
const attributesOf = ({ meshes = [] }: GltfJson): Set<number> =>
  new Set(
    meshes.flatMap(m =>
      m.primitives.flatMap(p => [...Object.values(p.attributes), ...(p.targets ?? []).flatMap(t => Object.values(t))]),
    ),
  )

/** Accessors that are lists of corners, and whether those are triangles. */
function kindsOf(json: GltfJson): Map<number, Mode> {
  const out = new Map<number, Mode>()
  for (const m of json.meshes ?? [])
    for (const { indices, mode = 4 } of m.primitives) {
      if (indices === undefined) continue
      const triangles = mode === 4 && json.accessors![indices].count % 3 === 0
      const known = out.get(indices)
      out.set(indices, triangles && known !== 'INDICES' ? 'TRIANGLES' : 'INDICES')
    }
  return out
}
