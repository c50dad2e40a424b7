import { ChiraxisError } from '../math'
import { checkAmounts, TYPE_SIZE } from './gltf-amounts'

const GLB_MAGIC = 0x46546c67
export const GLTF_LIMITS = { bytes: 1 << 30, nodes: 20_000, depth: 1_000 } as const

export interface RawGltf {
  images?: { uri?: unknown; bufferView?: unknown; mimeType?: unknown }[]
  asset?: { version?: unknown }
  nodes?: { children?: unknown }[]
  accessors?: { count?: unknown; bufferView?: unknown; byteOffset?: unknown; componentType?: number; type?: string }[]
  bufferViews?: { buffer?: unknown; byteOffset?: unknown; byteLength?: unknown; byteStride?: unknown }[]
  buffers?: { byteLength?: unknown; uri?: unknown }[]
  extensionsRequired?: unknown
}

export const isGlb = (bytes: Uint8Array): boolean => bytes.length >= 4 && view(bytes).getUint32(0, true) === GLB_MAGIC

const view = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)

/**
 * Looks over a GLB or glTF before the SDK reads it: sizes, versions, accessor ranges and node trees
 * that would make a reader hang or run past its buffers.
 * @returns the glTF JSON
 * @throws ChiraxisError `truncated-file`, `bad-syntax`, `bad-version`, `cyclic-nodes`, `too-large`, `unknown-format`
 */
export function checkGltf(bytes: Uint8Array): RawGltf {
  if (bytes.length > GLTF_LIMITS.bytes)
    throw new ChiraxisError('too-large', 'The glTF file is larger than 1 GiB and cannot be read.')
  let text: string
  let binary = 0
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
    if (28 + json <= length) {
      binary = data.getUint32(20 + json, true)
      if (28 + json + binary > bytes.length)
        throw new ChiraxisError('truncated-file', 'The GLB file ends within its data; it is cut short.')
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
  const required = Array.isArray(json.extensionsRequired) ? json.extensionsRequired.map(String) : []
  const unread = required.filter(
    e => !['KHR_materials_unlit', 'KHR_texture_transform', 'KHR_mesh_quantization'].includes(e),
  )
  if (unread.length > 0)
    throw new ChiraxisError(
      'bad-version',
      `The glTF file needs ${unread.join(', ')}, which cannot be read. Save it without compression and bring it in again.`,
    )
  checkAmounts(json as Readonly<Record<string, unknown>>)
  checkNodes(json)
  checkRanges(json, isGlb(bytes), binary)
  return json
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

const COMPONENT_BYTES: Readonly<Record<number, number>> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }

function checkRanges(json: RawGltf, glb: boolean, binary: number): void {
  const whole = (v: unknown): v is number => typeof v === 'number' && Number.isInteger(v) && v >= 0
  const views = json.bufferViews ?? []
  const buffers = json.buffers ?? []
  views.forEach((v, i) => {
    const offset = v.byteOffset ?? 0
    if (!whole(v.buffer) || !whole(v.byteLength) || !whole(offset) || v.buffer >= buffers.length)
      throw new ChiraxisError('bad-syntax', `Buffer view ${i} of the glTF file is malformed.`)
    const buffer = buffers[v.buffer]
    const size = glb && v.buffer === 0 && buffer.uri === undefined ? binary : buffer.byteLength
    if (!whole(size) || offset + v.byteLength > size)
      throw new ChiraxisError(
        'truncated-file',
        `Buffer view ${i} of the glTF file reaches past the end of its data; the file is damaged.`,
      )
  })
  ;(json.accessors ?? []).forEach((a, i) => {
    const size = (COMPONENT_BYTES[a.componentType ?? 0] ?? 0) * (TYPE_SIZE[a.type ?? ''] ?? 0)
    if (!whole(a.count) || size === 0)
      throw new ChiraxisError('bad-syntax', `Accessor ${i} of the glTF file is malformed.`)
    if (a.bufferView === undefined) return
    if (!whole(a.bufferView) || a.bufferView >= views.length)
      throw new ChiraxisError('index-range', `Accessor ${i} of the glTF file names data that does not exist.`)
    const v = views[a.bufferView]
    const stride = whole(v.byteStride) && v.byteStride > 0 ? v.byteStride : size
    const offset = whole(a.byteOffset) ? a.byteOffset : 0
    if (a.count > 0 && offset + stride * (a.count - 1) + size > (v.byteLength as number))
      throw new ChiraxisError(
        'truncated-file',
        `Accessor ${i} of the glTF file reaches past the end of its data; the file is damaged.`,
      )
  })
}
