import type { Mesh, MeshPart } from '../mesh'

/** The body without some of its pieces, and which vertex each one left was before. */
export function withoutPieces(mesh: Mesh, out: ReadonlySet<string>): { mesh: Mesh; from: Uint32Array | undefined } {
  if (!mesh.parts.some(p => out.has(p.name)) || mesh.parts.every(p => out.has(p.name))) return { mesh, from: undefined }
  const parts: MeshPart[] = []
  const kept: number[] = []
  let at = 0
  for (const p of mesh.parts) {
    if (out.has(p.name)) continue
    parts.push({ ...p, start: at })
    at += p.count
    kept.push(p.start, p.count)
  }
  const indices = new Uint32Array(at)
  at = 0
  for (let i = 0; i < kept.length; i += 2) {
    indices.set(mesh.indices.subarray(kept[i], kept[i] + kept[i + 1]), at)
    at += kept[i + 1]
  }
  const to = new Int32Array(mesh.positions.length / 3).fill(-1)
  const from: number[] = []
  for (let i = 0; i < indices.length; i++) {
    const v = indices[i]
    if (to[v] < 0) to[v] = from.push(v) - 1
    indices[i] = to[v]
  }
  const source = Uint32Array.from(from)
  return { mesh: { ...pickVertices(mesh, source), indices, parts }, from: source }
}

/** The named pieces alone, as positions and triangles over the body's own vertices. */
export function pieceIndices(mesh: Mesh, names: ReadonlySet<string>): Uint32Array {
  const chosen = mesh.parts.filter(p => names.has(p.name))
  const out = new Uint32Array(chosen.reduce((n, p) => n + p.count, 0))
  let at = 0
  for (const p of chosen) {
    out.set(mesh.indices.subarray(p.start, p.start + p.count), at)
    at += p.count
  }
  return out
}

/** Vertex data of a body for chosen vertices, in that order. */
export function pickVertices(mesh: Mesh, from: Uint32Array): Omit<Mesh, 'indices' | 'parts'> {
  const pick = (values: Float32Array | undefined, size: number): Float32Array | undefined => {
    if (!values) return undefined
    const out = new Float32Array(size * from.length)
    from.forEach((v, i) => {
      for (let k = 0; k < size; k++) out[size * i + k] = values[size * v + k]
    })
    return out
  }
  return {
    positions: pick(mesh.positions, 3)!,
    normals: pick(mesh.normals, 3),
    colors: pick(mesh.colors, 3),
    uvs: pick(mesh.uvs, 2),
    ...(mesh.morphs && { morphs: mesh.morphs.map(m => ({ name: m.name, offsets: pick(m.offsets, 3)! })) }),
  }
}
