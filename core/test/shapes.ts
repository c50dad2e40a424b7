import { meshOf, type Mesh } from '../src/mesh'

/** A closed box, faces outwards. */
export function box(min: readonly number[], max: readonly number[]): Mesh {
  const p: number[] = []
  for (let i = 0; i < 8; i++) p.push(i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2])
  const quads = [
    [0, 4, 6, 2],
    [1, 3, 7, 5],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 2, 3, 1],
    [4, 5, 7, 6],
  ]
  return meshOf(Float32Array.from(p), Uint32Array.from(quads.flatMap(([a, b, c, d]) => [a, b, c, a, c, d])), 'box')
}

/** A closed tube of rings along a list of points, with a radius each. */
export function tube(line: readonly (readonly number[])[], radius: number, around = 16): Mesh {
  const p: number[] = []
  const f: number[] = []
  line.forEach(([x, y, z]) => {
    for (let a = 0; a < around; a++) {
      const t = (2 * Math.PI * a) / around
      p.push(x + radius * Math.cos(t), y, z + radius * Math.sin(t))
    }
  })
  const at = (r: number, a: number): number => r * around + (a % around)
  for (let r = 0; r + 1 < line.length; r++)
    for (let a = 0; a < around; a++) {
      f.push(at(r, a), at(r + 1, a), at(r + 1, a + 1), at(r, a), at(r + 1, a + 1), at(r, a + 1))
    }
  const bottom = p.length / 3
  p.push(...line[0])
  const top = p.length / 3
  p.push(...line[line.length - 1])
  for (let a = 0; a < around; a++)
    f.push(bottom, at(0, a), at(0, a + 1), top, at(line.length - 1, a + 1), at(line.length - 1, a))
  return meshOf(Float32Array.from(p), Uint32Array.from(f), 'tube')
}

/** Several bodies in one. */
export function join(...meshes: readonly Mesh[]): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  for (const m of meshes) {
    const base = positions.length / 3
    positions.push(...m.positions)
    for (const i of m.indices) indices.push(i + base)
  }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices))
}
