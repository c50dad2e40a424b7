import { ChiraxisError } from '../math'
import { checkMesh, MESH_LIMITS, meshOf, type Mesh } from '../mesh'
import { toLinear } from './obj'
import type { Received } from './received'

interface Property {
  readonly name: string
  readonly type: Kind
  readonly list?: Kind
}
interface Element {
  readonly name: string
  readonly count: number
  readonly properties: Property[]
}

/** Types of values, as numbers: one is told apart for every value of a file. */
const enum Kind {
  int8,
  uint8,
  int16,
  uint16,
  int32,
  uint32,
  float32,
  float64,
}
const KINDS: ReadonlyMap<string, Kind> = new Map([
  ['char', Kind.int8],
  ['int8', Kind.int8],
  ['uchar', Kind.uint8],
  ['uint8', Kind.uint8],
  ['short', Kind.int16],
  ['int16', Kind.int16],
  ['ushort', Kind.uint16],
  ['uint16', Kind.uint16],
  ['int', Kind.int32],
  ['int32', Kind.int32],
  ['uint', Kind.uint32],
  ['uint32', Kind.uint32],
  ['float', Kind.float32],
  ['float32', Kind.float32],
  ['double', Kind.float64],
  ['float64', Kind.float64],
])
/** Bytes of each kind. */
const BYTES = Uint8Array.of(1, 1, 2, 2, 4, 4, 4, 8)
/** Colours in whole numbers, made linear. */
const LINEAR = Float32Array.from({ length: 256 }, (_, value) => toLinear(value / 255))

export const isPly = (bytes: Uint8Array): boolean =>
  bytes[0] === 112 && bytes[1] === 108 && bytes[2] === 121 && (bytes[3] === 10 || bytes[3] === 13)

/**
 * Reads a PLY, ASCII or binary of either byte order: positions, normals, colours, texture coordinates per
 * vertex, and faces of any size. Other elements and properties are passed over.
 * @throws ChiraxisError `bad-syntax`, `truncated-file`, `bad-version`, `too-large`, `no-triangles`, `index-range`
 */
export function readPly(bytes: Uint8Array, name = 'body'): Received {
  const { format, elements, body } = readHeader(bytes)
  const vertex = elements.find(e => e.name === 'vertex')
  const face = elements.find(e => e.name === 'face')
  if (!vertex || !['x', 'y', 'z'].every(k => vertex.properties.some(p => p.name === k)))
    throw new ChiraxisError('bad-syntax', 'The PLY names no vertices with x, y and z.')
  if (!face || face.count === 0)
    throw new ChiraxisError('no-triangles', 'The PLY holds points but no faces, so there is no surface to rig.')
  if (vertex.count > MESH_LIMITS.vertices || face.count > MESH_LIMITS.triangles)
    throw new ChiraxisError(
      'too-large',
      `The PLY holds ${vertex.count} vertices and ${face.count} faces; at most ${MESH_LIMITS.vertices} and ${MESH_LIMITS.triangles} can be read.`,
    )
  // every value takes at least a byte, so a lying header cannot make us allocate or loop
  for (const e of elements)
    if (e.count * e.properties.length > bytes.length)
      throw new ChiraxisError(
        'truncated-file',
        `The PLY promises ${e.count} of ${e.name.slice(0, 40)} but ends before them; it is cut short.`,
      )
  const source =
    format === 'ascii' ? new Words(bytes, body) : new Numbers(bytes, body, format === 'binary_little_endian')
  const has = (...names: string[]): boolean => names.every(k => vertex.properties.some(p => p.name === k))
  const positions = new Float32Array(3 * vertex.count)
  const normals = has('nx', 'ny', 'nz') ? new Float32Array(3 * vertex.count) : undefined
  const colors = has('red', 'green', 'blue') ? new Float32Array(3 * vertex.count) : undefined
  const uNames = ['u', 's', 'texture_u', 'texture_s'].filter(k => has(k))
  const uvs = uNames.length > 0 ? new Float32Array(2 * vertex.count) : undefined
  let indices = new Uint32Array(3 * face.count)
  let n = 0
  for (const element of elements) {
    if (element.properties.length === 0) continue
    const slots = element.properties.map(p => slotOf(p.name))
    for (let i = 0; i < element.count; i++) {
      for (let k = 0; k < element.properties.length; k++) {
        const p = element.properties[k]
        if (p.list !== undefined) {
          const count = source.next(p.list)
          if (!(count >= 0 && count < 1e5))
            throw new ChiraxisError('bad-syntax', `Face ${i} of the PLY has an impossible number of corners.`)
          const wanted = element === face && /^vertex_ind/.test(p.name)
          let first = 0,
            last = 0
          for (let c = 0; c < count; c++) {
            const at = source.next(p.type)
            if (!wanted) continue
            if (!(at >= 0 && at < vertex.count))
              throw new ChiraxisError(
                'index-range',
                `Face ${i} of the PLY names a vertex that does not exist; there are ${vertex.count}.`,
              )
            if (c === 0) first = at
            else if (c > 1) {
              if (n + 3 > indices.length) {
                const wider = new Uint32Array(Math.min(3 * MESH_LIMITS.triangles + 3, 2 * indices.length))
                if (n + 3 > wider.length)
                  throw new ChiraxisError('too-large', `The PLY holds more than ${MESH_LIMITS.triangles} triangles.`)
                wider.set(indices)
                indices = wider
              }
              indices[n++] = first
              indices[n++] = last
              indices[n++] = at
            }
            last = at
          }
          continue
        }
        const value = source.next(p.type)
        if (element !== vertex) continue
        const slot = slots[k]
        if (!slot) continue
        const [what, at] = slot
        if (what === 'p') positions[3 * i + at] = value
        else if (what === 'n' && normals) normals[3 * i + at] = value
        else if (what === 'c' && colors)
          colors[3 * i + at] = p.type <= Kind.uint8 ? LINEAR[value & 255] : toLinear(value)
        else if (what === 't' && uvs) uvs[2 * i + at] = at === 1 ? 1 - value : value
      }
    }
  }
  const mesh: Mesh = { ...meshOf(positions, indices.slice(0, n), name), normals, colors, uvs }
  checkMesh(mesh)
  return { format: 'ply', mesh, takes: [], dropped: [] }
}

function slotOf(name: string): readonly ['p' | 'n' | 'c' | 't', number] | undefined {
  const xyz = ['x', 'y', 'z'].indexOf(name)
  if (xyz >= 0) return ['p', xyz]
  const normal = ['nx', 'ny', 'nz'].indexOf(name)
  if (normal >= 0) return ['n', normal]
  const color = ['red', 'green', 'blue'].indexOf(name)
  if (color >= 0) return ['c', color]
  if (/^(texture_)?[us]$/.test(name)) return ['t', 0]
  if (/^(texture_)?[vt]$/.test(name)) return ['t', 1]
  return undefined
}

function readHeader(bytes: Uint8Array): { format: string; elements: Element[]; body: number } {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 65536))
  const end = /(^|\n)end_header[ \t]*\r?\n/.exec(text)
  if (!end)
    throw new ChiraxisError(
      'truncated-file',
      'The PLY has no end of its header within 64 kB; it is cut short or damaged.',
    )
  const elements: Element[] = []
  let format = ''
  for (const line of text.slice(0, end.index).split(/\r?\n/)) {
    const words = line.trim().split(/\s+/)
    if (words[0] === 'format') {
      format = words[1]
      if (!['ascii', 'binary_little_endian', 'binary_big_endian'].includes(format))
        throw new ChiraxisError(
          'bad-version',
          `The PLY is written as “${(format ?? '').slice(0, 30)}”, which cannot be read.`,
        )
    } else if (words[0] === 'element') {
      const count = Number(words[2])
      if (!Number.isInteger(count) || count < 0 || count > 5e7)
        throw new ChiraxisError(
          'too-large',
          `The PLY says it has “${(words[2] ?? '').slice(0, 20)}” of “${(words[1] ?? '').slice(0, 20)}”, which cannot be read.`,
        )
      elements.push({ name: words[1] ?? '', count, properties: [] })
    } else if (words[0] === 'property') {
      const own = elements[elements.length - 1]
      const isList = words[1] === 'list'
      const [type, list] = [KINDS.get(words[isList ? 3 : 1]), isList ? KINDS.get(words[2]) : undefined]
      if (!own || type === undefined || (isList && list === undefined))
        throw new ChiraxisError(
          'bad-syntax',
          `The PLY has a property that cannot be read: ${line.trim().slice(0, 60)}.`,
        )
      own.properties.push({ name: words[isList ? 4 : 2] ?? '', type, list })
    }
  }
  if (!format) throw new ChiraxisError('bad-syntax', 'The PLY does not say how it is written.')
  return { format, elements, body: end.index + end[0].length }
}

class Numbers {
  private readonly view: DataView
  constructor(
    bytes: Uint8Array,
    private at: number,
    private readonly little: boolean,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }
  next(kind: Kind): number {
    const at = this.at
    const size = BYTES[kind]
    if (at + size > this.view.byteLength)
      throw new ChiraxisError('truncated-file', 'The PLY ends within its data; it is cut short.')
    this.at = at + size
    switch (kind) {
      case Kind.float32:
        return this.view.getFloat32(at, this.little)
      case Kind.uint8:
        return this.view.getUint8(at)
      case Kind.int32:
        return this.view.getInt32(at, this.little)
      case Kind.uint32:
        return this.view.getUint32(at, this.little)
      case Kind.float64:
        return this.view.getFloat64(at, this.little)
      case Kind.int16:
        return this.view.getInt16(at, this.little)
      case Kind.uint16:
        return this.view.getUint16(at, this.little)
      default:
        return this.view.getInt8(at)
    }
  }
}

class Words {
  constructor(
    private readonly bytes: Uint8Array,
    private at: number,
  ) {}
  next(_kind: Kind): number {
    const b = this.bytes
    while (this.at < b.length && b[this.at] <= 32) this.at++
    if (this.at >= b.length) throw new ChiraxisError('truncated-file', 'The PLY ends within its data; it is cut short.')
    let word = ''
    while (this.at < b.length && b[this.at] > 32 && word.length < 40) word += String.fromCharCode(b[this.at++])
    const value = Number(word)
    if (Number.isNaN(value) && !/^-?nan$/i.test(word))
      throw new ChiraxisError('bad-syntax', `The PLY holds “${word}” where a number belongs.`)
    return value
  }
}

/** Writes a binary PLY: positions, colours where there are any, and triangles. */
export function writePly(mesh: Mesh): Uint8Array<ArrayBuffer> {
  const vertices = mesh.positions.length / 3
  const faces = mesh.indices.length / 3
  const color = mesh.colors ? 'property uchar red\nproperty uchar green\nproperty uchar blue\n' : ''
  const head = new TextEncoder().encode(
    `ply\nformat binary_little_endian 1.0\nelement vertex ${vertices}\nproperty float x\nproperty float y\nproperty float z\n${color}element face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`,
  )
  const stride = mesh.colors ? 15 : 12
  const out = new Uint8Array(head.length + stride * vertices + 13 * faces)
  out.set(head)
  const view = new DataView(out.buffer)
  let at = head.length
  for (let v = 0; v < vertices; v++) {
    for (let k = 0; k < 3; k++) view.setFloat32(at + 4 * k, mesh.positions[3 * v + k], true)
    at += 12
    if (mesh.colors)
      for (let k = 0; k < 3; k++) {
        const c = Math.min(1, Math.max(0, mesh.colors[3 * v + k]))
        out[at++] = Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055))
      }
  }
  for (let f = 0; f < faces; f++) {
    out[at++] = 3
    for (let k = 0; k < 3; k++, at += 4) view.setInt32(at, mesh.indices[3 * f + k], true)
  }
  return out
}
