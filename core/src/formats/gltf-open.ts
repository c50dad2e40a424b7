import { Logger, WebIO } from '@gltf-transform/core'
import { EXTMeshoptCompression, KHRDracoMeshCompression, KHRMeshQuantization } from '@gltf-transform/extensions'
import { Draft } from '../document/draft'
import { COMPONENT_BYTES, TYPE_SIZE, type GltfDocument, type GltfJson } from '../document'
import { ChiraxisError } from '../math'
import { imageKind } from '../mesh'
import { MESHOPT } from '../packing'
import { checkGltf } from './gltf-check'
import { besideFile, type BesideFiles } from './received'

/** Decoders of compressed glTF, loaded when the first such file comes in. */
export interface GltfDecoders {
  /** A Draco decoder module (KHR_draco_mesh_compression). */
  readonly draco: () => Promise<unknown>
  /** A meshopt decoder (EXT_meshopt_compression). */
  readonly meshopt: () => Promise<unknown>
}

export interface OpenedGltf {
  readonly document: GltfDocument
  /** Images that lie beside the file and did not come along, by their place in the list. */
  readonly missing: ReadonlyMap<number, string>
  readonly dropped: readonly string[]
}

const DRACO = 'KHR_draco_mesh_compression'

/**
 * Opens a GLB or glTF as it lies there: the description, the data, images beside it taken in, compressed data laid open.
 * Nothing is fetched.
 * @throws ChiraxisError for damaged, oversized and unknown files; `missing-file` for data that did not come along
 */
export async function openGltf(
  bytes: Uint8Array,
  beside?: BesideFiles,
  decoders?: Partial<GltfDecoders>,
): Promise<OpenedGltf> {
  const { json, binary } = checkGltf(bytes)
  const buffers = (json.buffers ?? []).map((b, i) => bufferOf(b, i, binary, beside))
  const opened = await layOpen({ json, buffers }, decoders)
  return takeInImages(opened, beside)
}

function bufferOf(
  buffer: NonNullable<GltfJson['buffers']>[number],
  index: number,
  binary: Uint8Array | undefined,
  beside: BesideFiles | undefined,
): Uint8Array {
  const { uri, byteLength } = buffer
  if (typeof uri !== 'string') {
    if (index === 0 && binary) return binary
    // stands for data that is only there compressed
    if (buffer.extensions?.[MESHOPT]) return new Uint8Array(0)
    throw new ChiraxisError(
      'truncated-file',
      `The data of the glTF file (buffer ${index}) is not in it; the file is cut short.`,
    )
  }
  const found = uri.startsWith('data:') ? fromDataUri(uri) : besideFile(beside, uri)
  if (!found)
    throw new ChiraxisError(
      'missing-file',
      uri.startsWith('data:')
        ? 'The data inside the glTF file cannot be read; the file is damaged.'
        : `The glTF file keeps its data beside itself, in ${shortName(uri)}, which was not brought in with it. Bring in both together, or use a .glb, which holds everything.`,
    )
  if (found.length < byteLength)
    throw new ChiraxisError(
      'truncated-file',
      `The data of the glTF file${uri.startsWith('data:') ? '' : ` in ${shortName(uri)}`} has ${found.length} bytes where it says ${byteLength}; it is cut short.`,
    )
  return new Uint8Array(found)
}

const shortName = (uri: string): string => uri.replace(/^.*[\\/]/, '').slice(0, 120)

function fromDataUri(uri: string): Uint8Array | undefined {
  const comma = uri.indexOf(',')
  if (comma < 0) return undefined
  const data = uri.slice(comma + 1)
  try {
    const text = /;base64$/i.test(uri.slice(0, comma)) ? atob(data) : decodeURIComponent(data)
    const out = new Uint8Array(text.length)
    for (let i = 0; i < text.length; i++) out[i] = text.charCodeAt(i)
    return out
  } catch {
    return undefined
  }
}

/** Compressed meshes and data as plain ones, through the glTF SDK. */
async function layOpen(
  document: GltfDocument,
  decoders: Partial<GltfDecoders> | undefined,
): Promise<{ document: GltfDocument; dropped: string[] }> {
  const { json, buffers } = document
  const draco = new Set<number>()
  for (const m of json.meshes ?? [])
    for (const p of m.primitives ?? []) {
      const packed = p.extensions?.[DRACO] as { attributes?: Record<string, unknown> } | undefined
      if (!packed) continue
      for (const semantic of Object.keys(packed.attributes ?? {})) draco.add(p.attributes[semantic])
      if (p.indices !== undefined) draco.add(p.indices)
    }
  const packed = new Set((json.bufferViews ?? []).flatMap((v, i) => (v.extensions?.[MESHOPT] ? [i] : [])))
  if (draco.size === 0 && packed.size === 0) return { document, dropped: [] }
  const need = (name: string, decoder: (() => Promise<unknown>) | undefined): (() => Promise<unknown>) => {
    if (decoder) return decoder
    throw new ChiraxisError(
      'bad-version',
      `The glTF file is compressed with ${name}, which cannot be read here. Save it without compression and bring it in again.`,
    )
  }
  const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions([KHRMeshQuantization])
  if (draco.size > 0)
    io.registerExtensions([KHRDracoMeshCompression]).registerDependencies({
      'draco3d.decoder': await need(DRACO, decoders?.draco)(),
    })
  if (packed.size > 0)
    io.registerExtensions([EXTMeshoptCompression]).registerDependencies({
      'meshopt.decoder': await need(MESHOPT, decoders?.meshopt)(),
    })
  const read = await readBySdk(document, io, [
    ...(draco.size > 0 ? [DRACO] : []),
    ...(packed.size > 0 ? [MESHOPT] : []),
  ])
  const draft = new Draft(document)
  const accessors = read.getRoot().listAccessors()
  draft.json.accessors?.forEach((a, i) => {
    const view = a.bufferView
    if (
      !draco.has(i) &&
      !(view !== undefined && packed.has(view)) &&
      !(a.sparse && (packed.has(a.sparse.indices.bufferView) || packed.has(a.sparse.values.bufferView)))
    )
      return
    const values = accessors[i].getArray()
    if (!values)
      throw new ChiraxisError(
        'bad-syntax',
        `Accessor ${i} of the glTF file could not be laid open; the file is damaged.`,
      )
    const size = TYPE_SIZE[a.type]
    a.componentType = accessors[i].getComponentType()
    a.count = values.length / size
    const each = COMPONENT_BYTES[a.componentType] * size
    const step = (each + 3) & ~3
    let data = new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
    const index = a.type === 'SCALAR'
    if (!index && step !== each) {
      const wide = new Uint8Array(a.count * step)
      for (let e = 0; e < a.count; e++) wide.set(data.subarray(e * each, (e + 1) * each), e * step)
      data = wide
    }
    a.bufferView = draft.view(data, !index && step !== each ? step : undefined)
    delete a.byteOffset
    delete a.sparse
  })
  for (const m of draft.json.meshes ?? []) for (const p of m.primitives) dropExtension(p, DRACO)
  for (const v of draft.json.bufferViews ?? []) dropExtension(v, MESHOPT)
  for (const b of draft.json.buffers ?? []) dropExtension(b, MESHOPT)
  for (const list of ['extensionsUsed', 'extensionsRequired'] as const) {
    const left = draft.json[list]?.filter(e => e !== DRACO && e !== MESHOPT)
    if (left && left.length > 0) draft.json[list] = left
    else delete draft.json[list]
  }
  // views of data that was only there compressed stay in the list, with no bytes of their own
  for (const v of draft.json.bufferViews ?? [])
    if (v.buffer < buffers.length && (v.byteOffset ?? 0) + v.byteLength > buffers[v.buffer].length) {
      v.byteOffset = 0
      v.byteLength = Math.min(v.byteLength, buffers[v.buffer].length)
    }
  const names = [...(draco.size > 0 ? ['Draco'] : []), ...(packed.size > 0 ? ['meshopt'] : [])].join(' and ')
  return { document: draft.done(), dropped: [`The file came compressed (${names}); it is delivered uncompressed.`] }
}

function dropExtension(owner: { extensions?: Record<string, unknown> }, name: string): void {
  if (!owner.extensions?.[name]) return
  const { [name]: _, ...others } = owner.extensions
  if (Object.keys(others).length > 0) owner.extensions = others
  else delete owner.extensions
}

/**
 * Nodes, meshes, skins and animations through the glTF SDK, in the order of the description. Looks are read from the
 * description itself.
 */
export function readBySdk(
  { json, buffers }: GltfDocument,
  io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)),
  extensions: string[] = [],
): ReturnType<WebIO['readJSON']> {
  const resources: Record<string, Uint8Array<ArrayBuffer>> = {}
  const named = buffers.map((bytes, i) => {
    const uri = `${i}.bin`
    // the library takes a whole buffer of memory for the data it means
    resources[uri] = (
      bytes.byteLength === bytes.buffer.byteLength ? bytes : new Uint8Array(bytes)
    ) as Uint8Array<ArrayBuffer>
    const { extensions } = json.buffers?.[i] ?? {}
    return { byteLength: bytes.length, uri, ...(extensions && { extensions }) }
  })
  const { extensionsUsed: _, extensionsRequired: __, ...told } = json
  const plain = {
    ...told,
    ...(extensions.length > 0 && { extensionsUsed: extensions }),
    buffers: named,
    images: [],
    textures: [],
    materials: json.materials?.map(m => ({
      name: m.name,
      pbrMetallicRoughness: { baseColorFactor: m.pbrMetallicRoughness?.baseColorFactor ?? [1, 1, 1, 1] },
    })),
  }
  return io.readJSON({ json: plain as never, resources })
}

/** Images from beside the file or written into its description, taken in among the data. */
function takeInImages(
  { document, dropped }: { document: GltfDocument; dropped: string[] },
  beside: BesideFiles | undefined,
): OpenedGltf {
  const missing = new Map<number, string>()
  const outside = (document.json.images ?? []).some(i => typeof i.uri === 'string')
  if (!outside) return { document, missing, dropped }
  const draft = new Draft(document)
  draft.json.images?.forEach((image, i) => {
    const { uri } = image
    if (typeof uri !== 'string') return
    const inside = uri.startsWith('data:')
    const bytes = inside ? fromDataUri(uri) : besideFile(beside, uri)
    if (!bytes) {
      missing.set(i, inside ? `image ${i + 1}` : uri)
      return
    }
    delete image.uri
    image.bufferView = draft.view(bytes)
    image.mimeType = imageKind(bytes) ?? mimeOf(uri) ?? image.mimeType ?? 'image/png'
    if (!image.name && !inside) image.name = shortName(uri).replace(/\.[^.]*$/, '')
  })
  return { document: draft.done(), missing, dropped }
}

function mimeOf(uri: string): string | undefined {
  if (uri.startsWith('data:')) return /^data:([^;,]+)/.exec(uri)?.[1]
  if (/\.ktx2$/i.test(uri)) return 'image/ktx2'
  return /\.avif$/i.test(uri) ? 'image/avif' : undefined
}
