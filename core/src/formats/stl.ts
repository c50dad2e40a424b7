import { ChiraxisError } from '../math'
import { checkMesh, MESH_LIMITS, meshOf, weldByPosition, type Mesh } from '../mesh'
import type { Received } from './received'

const RECORD = 50

/** A binary STL has exactly as many bytes as its count of triangles says. */
export function isBinaryStl(bytes: Uint8Array): boolean {
  if (bytes.length < 84) return false
  const count = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(80, true)
  return count > 0 && 84 + RECORD * count === bytes.length
}

/**
 * Reads an STL, ASCII or binary. Corners at the same place become one vertex, so the surface hangs together.
 * @throws ChiraxisError `truncated-file`, `bad-syntax`, `not-finite`, `too-large`, `no-triangles`
 */
export function readStl(bytes: Uint8Array, name = 'body'): Received {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 1024))
  const corners =
    !isBinaryStl(bytes) && /^\s*solid/i.test(head) && /facet|endsolid/i.test(head) ? readText(bytes) : readBinary(bytes)
  for (let i = 0; i < corners.length; i++)
    if (!Number.isFinite(corners[i]))
      throw new ChiraxisError(
        'not-finite',
        `Triangle ${Math.floor(i / 9)} of the STL has a corner that is not a number; the file is damaged.`,
      )
  const weld = weldByPosition(corners)
  const positions = new Float32Array(3 * weld.first.length)
  weld.first.forEach((v, i) => positions.set(corners.subarray(3 * v, 3 * v + 3), 3 * i))
  const mesh = meshOf(positions, weld.of, name)
  checkMesh(mesh)
  return { format: 'stl', mesh, takes: [], dropped: [] }
}

function readBinary(bytes: Uint8Array): Float32Array {
  if (bytes.length < 84) throw new ChiraxisError('truncated-file', 'The STL ends within its header; it is cut short.')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const count = view.getUint32(80, true)
  if (84 + RECORD * count > bytes.length)
    throw new ChiraxisError(
      'truncated-file',
      `The STL says it has ${count} triangles, but ends after ${Math.floor((bytes.length - 84) / RECORD)}; it is cut short.`,
    )
  if (count > MESH_LIMITS.triangles)
    throw new ChiraxisError(
      'too-large',
      `The STL has ${count} triangles; at most ${MESH_LIMITS.triangles} can be read.`,
    )
  const out = new Float32Array(9 * count)
  for (let f = 0, at = 96; f < count; f++, at += RECORD)
    for (let k = 0; k < 9; k++) out[9 * f + k] = view.getFloat32(at + 4 * k, true)
  return out
}

function readText(bytes: Uint8Array): Float32Array {
  const text = new TextDecoder('latin1').decode(bytes)
  const out: number[] = []
  const pattern = /vertex\s+(\S+)\s+(\S+)\s+(\S+)/gi
  for (let m = pattern.exec(text); m; m = pattern.exec(text)) {
    out.push(Number(m[1]), Number(m[2]), Number(m[3]))
    if (out.length > 9 * MESH_LIMITS.triangles)
      throw new ChiraxisError('too-large', `The STL has more than ${MESH_LIMITS.triangles} triangles.`)
  }
  if (out.length % 9 !== 0)
    throw new ChiraxisError('truncated-file', 'The STL ends within a triangle; it is cut short.')
  return Float32Array.from(out)
}

/** Writes a binary STL. */
export function writeStl(mesh: Mesh): Uint8Array<ArrayBuffer> {
  const faces = mesh.indices.length / 3
  const out = new Uint8Array(84 + RECORD * faces)
  const view = new DataView(out.buffer)
  view.setUint32(80, faces, true)
  for (let f = 0, at = 96; f < faces; f++, at += RECORD) {
    for (let k = 0; k < 9; k++)
      view.setFloat32(at + 4 * k, mesh.positions[3 * mesh.indices[3 * f + Math.floor(k / 3)] + (k % 3)], true)
  }
  return out
}
