import { vertexNormals } from './normals'
import type { Mesh, MeshPart, Morph } from './mesh'

/** Bodies joined to one, part after part; colours, texture coordinates and morphs are filled in where some lack them. */
export function joinMeshes(meshes: readonly Mesh[]): Mesh {
  if (meshes.length === 1) return meshes[0]
  const vertices = meshes.reduce((n, m) => n + m.positions.length / 3, 0)
  const positions = new Float32Array(3 * vertices)
  const normals = new Float32Array(3 * vertices)
  const colors = meshes.some(m => m.colors) ? new Float32Array(3 * vertices).fill(1) : undefined
  const uvs = meshes.some(m => m.uvs) ? new Float32Array(2 * vertices) : undefined
  const indices = new Uint32Array(meshes.reduce((n, m) => n + m.indices.length, 0))
  const morphs = new Map<string, Float32Array>()
  const parts: MeshPart[] = []
  let v = 0,
    c = 0
  for (const m of meshes) {
    positions.set(m.positions, 3 * v)
    normals.set(m.normals ?? vertexNormals(m.positions, m.indices), 3 * v)
    if (m.colors) colors?.set(m.colors, 3 * v)
    if (m.uvs) uvs?.set(m.uvs, 2 * v)
    for (const morph of m.morphs ?? []) {
      const all = morphs.get(morph.name) ?? new Float32Array(3 * vertices)
      all.set(morph.offsets, 3 * v)
      morphs.set(morph.name, all)
    }
    for (let i = 0; i < m.indices.length; i++) indices[c + i] = m.indices[i] + v
    for (const part of m.parts) parts.push({ ...part, start: part.start + c })
    v += m.positions.length / 3
    c += m.indices.length
  }
  const kept: Morph[] = [...morphs].map(([name, offsets]) => ({ name, offsets }))
  return { positions, normals, colors, uvs, indices, parts, ...(kept.length > 0 && { morphs: kept }) }
}
