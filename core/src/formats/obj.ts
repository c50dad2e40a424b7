import { ChiraxisError } from '../math'
import { checkMesh, MESH_LIMITS, PLAIN_COLOR, type ImageFile, type Material, type MeshPart } from '../mesh'
import { READ_LIMITS } from './check-received'
import { readMtl } from './mtl'
import { besideFile, type BesideFiles, type Received } from './received'

/**
 * Reads a Wavefront OBJ: positions with their colours, texture coordinates, faces (fans of any size),
 * normals, `o`/`g`/`usemtl` as parts, materials and images of a library that came with it. Curves are not kept. The file's axes and unit stay.
 * @param beside the material library and its images
 * @throws ChiraxisError `bad-syntax`, `index-range`, `not-finite`, `no-triangles`, `too-large`
 */
export function readObj(bytes: Uint8Array, beside?: BesideFiles): Received {
  // counting first gives exact arrays; bytes are read without making a string of the file
  const end = bytes.length
  let vertices = 0,
    coordinates = 0,
    directions = 0,
    corners = 0
  for (let i = 0; i < end; i = nextLine(bytes, i)) {
    const a = bytes[i],
      b = bytes[i + 1]
    if (a === 118 && b <= 32) vertices++
    else if (a === 118 && b === 116) coordinates++
    else if (a === 118 && b === 110) directions++
    else if (a === 102 && b <= 32) corners += countWords(bytes, i + 1)
  }
  if (vertices > MESH_LIMITS.vertices || corners > MESH_LIMITS.triangles) {
    throw new ChiraxisError(
      'too-large',
      `The OBJ holds ${vertices} vertices and ${corners} triangles; at most ${MESH_LIMITS.vertices} and ${MESH_LIMITS.triangles} can be read.`,
    )
  }
  let positions = new Float32Array(3 * vertices)
  let colors: Float32Array | undefined
  const coordinate = new Float32Array(2 * coordinates)
  const direction = new Float32Array(3 * directions)
  const indices = new Uint32Array(3 * corners)
  const seams = coordinates + directions > 0 ? new Seams(vertices) : undefined
  /** Corners that tell no normal of their own. */
  let bare = 0
  const parts: MeshPart[] = []
  const dropped: string[] = []
  const materials: Material[] = []
  const images: ImageFile[] = []
  const placeOf = new Map<string, number>()
  let part: { name: string; start: number; material?: number } = { name: 'body', start: 0 }
  let v = 0,
    t = 0,
    d = 0,
    n = 0,
    line = 0
  const cursor = { at: 0 }
  const finish = (): void => {
    const color = part.material === undefined ? PLAIN_COLOR : materials[part.material].color
    if (n <= part.start) return
    if (parts.length >= READ_LIMITS.parts)
      throw new ChiraxisError('too-large', `The OBJ is cut into more than ${READ_LIMITS.parts} groups.`)
    parts.push({
      name: part.name,
      start: part.start,
      count: n - part.start,
      color,
      ...(part.material !== undefined && { material: part.material }),
    })
  }
  const libraries = new Set<string>()
  for (let i = 0; i < end; i = nextLine(bytes, i)) {
    line++
    const a = bytes[i],
      b = bytes[i + 1]
    if (a === 118 && b === 116) {
      cursor.at = i + 2
      const u = readNumber(bytes, cursor)
      const w = readNumber(bytes, cursor)
      coordinate[2 * t] = Number.isFinite(u) ? u : 0
      coordinate[2 * t + 1] = Number.isFinite(w) ? 1 - w : 0
      t++
    } else if (a === 118 && b === 110) {
      cursor.at = i + 2
      for (let k = 0; k < 3; k++) direction[3 * d + k] = readNumber(bytes, cursor)
      d++
    } else if (a === 118 && b <= 32) {
      cursor.at = i + 1
      for (let k = 0; k < 3; k++) {
        const value = readNumber(bytes, cursor)
        if (!Number.isFinite(value))
          throw new ChiraxisError('not-finite', `Line ${line} of the OBJ has a position that is not a number.`, {
            line,
          })
        positions[3 * v + k] = value
      }
      // a colour may follow: three more numbers, not a single weight
      const more = [readNumber(bytes, cursor), readNumber(bytes, cursor), readNumber(bytes, cursor)]
      if (more.every(Number.isFinite)) {
        colors ??= new Float32Array(3 * vertices).fill(1)
        colors.set(more.map(toLinear), 3 * v)
      }
      v++
    } else if (a === 102 && b <= 32) {
      cursor.at = i + 1
      let first = -1,
        last = -1,
        words = 0
      while (skipBlanks(bytes, cursor)) {
        let index = readInteger(bytes, cursor)
        if (Number.isNaN(index))
          throw new ChiraxisError('bad-syntax', `Line ${line} of the OBJ has a face that cannot be read.`, { line })
        index = index < 0 ? v + index : index - 1
        if (index < 0 || index >= vertices)
          throw new ChiraxisError('index-range', `Line ${line} of the OBJ names a vertex that does not exist.`, {
            line,
          })
        if (seams) {
          let place = -1,
            normal = -1
          if (bytes[cursor.at] === 47) {
            cursor.at++
            if (bytes[cursor.at] !== 47) place = inList(readInteger(bytes, cursor), t, coordinates)
            if (bytes[cursor.at] === 47) {
              cursor.at++
              normal = inList(readInteger(bytes, cursor), d, directions)
            }
          }
          if (normal < 0) bare++
          if (place >= 0 || normal >= 0) index = seams.vertex(index, (place + 1) * (directions + 1) + normal + 1)
        }
        if (words === 0) first = index
        else if (words > 1) {
          indices[n++] = first
          indices[n++] = last
          indices[n++] = index
        }
        last = index
        words++
        while (cursor.at < end && bytes[cursor.at] > 32) cursor.at++
      }
    } else if ((a === 111 || a === 103) && b <= 32) {
      finish()
      part = { ...part, name: wordAfter(bytes, i + 1) || 'part', start: n }
    } else if (startsWith(bytes, i, 'usemtl ')) {
      finish()
      const name = wordAfter(bytes, i + 7)
      const at = placeOf.get(name) ?? -1
      part = { name: part.name, start: n, ...(at >= 0 && { material: at }) }
    } else if (startsWith(bytes, i, 'mtllib ')) {
      const name = wordAfter(bytes, i + 7)
      if (libraries.has(name)) continue
      libraries.add(name)
      const library = besideFile(beside, name)
      if (library) {
        readMtl(library, beside, materials, images, dropped)
        materials.forEach((m, at) => placeOf.set(m.name, at))
      } else dropped.push(`The material library ${name} was not brought in with the OBJ.`)
    }
  }
  finish()
  let uvs: Float32Array | undefined
  let normals: Float32Array | undefined
  if (seams) {
    const all = seams.count
    const base = seams.base
    positions = grow(positions, 3, all, base)
    if (colors) colors = grow(colors, 3, all, base)
    if (coordinates > 0) uvs = new Float32Array(2 * all)
    // where some corners tell none, the surface tells them all
    if (directions > 0 && bare === 0) normals = new Float32Array(3 * all)
    for (let i = 0; i < all; i++) {
      const told = seams.at[i]
      if (told < 0) {
        normals?.set([0, 1, 0], 3 * i)
        continue
      }
      const place = Math.floor(told / (directions + 1)) - 1
      const normal = (told % (directions + 1)) - 1
      if (uvs && place >= 0) uvs.set(coordinate.subarray(2 * place, 2 * place + 2), 2 * i)
      if (normals && normal >= 0) normals.set(direction.subarray(3 * normal, 3 * normal + 3), 3 * i)
    }
  }
  const mesh = {
    positions,
    indices: indices.slice(0, n),
    parts: named(parts),
    ...(colors && { colors }),
    ...(uvs && { uvs }),
    ...(normals && { normals }),
  }
  checkMesh(mesh)
  return { format: 'obj', mesh, materials, images, takes: [], dropped }
}

/** A place in a list as OBJ tells it, from one or from the end; -1 where it is none. */
function inList(told: number, read: number, all: number): number {
  const at = told < 0 ? read + told : told - 1
  return at >= 0 && at < all ? at : -1
}

/** Parts of one name that only differ by material are told apart by it. */
function named(parts: readonly MeshPart[]): MeshPart[] {
  const seen = new Map<string, number>()
  return parts.map(p => {
    const times = (seen.get(p.name) ?? 0) + 1
    seen.set(p.name, times)
    return times > 1 ? { ...p, name: `${p.name} ${times}` } : p
  })
}

/** Colours of OBJ and PLY are told as they are shown; the program counts light. */
export const toLinear = (c: number): number => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4)

/** Coordinates of one vertex that are looked through one by one. */
const CROWDED = 12

/** A vertex with several texture coordinates or normals becomes several vertices at one place. */
class Seams {
  /** What each vertex was told to have; -1 for nothing yet. */
  at: Float64Array
  base: Int32Array
  private next: Int32Array
  private readonly crowds = new Map<number, Map<number, number>>()
  count: number
  constructor(vertices: number) {
    this.count = vertices
    this.at = new Float64Array(vertices).fill(-1)
    this.next = new Int32Array(vertices).fill(-1)
    this.base = Int32Array.from({ length: vertices }, (_, i) => i)
  }
  vertex(v: number, at: number): number {
    let i = v
    for (let steps = 0; ; steps++) {
      if (this.at[i] < 0) this.at[i] = at
      if (this.at[i] === at) return i
      if (this.next[i] < 0) break
      if (steps === CROWDED) return this.inCrowd(v, at, i)
      i = this.next[i]
    }
    return this.add(v, at, i)
  }
  /** Of a vertex with very many coordinates all but the first few are found by a table. */
  private inCrowd(v: number, at: number, last: number): number {
    const table = this.crowds.get(v) ?? new Map<number, number>()
    this.crowds.set(v, table)
    const known = table.get(at)
    if (known !== undefined) return known
    const made = this.add(v, at, last)
    table.set(at, made)
    return made
  }
  private add(v: number, at: number, last: number): number {
    if (this.count === this.at.length) {
      const room = Math.ceil(this.at.length * 1.5) + 16
      const wider = (a: Int32Array): Int32Array => {
        const out = new Int32Array(room).fill(-1)
        out.set(a)
        return out
      }
      const at = new Float64Array(room).fill(-1)
      at.set(this.at)
      this.at = at
      this.next = wider(this.next)
      this.base = wider(this.base)
    }
    const made = this.count++
    // beyond the first few the chain is not followed, only counted
    this.next[last] = made
    this.at[made] = at
    this.base[made] = v
    return made
  }
}

function grow(values: Float32Array, size: number, count: number, base: Int32Array): Float32Array<ArrayBuffer> {
  const out = new Float32Array(size * count)
  out.set(values)
  for (let i = values.length / size; i < count; i++)
    for (let k = 0; k < size; k++) out[size * i + k] = values[size * base[i] + k]
  return out
}

function startsWith(bytes: Uint8Array, i: number, word: string): boolean {
  for (let k = 0; k < word.length; k++) if (bytes[i + k] !== word.charCodeAt(k)) return false
  return true
}

function nextLine(bytes: Uint8Array, i: number): number {
  while (i < bytes.length && bytes[i] !== 10) i++
  i++
  while (i < bytes.length && (bytes[i] === 32 || bytes[i] === 9)) i++
  return i
}

function countWords(bytes: Uint8Array, i: number): number {
  let words = 0
  let inWord = false
  for (; i < bytes.length && bytes[i] !== 10; i++) {
    const is = bytes[i] > 32
    if (is && !inWord) words++
    inWord = is
  }
  return Math.max(0, words - 2)
}

/** Moves to the next word of the line; false at its end. */
function skipBlanks(bytes: Uint8Array, cursor: { at: number }): boolean {
  while (cursor.at < bytes.length && (bytes[cursor.at] === 32 || bytes[cursor.at] === 9 || bytes[cursor.at] === 13))
    cursor.at++
  return cursor.at < bytes.length && bytes[cursor.at] !== 10 && bytes[cursor.at] !== 35
}

function readInteger(bytes: Uint8Array, cursor: { at: number }): number {
  let sign = 1
  if (bytes[cursor.at] === 45) {
    sign = -1
    cursor.at++
  }
  let value = 0
  let digits = 0
  while (bytes[cursor.at] >= 48 && bytes[cursor.at] <= 57) {
    value = value * 10 + bytes[cursor.at++] - 48
    digits++
  }
  return digits > 0 ? sign * value : NaN
}

function readNumber(bytes: Uint8Array, cursor: { at: number }): number {
  if (!skipBlanks(bytes, cursor)) return NaN
  const from = cursor.at
  const sign = bytes[cursor.at] === 45 ? -1 : 1
  if (bytes[cursor.at] === 45 || bytes[cursor.at] === 43) cursor.at++
  let mantissa = 0,
    digits = 0,
    decimals = 0
  for (let dot = false; ; cursor.at++) {
    const c = bytes[cursor.at]
    if (c >= 48 && c <= 57) {
      mantissa = mantissa * 10 + c - 48
      digits++
      if (dot) decimals++
    } else if (c === 46 && !dot) dot = true
    else break
  }
  if (digits > 0 && digits <= 15 && !(bytes[cursor.at] > 32))
    return sign * (decimals > 0 ? mantissa / 10 ** decimals : mantissa)
  while (cursor.at < bytes.length && bytes[cursor.at] > 32) cursor.at++
  let word = ''
  for (let i = from; i < Math.min(cursor.at, from + 64); i++) word += String.fromCharCode(bytes[i])
  return Number(word)
}

function wordAfter(bytes: Uint8Array, i: number): string {
  let word = ''
  while (i < bytes.length && bytes[i] !== 10 && word.length < 80) word += String.fromCharCode(bytes[i++])
  return word.trim()
}
