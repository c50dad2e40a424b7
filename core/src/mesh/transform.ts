import { determinant3, type Mat4, maxOf, minOf } from '../math'
import type { Mesh } from './mesh'
import { vertexNormals } from './normals'

/** The same body moved by an affine matrix; faces are turned round where the matrix mirrors. */
export function transformMesh(mesh: Mesh, m: Mat4): Mesh {
  const positions = new Float32Array(mesh.positions.length)
  const p = mesh.positions
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i],
      y = p[i + 1],
      z = p[i + 2]
    positions[i] = m[0] * x + m[4] * y + m[8] * z + m[12]
    positions[i + 1] = m[1] * x + m[5] * y + m[9] * z + m[13]
    positions[i + 2] = m[2] * x + m[6] * y + m[10] * z + m[14]
  }
  let indices = mesh.indices
  if (determinant3(m) < 0) {
    indices = mesh.indices.slice()
    for (let f = 0; f < indices.length; f += 3) [indices[f + 1], indices[f + 2]] = [indices[f + 2], indices[f + 1]]
  }
  const morphs = mesh.morphs?.map(morph => ({ ...morph, offsets: turnOffsets(morph.offsets, m) }))
  return {
    ...mesh,
    positions,
    indices,
    ...(morphs && { morphs }),
    normals: mesh.normals && transformNormals(mesh.normals, positions, indices, m),
  }
}

function transformNormals(normals: Float32Array, positions: Float32Array, indices: Uint32Array, m: Mat4): Float32Array {
  const lengths = [0, 4, 8].map(c => Math.hypot(m[c], m[c + 1], m[c + 2]))
  const even = maxOf(lengths) - minOf(lengths) < 1e-6 * maxOf(lengths)
  // an uneven scale bends normals; the surface itself tells them then
  if (!even || determinant3(m) < 0) return vertexNormals(positions, indices)
  const out = new Float32Array(normals.length)
  const s = 1 / lengths[0]
  for (let i = 0; i < normals.length; i += 3) {
    const x = normals[i],
      y = normals[i + 1],
      z = normals[i + 2]
    out[i] = (m[0] * x + m[4] * y + m[8] * z) * s
    out[i + 1] = (m[1] * x + m[5] * y + m[9] * z) * s
    out[i + 2] = (m[2] * x + m[6] * y + m[10] * z) * s
  }
  return out
}

function turnOffsets(offsets: Float32Array, m: Mat4): Float32Array {
  const out = new Float32Array(offsets.length)
  for (let i = 0; i < offsets.length; i += 3) {
    const x = offsets[i],
      y = offsets[i + 1],
      z = offsets[i + 2]
    for (let r = 0; r < 3; r++) out[i + r] = m[r] * x + m[4 + r] * y + m[8 + r] * z
  }
  return out
}
