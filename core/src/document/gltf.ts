/** A glTF as it lies in its file: the description as it was told, and the data it points into. */
export interface GltfDocument {
  readonly json: GltfJson
  /** One for each entry in `json.buffers`. */
  readonly buffers: readonly Uint8Array[]
}

/** Whatever else an object holds is carried along as it is. */
interface Open {
  name?: string
  extras?: unknown
  extensions?: Record<string, unknown>
}

export interface GltfJson extends Open {
  asset: { version: string; generator?: string; [more: string]: unknown }
  scene?: number
  scenes?: GltfScene[]
  nodes?: GltfNode[]
  meshes?: GltfMesh[]
  skins?: GltfSkin[]
  animations?: GltfAnimation[]
  accessors?: GltfAccessor[]
  bufferViews?: GltfBufferView[]
  buffers?: {
    byteLength: number
    uri?: string
    name?: string
    extras?: unknown
    extensions?: Record<string, unknown>
  }[]
  materials?: GltfMaterial[]
  textures?: GltfTexture[]
  images?: GltfImage[]
  samplers?: Record<string, unknown>[]
  cameras?: unknown[]
  extensionsUsed?: string[]
  extensionsRequired?: string[]
}
export interface GltfScene extends Open {
  nodes?: number[]
}
export interface GltfNode extends Open {
  children?: number[]
  mesh?: number
  skin?: number
  camera?: number
  matrix?: number[]
  translation?: number[]
  rotation?: number[]
  scale?: number[]
  weights?: number[]
}
export interface GltfMesh extends Open {
  primitives: GltfPrimitive[]
  weights?: number[]
}
export interface GltfPrimitive extends Open {
  attributes: Record<string, number>
  indices?: number
  material?: number
  mode?: number
  targets?: Record<string, number>[]
}
export interface GltfSkin extends Open {
  joints: number[]
  skeleton?: number
  inverseBindMatrices?: number
}
export interface GltfAnimation extends Open {
  channels: { sampler: number; target: { node?: number; path: string; extensions?: Record<string, unknown> } }[]
  samplers: { input: number; output: number; interpolation?: string }[]
}
export type AccessorType = 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT2' | 'MAT3' | 'MAT4'
export interface GltfAccessor extends Open {
  bufferView?: number
  byteOffset?: number
  componentType: number
  normalized?: boolean
  count: number
  type: AccessorType
  min?: number[]
  max?: number[]
  sparse?: {
    count: number
    indices: { bufferView: number; byteOffset?: number; componentType: number }
    values: { bufferView: number; byteOffset?: number }
  }
}
export interface GltfBufferView extends Open {
  buffer: number
  byteOffset?: number
  byteLength: number
  byteStride?: number
  target?: number
}
export interface TextureInfo {
  index: number
  texCoord?: number
  extensions?: Record<string, unknown>
  [more: string]: unknown
}
export interface GltfMaterial extends Open {
  pbrMetallicRoughness?: {
    baseColorFactor?: number[]
    metallicFactor?: number
    roughnessFactor?: number
    baseColorTexture?: TextureInfo
    metallicRoughnessTexture?: TextureInfo
  }
  normalTexture?: TextureInfo
  occlusionTexture?: TextureInfo
  emissiveTexture?: TextureInfo
  emissiveFactor?: number[]
  alphaMode?: string
  alphaCutoff?: number
  doubleSided?: boolean
}
export interface GltfTexture extends Open {
  source?: number
  sampler?: number
}
export interface GltfImage extends Open {
  uri?: string
  mimeType?: string
  bufferView?: number
}

/** Numbers in one element of an accessor. */
export const TYPE_SIZE: Readonly<Record<string, number>> = {
  SCALAR: 1,
  VEC2: 2,
  VEC3: 3,
  VEC4: 4,
  MAT2: 4,
  MAT3: 9,
  MAT4: 16,
}
export const COMPONENT_BYTES: Readonly<Record<number, number>> = {
  5120: 1,
  5121: 1,
  5122: 2,
  5123: 2,
  5125: 4,
  5126: 4,
}

/** The image a texture shows, by an extension or plainly. */
export function imageOf(texture: GltfTexture | undefined): number | undefined {
  for (const name of ['EXT_texture_webp', 'EXT_texture_avif', 'KHR_texture_basisu']) {
    const source = (texture?.extensions?.[name] as { source?: unknown } | undefined)?.source
    if (typeof source === 'number') return source
  }
  return texture?.source
}

/** Vertices of the working view that came from one mesh on one node, and the way back to it. */
export interface SourceRun {
  readonly node: number
  readonly mesh: number
  /** First vertex in the working view, and how many. */
  readonly start: number
  readonly count: number
  /** Carried the vertices from the mesh's own space into the working view's; none where bending did. */
  readonly world?: ArrayLike<number>
  /** The skin they are bound by; -1 for none. */
  readonly skin: number
  /** Primitives of the mesh that share these vertices, and the part of the working view each became. */
  readonly primitives: readonly { readonly index: number; readonly part: number }[]
}

/** From the working view of a document back to it. */
export interface SourceWay {
  readonly scene: number
  readonly runs: readonly SourceRun[]
  /** The node of every joint. */
  readonly joints: readonly number[]
  /** The animation of every take. */
  readonly takes: readonly number[]
}
