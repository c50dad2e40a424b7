import { COMPONENT_BYTES, TYPE_SIZE, type GltfAccessor, type GltfDocument } from './gltf'

type Numbers = Float32Array | Uint32Array | Uint16Array | Int16Array | Uint8Array | Int8Array
const KINDS: Readonly<Record<number, new (length: number) => Numbers>> = {
  5120: Int8Array,
  5121: Uint8Array,
  5122: Int16Array,
  5123: Uint16Array,
  5125: Uint32Array,
  5126: Float32Array,
}
/** What a whole number stands for where it is normalised, by kind. */
const WHOLE: Readonly<Record<number, number>> = { 5120: 127, 5121: 255, 5122: 32767, 5123: 65535 }

/**
 * The values of an accessor as they are stored, packed, whatever stride and sparse changes they lie in.
 * Ranges were checked when the file was read (see `checkGltf`).
 */
export function rawValues(document: GltfDocument, index: number): Numbers {
  const accessor = document.json.accessors![index]
  const size = TYPE_SIZE[accessor.type]
  const out = new KINDS[accessor.componentType](size * accessor.count)
  if (accessor.bufferView !== undefined)
    copy(document, accessor.bufferView, accessor.byteOffset ?? 0, accessor.componentType, size, accessor.count, out)
  const { sparse } = accessor
  if (sparse) {
    const at = new KINDS[sparse.indices.componentType](sparse.count)
    copy(
      document,
      sparse.indices.bufferView,
      sparse.indices.byteOffset ?? 0,
      sparse.indices.componentType,
      1,
      sparse.count,
      at,
    )
    const values = new KINDS[accessor.componentType](size * sparse.count)
    copy(
      document,
      sparse.values.bufferView,
      sparse.values.byteOffset ?? 0,
      accessor.componentType,
      size,
      sparse.count,
      values,
    )
    for (let i = 0; i < sparse.count; i++)
      if (at[i] < accessor.count) for (let k = 0; k < size; k++) out[size * at[i] + k] = values[size * i + k]
  }
  return out
}

function copy(
  { json, buffers }: GltfDocument,
  viewIndex: number,
  offset: number,
  kind: number,
  size: number,
  count: number,
  out: Numbers,
): void {
  const view = json.bufferViews![viewIndex]
  const bytes = buffers[view.buffer]
  const start = bytes.byteOffset + (view.byteOffset ?? 0) + offset
  const each = COMPONENT_BYTES[kind]
  const stride = view.byteStride ?? each * size
  if (stride === each * size) {
    new Uint8Array(out.buffer).set(new Uint8Array(bytes.buffer, start, each * size * count))
    return
  }
  const from = new Uint8Array(bytes.buffer, start)
  const to = new Uint8Array(out.buffer)
  for (let i = 0; i < count; i++) for (let b = 0; b < each * size; b++) to[i * each * size + b] = from[i * stride + b]
}

/** The values of an accessor as plain floats, `size` an element; parts it lacks are 1 (an alpha that is not told). */
export function floatValues(document: GltfDocument, index: number, size?: number): Float32Array<ArrayBuffer> {
  const accessor = document.json.accessors![index]
  const own = TYPE_SIZE[accessor.type]
  const wanted = size ?? own
  const raw = rawValues(document, index)
  if (raw instanceof Float32Array && own === wanted) return raw as Float32Array<ArrayBuffer>
  const out = new Float32Array(wanted * accessor.count).fill(1)
  const whole = accessor.normalized ? (WHOLE[accessor.componentType] ?? 1) : 1
  const shared = Math.min(own, wanted)
  for (let i = 0; i < accessor.count; i++)
    for (let k = 0; k < shared; k++) {
      const v = raw[own * i + k] / whole
      out[wanted * i + k] = accessor.normalized ? Math.max(-1, v) : v
    }
  return out
}

/** The data a buffer view means; nothing where there is none of that number. */
export function viewBytes({ json, buffers }: GltfDocument, index: number | undefined): Uint8Array | undefined {
  const view = index === undefined ? undefined : json.bufferViews?.[index]
  const from = view?.byteOffset ?? 0
  return view && buffers[view.buffer]?.subarray(from, from + view.byteLength)
}

/** Smallest and largest value of each part, as the format wants them told for positions and times. */
export function boundsOfValues(values: ArrayLike<number>, size: number): Pick<GltfAccessor, 'min' | 'max'> {
  const min = new Array<number>(size).fill(Infinity)
  const max = new Array<number>(size).fill(-Infinity)
  for (let i = 0; i < values.length; i++) {
    const k = i % size
    if (values[i] < min[k]) min[k] = values[i]
    if (values[i] > max[k]) max[k] = values[i]
  }
  return values.length > 0 ? { min, max } : {}
}
