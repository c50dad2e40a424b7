import { describe, expect, it } from 'vitest'
import { hashBytes } from '@chiraxis/core/recipe'
import { boundsOf } from '@chiraxis/core/mesh'
import { makeFigure, PIM, PIM_COLORS, variedProportions } from '../src/figures'
import { odaBody } from './bodies'

const fingerprint = (f: ReturnType<typeof makeFigure>): string =>
  hashBytes(new Uint8Array(f.mesh.positions.buffer)) + hashBytes(new Uint8Array(f.mesh.indices.buffer as ArrayBuffer))

describe('made bodies', () => {
  it('are the same each time they are made', () => {
    expect(fingerprint(makeFigure(variedProportions(5), { vertices: 3000 }))).toBe(
      fingerprint(makeFigure(variedProportions(5), { vertices: 3000 })),
    )
    expect(fingerprint(makeFigure(variedProportions(5), { vertices: 3000 }))).not.toBe(
      fingerprint(makeFigure(variedProportions(6), { vertices: 3000 })),
    )
  })
  it('are closed: every edge has an even number of faces', () => {
    const { indices } = odaBody().mesh
    const edges = new Map<string, number>()
    for (let i = 0; i < indices.length; i += 3)
      for (const [a, b] of [
        [0, 1],
        [1, 2],
        [2, 0],
      ]) {
        const key = [indices[i + a], indices[i + b]].sort((x, y) => x - y).join()
        edges.set(key, (edges.get(key) ?? 0) + 1)
      }
    expect([...edges.values()].filter(n => n % 2 !== 0)).toHaveLength(0)
  })
  it('stand on the ground, about as tall as told, with about as many vertices as asked', () => {
    const pim = makeFigure(PIM, { vertices: 9000, palette: PIM_COLORS, eyes: true })
    const { min, max } = boundsOf(pim.mesh.positions)
    expect(min[1]).toBeCloseTo(0, 6)
    expect(max[1]).toBeCloseTo(PIM.height, 1)
    expect(Math.abs(pim.mesh.positions.length / 3 - 9000)).toBeLessThan(1200)
    expect(pim.labels).toHaveLength(pim.mesh.positions.length / 3)
    expect(pim.mesh.parts.map(p => p.name)).toEqual(['body', 'left eye', 'right eye'])
  })
})
