/** Area-weighted vertex normals, 3·V, unit length; vertices without faces get +Y. */
export function vertexNormals(positions: Float32Array, indices: Uint32Array): Float32Array<ArrayBuffer> {
  const normals = new Float32Array(positions.length)
  for (let f = 0; f < indices.length; f += 3) {
    const a = 3 * indices[f],
      b = 3 * indices[f + 1],
      c = 3 * indices[f + 2]
    const ux = positions[b] - positions[a],
      uy = positions[b + 1] - positions[a + 1],
      uz = positions[b + 2] - positions[a + 2]
    const vx = positions[c] - positions[a],
      vy = positions[c + 1] - positions[a + 1],
      vz = positions[c + 2] - positions[a + 2]
    const nx = uy * vz - uz * vy,
      ny = uz * vx - ux * vz,
      nz = ux * vy - uy * vx
    for (const i of [a, b, c]) {
      normals[i] += nx
      normals[i + 1] += ny
      normals[i + 2] += nz
    }
  }
  for (let i = 0; i < normals.length; i += 3) {
    const l = Math.hypot(normals[i], normals[i + 1], normals[i + 2])
    if (l > 1e-20) {
      normals[i] /= l
      normals[i + 1] /= l
      normals[i + 2] /= l
    } else normals[i + 1] = 1
  }
  return normals
}
