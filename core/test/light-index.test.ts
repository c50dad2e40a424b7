import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { lightParts, type Mesh } from '@chiraxis/core/mesh'
import { seededRandom } from '@chiraxis/core/math'

/** Balls beside one another, a part each, of so many rings of so many corners. */
function balls(sizes: readonly number[], random: () => number): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  const parts = sizes.map((n, p) => {
    const start = indices.length
    const base = positions.length / 3
    const r = 0.5 + random()
    for (let i = 0; i <= n; i++)
      for (let j = 0; j < 2 * n; j++) {
        const [a, b] = [(Math.PI * i) / n, (Math.PI * j) / n]
        positions.push(4 * p + r * Math.sin(a) * Math.cos(b), r * Math.cos(a), r * Math.sin(a) * Math.sin(b))
      }
    for (let i = 0; i < n; i++)
      for (let j = 0; j < 2 * n; j++) {
        const at = (row: number, column: number): number => base + row * 2 * n + (column % (2 * n))
        if (i > 0) indices.push(at(i, j), at(i, j + 1), at(i + 1, j))
        if (i < n - 1) indices.push(at(i, j + 1), at(i + 1, j + 1), at(i + 1, j))
      }
    return { name: `ball ${p}`, start, count: indices.length - start, color: [1, 1, 1] as const }
  })
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices), parts }
}

describe('a mesh of fewer triangles', () => {
  it('keeps each part to its own vertices and near its surface, and small parts as they are', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.integer({ min: 1, max: 1e6 }),
        fc.array(fc.integer({ min: 4, max: 40 }), { minLength: 1, maxLength: 4 }),
        async (seed, sizes) => {
          const mesh = balls(sizes, seededRandom(seed))
          const wanted = Math.ceil(mesh.indices.length / 3 / 4)
          const light = await lightParts(mesh, wanted)
          expect(light.ranges).toHaveLength(2 * mesh.parts.length)
          let at = 0
          mesh.parts.forEach((part, p) => {
            const [start, count] = [light.ranges[2 * p], light.ranges[2 * p + 1]]
            // one after the other, nothing between
            expect(start).toBe(at)
            at += count
            const own = mesh.indices.subarray(part.start, part.start + part.count)
            const fewer = light.indices.subarray(start, start + count)
            const known = new Set(own)
            expect(fewer.every(v => known.has(v))).toBe(true)
            if (part.count <= 900) expect(fewer).toEqual(own)
            else {
              expect(count).toBeLessThan(Math.max(1400, 0.45 * part.count))
              // as large as it was in every direction
              for (let k = 0; k < 3; k++) {
                const extent = (list: Uint32Array): number => {
                  const values = Array.from(list, v => mesh.positions[3 * v + k])
                  return values.reduce((m, v) => Math.max(m, v)) - values.reduce((m, v) => Math.min(m, v))
                }
                expect(extent(fewer) / extent(own)).toBeGreaterThan(0.85)
              }
            }
          })
          expect(light.indices).toHaveLength(at)
        },
      ),
      { numRuns: 20 },
    )
  })
  it('is the mesh itself where it has no more than are wanted', async () => {
    const mesh = balls([6, 9], seededRandom(3))
    const light = await lightParts(mesh, 1e6)
    expect(light.indices).toEqual(mesh.indices)
    expect([...light.ranges]).toEqual(mesh.parts.flatMap(p => [p.start, p.count]))
  })
})
