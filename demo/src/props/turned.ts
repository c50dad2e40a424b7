import { plainMaterial, vertexNormals, type Material, type Mesh, type MeshPart } from '@chiraxis/core/mesh'
import { cross, normalize, scale, sub, type Vec3 } from '@chiraxis/core/math'

type Color = readonly [number, number, number]

/** A part being built: corners and faces of one material. */
export interface Piece {
  readonly name: string
  readonly color: Color
  readonly metallic?: number
  readonly roughness?: number
  readonly positions: number[]
  readonly indices: number[]
}

/** A closed surface turned about the vertical: rings of so many corners through a profile of radius and height, from below. */
export function turned(
  name: string,
  color: Color,
  profile: readonly (readonly [number, number])[],
  around = 24,
): Piece {
  const positions: number[] = []
  const indices: number[] = []
  for (const [r, y] of profile)
    for (let i = 0; i < around; i++) {
      const a = (2 * Math.PI * i) / around
      positions.push(r * Math.cos(a), y, r * Math.sin(a))
    }
  for (let k = 0; k + 1 < profile.length; k++)
    for (let i = 0; i < around; i++) {
      const [a, b] = [k * around + i, k * around + ((i + 1) % around)]
      indices.push(a, a + around, b, b, a + around, b + around)
    }
  // both ends closed by a corner in their middle
  for (const [ring, turn] of [
    [0, false],
    [profile.length - 1, true],
  ] as const) {
    const middle = positions.length / 3
    positions.push(0, profile[ring][1], 0)
    for (let i = 0; i < around; i++) {
      const [a, b] = [ring * around + i, ring * around + ((i + 1) % around)]
      indices.push(...(turn ? [middle, b, a] : [middle, a, b]))
    }
  }
  return { name, color, positions, indices }
}

/** A closed tube along a line of places. */
export function tube(name: string, color: Color, line: readonly Vec3[], radius: number, around = 10): Piece {
  const positions: number[] = []
  const indices: number[] = []
  let side: Vec3 = [0, 0, 1]
  line.forEach((p, k) => {
    const way = normalize(sub(line[Math.min(k + 1, line.length - 1)], line[Math.max(0, k - 1)]))
    side = normalize(sub(side, scale(way, side[0] * way[0] + side[1] * way[1] + side[2] * way[2])))
    const other = cross(way, side)
    for (let i = 0; i < around; i++) {
      const a = (2 * Math.PI * i) / around
      for (let c = 0; c < 3; c++) positions.push(p[c] + radius * (Math.cos(a) * side[c] + Math.sin(a) * other[c]))
    }
  })
  for (let k = 0; k + 1 < line.length; k++)
    for (let i = 0; i < around; i++) {
      const [a, b] = [k * around + i, k * around + ((i + 1) % around)]
      indices.push(a, b, a + around, b, b + around, a + around)
    }
  for (const [ring, turn] of [
    [0, true],
    [line.length - 1, false],
  ] as const) {
    const middle = positions.length / 3
    positions.push(...line[ring])
    for (let i = 0; i < around; i++) {
      const [a, b] = [ring * around + i, ring * around + ((i + 1) % around)]
      indices.push(...(turn ? [middle, b, a] : [middle, a, b]))
    }
  }
  return { name, color, positions, indices }
}

/** Pieces as one mesh, a material each. */
export function assembled(pieces: readonly Piece[]): { mesh: Mesh; materials: Material[] } {
  const positions: number[] = []
  const indices: number[] = []
  const parts: MeshPart[] = []
  const materials = pieces.map(p => ({
    ...plainMaterial(p.name, p.color),
    metallic: p.metallic ?? 0,
    roughness: p.roughness ?? 0.85,
  }))
  pieces.forEach((p, material) => {
    const from = positions.length / 3
    parts.push({ name: p.name, start: indices.length, count: p.indices.length, color: p.color, material })
    positions.push(...p.positions)
    indices.push(...p.indices.map(i => i + from))
  })
  const mesh = { positions: Float32Array.from(positions), indices: Uint32Array.from(indices), parts }
  return { mesh: { ...mesh, normals: vertexNormals(mesh.positions, mesh.indices) }, materials }
}
