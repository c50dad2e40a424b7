import { ChiraxisError } from '../math'
import { checkMesh, MESH_LIMITS, type MeshPart } from '../mesh'
import type { Received } from './received'

/**
 * Reads the triangles of a Wavefront OBJ: positions, faces (fans of any size), `o`/`g`/`usemtl` as parts.
 * Texture coordinates, normals, curves and materials are not kept. The file's axes and unit stay.
 * @throws ChiraxisError `bad-syntax`, `index-range`, `not-finite`, `no-triangles`, `too-large`
 */
export function readObj(bytes: Uint8Array): Received {
  // counting first gives exact arrays; bytes are read without making a string of the file
  const end = bytes.length
  let vertices = 0
  let corners = 0
  for (let i = 0; i < end; i = nextLine(bytes, i)) {
    const a = bytes[i], b = bytes[i + 1]
    if (a === 118 && b <= 32) vertices++
    else if (a === 102 && b <= 32) corners += countWords(bytes, i + 1)
  }
  if (vertices > MESH_LIMITS.vertices) throw new ChiraxisError('too-large', `The OBJ holds ${vertices} vertices; at most ${MESH_LIMITS.vertices} can be read.`)
  const positions = new Float32Array(3 * vertices)
  const indices = new Uint32Array(3 * corners)
  const parts: MeshPart[] = []
  let part = { name: 'body', start: 0 }
  let textured = false
  let v = 0
  let n = 0
  let line = 0
  const cursor = { at: 0 }
  const finish = (): void => {
    if (n > part.start) parts.push({ name: part.name, start: part.start, count: n - part.start, color: [0.78, 0.74, 0.68] })
  }
  for (let i = 0; i < end; i = nextLine(bytes, i)) {
    line++
    const a = bytes[i], b = bytes[i + 1]
    if (a === 118 && b === 116) textured = true
    if (a === 118 && b <= 32) {
      cursor.at = i + 1
      for (let k = 0; k < 3; k++) {
        const value = readNumber(bytes, cursor)
        if (!Number.isFinite(value)) throw new ChiraxisError('not-finite', `Line ${line} of the OBJ has a position that is not a number.`, { line })
        positions[3 * v + k] = value
      }
      v++
    } else if (a === 102 && b <= 32) {
      cursor.at = i + 1
      let first = -1, last = -1, words = 0
      while (skipBlanks(bytes, cursor)) {
        let index = readInteger(bytes, cursor)
        if (Number.isNaN(index)) throw new ChiraxisError('bad-syntax', `Line ${line} of the OBJ has a face that cannot be read.`, { line })
        index = index < 0 ? v + index : index - 1
        if (index < 0 || index >= vertices) throw new ChiraxisError('index-range', `Line ${line} of the OBJ names a vertex that does not exist.`, { line })
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
      part = { name: wordAfter(bytes, i + 1) || 'part', start: n }
    }
  }
  finish()
  const mesh = { positions, indices: indices.slice(0, n), parts }
  checkMesh(mesh)
  return { format: 'obj', mesh, takes: [], dropped: textured ? ['Texture coordinates of the OBJ are not kept.'] : [] }
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
  while (cursor.at < bytes.length && (bytes[cursor.at] === 32 || bytes[cursor.at] === 9 || bytes[cursor.at] === 13)) cursor.at++
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
  let mantissa = 0, digits = 0, decimals = 0
  for (let dot = false; ; cursor.at++) {
    const c = bytes[cursor.at]
    if (c >= 48 && c <= 57) {
      mantissa = mantissa * 10 + c - 48
      digits++
      if (dot) decimals++
    } else if (c === 46 && !dot) dot = true
    else break
  }
  if (digits > 0 && digits <= 15 && !(bytes[cursor.at] > 32)) return sign * (decimals > 0 ? mantissa / 10 ** decimals : mantissa)
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
