import { COMPONENT_BYTES, TYPE_SIZE, type GltfJson } from '../document'
import { ChiraxisError } from '../math'
import { checkAmounts } from './gltf-amounts'
import { checkShape } from './gltf-shape'

const GLB_MAGIC = 0x46546c67
const BINARY = 0x004e4942
export const GLTF_LIMITS = { bytes: 1 << 30, nodes: 20_000, depth: 1_000 } as const

/** The description before it was looked over: nothing in it is sure to be what it should. */
interface RawGltf {
  asset?: { version?: unknown }
  nodes?: { children?: unknown }[]
  accessors?: RawAccessor[]
  bufferViews?: RawView[]
  buffers?: { byteLength?: unknown; uri?: unknown; extensions?: Record<string, unknown> }[]
  extensionsRequired?: unknown
}
interface RawAccessor {
  count?: unknown
  bufferView?: unknown
  byteOffset?: unknown
  componentType?: number
  type?: string
  sparse?: {
    count?: unknown
    indices?: { bufferView?: unknown; byteOffset?: unknown; componentType?: number }
    values?: { bufferView?: unknown; byteOffset?: unknown }
  }
}
interface RawView {
  buffer?: unknown
  byteOffset?: unknown
  byteLength?: unknown
  byteStride?: unknown
  extensions?: Record<string, unknown>
}

/** Extensions a file may say it needs: those that are read, and those that are only about looks and are carried along. */
const READABLE =
  /^(KHR_draco_mesh_compression|EXT_meshopt_compression|KHR_mesh_quantization|EXT_mesh_gpu_instancing|KHR_animation_pointer|(KHR|EXT)_(materials|texture|lights|node)_.+|KHR_xmp.*|VRMC_.+)$/

export const isGlb = (bytes: Uint8Array): boolean => bytes.length >= 4 && view(bytes).getUint32(0, true) === GLB_MAGIC

const view = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/**
 * Looks over a GLB or glTF before the SDK reads it: sizes, versions, accessor ranges and node trees
 * that would make a reader hang or run past its buffers.
 * @returns the description, and the data that lies in a GLB beside it
 * @throws ChiraxisError `truncated-file`, `bad-syntax`, `bad-version`, `cyclic-nodes`, `too-large`, `unknown-format`
 */
export function checkGltf(bytes: Uint8Array): { json: GltfJson; binary?: Uint8Array } {
  if (bytes.length > GLTF_LIMITS.bytes)
    throw new ChiraxisError('too-large', 'The glTF file is larger than 1 GiB and cannot be read.')
  let text: string
  let binary: Uint8Array | undefined
  if (isGlb(bytes)) {
    const data = view(bytes)
    if (bytes.length < 20)
      throw new ChiraxisError('truncated-file', 'The GLB file ends within its header; it is cut short.')
    if (data.getUint32(4, true) !== 2)
      throw new ChiraxisError(
        'bad-version',
        `The GLB file is of version ${data.getUint32(4, true)}; version 2 can be read.`,
      )
    const length = data.getUint32(8, true)
    if (length > bytes.length)
      throw new ChiraxisError(
        'truncated-file',
        `The GLB file says it has ${length} bytes, but only ${bytes.length} arrived; it is cut short.`,
      )
    const json = data.getUint32(12, true)
    if (20 + json > length || data.getUint32(16, true) !== 0x4e4f534a)
      throw new ChiraxisError('truncated-file', 'The GLB file ends within its scene description; it is cut short.')
    text = new TextDecoder().decode(bytes.subarray(20, 20 + json))
    // data may be followed, and by some programs is preceded, by chunks of other kinds
    for (let at = 20 + json; at + 8 <= length && !binary;) {
      const size = data.getUint32(at, true)
      if (at + 8 + size > bytes.length)
        throw new ChiraxisError('truncated-file', 'The GLB file ends within its data; it is cut short.')
      if (data.getUint32(at + 4, true) === BINARY) binary = bytes.subarray(at + 8, at + 8 + size)
      at += 8 + ((size + 3) & ~3)
    }
  } else text = new TextDecoder().decode(bytes)
  let json: RawGltf
  try {
    json = JSON.parse(text) as RawGltf
  } catch {
    throw new ChiraxisError(
      'bad-syntax',
      'The scene description of the glTF file is not valid JSON; the file is damaged.',
    )
  }
  if (typeof json !== 'object' || json === null || typeof json.asset !== 'object')
    throw new ChiraxisError('wrong-format', 'This JSON file is no glTF: it has no asset entry.')
  if (!/^2\./.test(String(json.asset?.version)))
    throw new ChiraxisError(
      'bad-version',
      typeof json.asset?.version === 'string'
        ? `The glTF file is of version ${json.asset.version.slice(0, 12)}; version 2 can be read.`
        : 'The glTF file does not tell its version.',
    )
  for (const list of [json.extensionsRequired, (json as { extensionsUsed?: unknown }).extensionsUsed])
    if (list !== undefined && !(Array.isArray(list) && list.every(e => typeof e === 'string')))
      throw new ChiraxisError(
        'bad-syntax',
        'The extensions the glTF file lists are no list of names; the file is damaged.',
      )
  const required = Array.isArray(json.extensionsRequired) ? json.extensionsRequired.map(String) : []
  const unread = required.filter(e => !READABLE.test(e))
  if (unread.length > 0)
    throw new ChiraxisError(
      'bad-version',
      `The glTF file says that it cannot be read without ${unread.map(e => e.slice(0, 60)).join(', ')}, which this program does not know.`,
    )
  checkAmounts(json as Readonly<Record<string, unknown>>)
  checkNodes(json)
  checkRanges(json, isGlb(bytes), binary?.length ?? 0)
  checkShape(json)
  return { json: json as GltfJson, binary }
}

function checkNodes(json: RawGltf): void {
  const nodes = json.nodes ?? []
  if (nodes.length > GLTF_LIMITS.nodes)
    throw new ChiraxisError(
      'too-large',
      `The glTF file has ${nodes.length} nodes; at most ${GLTF_LIMITS.nodes} can be read.`,
    )
  const parent = new Int32Array(nodes.length).fill(-1)
  nodes.forEach((node, i) => {
    if (!Array.isArray(node.children)) return
    for (const child of node.children as unknown[]) {
      if (typeof child !== 'number' || !(child >= 0 && child < nodes.length))
        throw new ChiraxisError('index-range', `Node ${i} of the glTF file names a child that does not exist.`)
      if (parent[child] >= 0 || child === i)
        throw new ChiraxisError(
          'cyclic-nodes',
          `Node ${child} of the glTF file hangs under two parents or under itself; a skeleton must be a tree.`,
        )
      parent[child] = i
    }
  })
  // one parent each, so a walk upwards either ends or is a ring
  const safe = new Uint8Array(nodes.length)
  for (let i = 0; i < nodes.length; i++) {
    const path: number[] = []
    const onPath = new Set<number>()
    let at = i
    while (at >= 0 && !safe[at]) {
      if (onPath.has(at))
        throw new ChiraxisError(
          'cyclic-nodes',
          `Node ${at} of the glTF file is its own ancestor; a skeleton must be a tree.`,
        )
      onPath.add(at)
      path.push(at)
      at = parent[at]
    }
    for (const p of path) safe[p] = 1
  }
  const depth = new Int32Array(nodes.length).fill(-1)
  for (let i = 0; i < nodes.length; i++) {
    const path: number[] = []
    let at = i
    while (at >= 0 && depth[at] < 0) {
      path.push(at)
      at = parent[at]
    }
    let d = at >= 0 ? depth[at] : 0
    while (path.length > 0) depth[path.pop()!] = ++d
    if (d > GLTF_LIMITS.depth)
      throw new ChiraxisError(
        'too-large',
        `The nodes of the glTF file hang more than ${GLTF_LIMITS.depth} levels deep, which cannot be read.`,
      )
  }
}

function checkRanges(json: RawGltf, glb: boolean, binary: number): void {
  const whole = (v: unknown): v is number => typeof v === 'number' && Number.isInteger(v) && v >= 0
  const views = json.bufferViews ?? []
  const buffers = json.buffers ?? []
  views.forEach((given, i) => {
    // of compressed data the place it really lies at counts
    const v = (given.extensions?.EXT_meshopt_compression as RawView | undefined) ?? given
    const offset = v.byteOffset ?? 0
    if (
      !whole(v.buffer) ||
      !whole(v.byteLength) ||
      !whole(offset) ||
      v.buffer >= buffers.length ||
      !whole(given.byteLength)
    )
      throw new ChiraxisError('bad-syntax', `Buffer view ${i} of the glTF file is malformed.`)
    const buffer = buffers[v.buffer]
    const size = glb && v.buffer === 0 && buffer.uri === undefined ? binary : buffer.byteLength
    if (!whole(size) || offset + v.byteLength > size)
      throw new ChiraxisError(
        'truncated-file',
        `Buffer view ${i} of the glTF file reaches past the end of its data; the file is damaged.`,
      )
  })
  const within = (view: unknown, byteOffset: unknown, size: number, count: number, i: number): void => {
    if (!whole(view) || view >= views.length)
      throw new ChiraxisError('index-range', `Accessor ${i} of the glTF file names data that does not exist.`)
    const v = views[view]
    const stride = whole(v.byteStride) && v.byteStride > 0 ? v.byteStride : size
    const offset = whole(byteOffset) ? byteOffset : 0
    if (count > 0 && offset + stride * (count - 1) + size > (v.byteLength as number))
      throw new ChiraxisError(
        'truncated-file',
        `Accessor ${i} of the glTF file reaches past the end of its data; the file is damaged.`,
      )
  }
  ;(json.accessors ?? []).forEach((a, i) => {
    const size = (COMPONENT_BYTES[a.componentType ?? 0] ?? 0) * (TYPE_SIZE[a.type ?? ''] ?? 0)
    if (!whole(a.count) || size === 0)
      throw new ChiraxisError('bad-syntax', `Accessor ${i} of the glTF file is malformed.`)
    if (a.bufferView !== undefined) within(a.bufferView, a.byteOffset, size, a.count, i)
    if (a.sparse === undefined) return
    const { count, indices, values } = a.sparse
    const each = COMPONENT_BYTES[indices?.componentType ?? 0] ?? 0
    if (!whole(count) || count > a.count || each === 0)
      throw new ChiraxisError('bad-syntax', `Accessor ${i} of the glTF file is malformed.`)
    within(indices?.bufferView, indices?.byteOffset, each, count, i)
    within(values?.bufferView, values?.byteOffset, size, count, i)
  })
}
