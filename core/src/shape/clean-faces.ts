import { weldByPosition, weldedIndices, type Mesh, type MeshPart } from '../mesh'

/** Faces turned alike piece by piece and outwards, those without area taken out. Vertices stay as they are. */
export function cleanFaces(mesh: Mesh): Mesh {
  const { positions } = mesh
  const weld = weldByPosition(positions)
  const n = weld.first.length
  const faces = mesh.indices.length / 3
  const w = weldedIndices(mesh.indices, weld)
  const area = (f: number): number => {
    const [a, b, c] = [mesh.indices[3 * f], mesh.indices[3 * f + 1], mesh.indices[3 * f + 2]]
    const ux = positions[3 * b] - positions[3 * a],
      uy = positions[3 * b + 1] - positions[3 * a + 1],
      uz = positions[3 * b + 2] - positions[3 * a + 2]
    const vx = positions[3 * c] - positions[3 * a],
      vy = positions[3 * c + 1] - positions[3 * a + 1],
      vz = positions[3 * c + 2] - positions[3 * a + 2]
    return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
  }
  const keep = new Uint8Array(faces)
  for (let f = 0; f < faces; f++)
    keep[f] =
      w[3 * f] !== w[3 * f + 1] && w[3 * f + 1] !== w[3 * f + 2] && w[3 * f] !== w[3 * f + 2] && area(f) > 0 ? 1 : 0
  // faces by edge; an edge with more than two tells nothing about turning
  const edges = new Map<number, number[]>()
  for (let f = 0; f < faces; f++)
    if (keep[f])
      for (let k = 0; k < 3; k++) {
        const a = w[3 * f + k],
          b = w[3 * f + ((k + 1) % 3)]
        const key = Math.min(a, b) * n + Math.max(a, b)
        const list = edges.get(key)
        if (list) list.push(f)
        else edges.set(key, [f])
      }
  const turned = new Int8Array(faces)
  const forward = (f: number, a: number, b: number): boolean =>
    [0, 1, 2].some(k => w[3 * f + k] === a && w[3 * f + ((k + 1) % 3)] === b)
  for (let seed = 0; seed < faces; seed++) {
    if (!keep[seed] || turned[seed]) continue
    const piece = [seed]
    turned[seed] = 1
    let open = false
    for (let i = 0; i < piece.length; i++) {
      const f = piece[i]
      for (let k = 0; k < 3; k++) {
        const a = w[3 * f + k],
          b = w[3 * f + ((k + 1) % 3)]
        const list = edges.get(Math.min(a, b) * n + Math.max(a, b))!
        if (list.length !== 2) {
          open ||= list.length === 1
          continue
        }
        const g = list[0] === f ? list[1] : list[0]
        if (turned[g]) continue
        turned[g] = forward(g, a, b) ? (-turned[f] as 1 | -1) : turned[f]
        piece.push(g)
      }
    }
    // a closed piece encloses a volume; an open one keeps the way most of its faces looked
    let volume = 0,
      same = 0
    for (const f of piece) {
      const [a, b, c] = [0, 1, 2].map(k => 3 * mesh.indices[3 * f + k])
      volume +=
        turned[f] *
        (positions[a] * (positions[b + 1] * positions[c + 2] - positions[b + 2] * positions[c + 1]) +
          positions[a + 1] * (positions[b + 2] * positions[c] - positions[b] * positions[c + 2]) +
          positions[a + 2] * (positions[b] * positions[c + 1] - positions[b + 1] * positions[c]))
      same += turned[f]
    }
    if (open ? same < 0 : volume < 0) for (const f of piece) turned[f] = -turned[f] as 1 | -1
  }
  const indices: number[] = []
  const parts: MeshPart[] = mesh.parts.map(part => {
    const start = indices.length
    for (let f = part.start / 3; f < (part.start + part.count) / 3; f++) {
      if (!keep[f]) continue
      const [a, b, c] = [mesh.indices[3 * f], mesh.indices[3 * f + 1], mesh.indices[3 * f + 2]]
      indices.push(a, ...(turned[f] < 0 ? [c, b] : [b, c]))
    }
    return { ...part, start, count: indices.length - start }
  })
  return { ...mesh, indices: Uint32Array.from(indices), parts, normals: undefined }
}
