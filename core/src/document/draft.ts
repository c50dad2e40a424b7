import { boundsOfValues } from './accessors'
import { pad } from './container'
import { TYPE_SIZE, type AccessorType, type GltfDocument, type GltfJson, type GltfMesh, type GltfNode } from './gltf'

type Values = Float32Array | Uint32Array | Uint16Array | Int16Array | Uint8Array | Int8Array
const KIND = (values: Values): number =>
  values instanceof Float32Array
    ? 5126
    : values instanceof Uint32Array
      ? 5125
      : values instanceof Uint16Array
        ? 5123
        : values instanceof Int16Array
          ? 5122
          : values instanceof Int8Array
            ? 5120
            : 5121

/** A document being changed: a description of its own, and data that is added to what was there. */
export class Draft {
  readonly json: GltfJson
  private readonly chunks: Uint8Array[] = []
  private added = 0
  /** The buffer that what is added goes into. */
  private readonly place: number

  constructor(readonly source: GltfDocument) {
    this.json = structuredClone(source.json)
    this.place = source.buffers.length
  }

  /** Adds data. @returns the number of its buffer view */
  view(bytes: Uint8Array, stride?: number, target?: number): number {
    const views = (this.json.bufferViews ??= [])
    const at = views.push({
      buffer: this.place,
      byteOffset: this.added,
      byteLength: bytes.length,
      ...(stride !== undefined && { byteStride: stride }),
      ...(target !== undefined && { target }),
    })
    this.chunks.push(bytes)
    this.added += pad(bytes.length)
    return at - 1
  }

  /**
   * Adds values. Attributes of vertices lie at steps of four bytes, as the format wants it.
   * @param use what they are for, as far as the format asks
   * @returns the number of their accessor
   */
  accessor(
    values: Values,
    type: AccessorType,
    {
      use,
      name,
      normalized,
      bounds = false,
    }: { use?: 'attribute' | 'index'; name?: string; normalized?: boolean; bounds?: boolean } = {},
  ): number {
    const size = TYPE_SIZE[type]
    const each = values.BYTES_PER_ELEMENT * size
    const step = use === 'attribute' ? pad(each) : each
    let bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength)
    if (step !== each) {
      const wide = new Uint8Array((values.length / size) * step)
      for (let i = 0; i < values.length / size; i++) wide.set(bytes.subarray(i * each, (i + 1) * each), i * step)
      bytes = wide
    }
    const target = use === 'attribute' ? 34962 : use === 'index' ? 34963 : undefined
    const view = this.view(bytes, step !== each ? step : undefined, target)
    const accessors = (this.json.accessors ??= [])
    return (
      accessors.push({
        ...(name !== undefined && { name }),
        bufferView: view,
        componentType: KIND(values),
        ...(normalized && { normalized }),
        count: values.length / size,
        type,
        ...(bounds && boundsOfValues(values, size)),
      }) - 1
    )
  }

  /**
   * Adds values of which few are anything but zero.
   * @param at elements that are
   */
  sparse(values: Float32Array, type: AccessorType, at: readonly number[]): number {
    const size = TYPE_SIZE[type]
    const told = new Float32Array(size * at.length)
    at.forEach((e, i) => told.set(values.subarray(size * e, size * (e + 1)), size * i))
    const numbers = Uint32Array.from(at)
    const accessors = (this.json.accessors ??= [])
    return (
      accessors.push({
        componentType: KIND(values),
        count: values.length / size,
        type,
        ...boundsOfValues(values, size),
        sparse: {
          count: at.length,
          indices: { bufferView: this.view(new Uint8Array(numbers.buffer)), componentType: KIND(numbers) },
          values: { bufferView: this.view(new Uint8Array(told.buffer)) },
        },
      }) - 1
    )
  }

  node(node: GltfNode): number {
    return (this.json.nodes ??= []).push(node) - 1
  }

  mesh(mesh: GltfMesh): number {
    return (this.json.meshes ??= []).push(mesh) - 1
  }

  /** The document with everything that was added. */
  done(): GltfDocument {
    const { buffers } = this.source
    if (this.added === 0) return { json: this.json, buffers }
    const own = new Uint8Array(this.added)
    let at = 0
    for (const chunk of this.chunks) {
      own.set(chunk, at)
      at += pad(chunk.length)
    }
    const told = this.json.buffers ?? []
    return { json: { ...this.json, buffers: [...told, { byteLength: own.length }] }, buffers: [...buffers, own] }
  }
}
