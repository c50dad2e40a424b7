import { describe, expect, it } from 'vitest'
import { meshOf, type Mesh } from '../src/mesh'
import { applySurfaceEdits, checkBody, fillRims, findRims, triangulateRim } from '../src/shape'
import { deliver, readFile, writeGlb } from '../src/formats'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { bodyContentOf, createDerivation } from '../src/steps'
import { doll } from './figure'
import { box, join, tube } from './shapes'

/** A body with some triangles taken out. */
const without = (mesh: Mesh, faces: readonly number[]): Mesh => {
  const out = new Set(faces)
  const indices = Uint32Array.from([...mesh.indices].filter((_, i) => !out.has(Math.floor(i / 3))))
  return { ...mesh, indices, parts: [{ ...mesh.parts[0], count: indices.length }] }
}

describe('open rims', () => {
  it('are none on a closed body, and found shortest first', async () => {
    const closed = box([0, 0, 0], [1, 1, 1])
    expect(await findRims(closed)).toEqual([])
    const open = without(closed, [0])
    const [rim, ...more] = await findRims(open)
    expect(more).toEqual([])
    expect(rim.corners.length).toBe(3)
    expect(rim.fillable).toBe(true)
    const pipe = tube(
      Array.from({ length: 6 }, (_, i) => [0, i, 0]),
      1,
      16,
    )
    const rims = await findRims(without(pipe, [3, 40, 41]))
    expect(rims.length).toBeGreaterThanOrEqual(2)
    expect(rims.map(r => r.corners.length)).toEqual([...rims.map(r => r.corners.length)].sort((a, b) => a - b))
  })
  it('are closed with faces turned as those around, whatever is missing', async () => {
    for (const faces of [[0], [4, 5], [0, 1, 2, 3]]) {
      const open = without(box([0, 0, 0], [1, 2, 3]), faces)
      const filled = fillRims(open, await findRims(open))
      const check = await checkBody(filled)
      expect([check.holes, check.flipped, check.crowded]).toEqual([0, 0, 0])
      expect(filled.indices.length).toBe(36)
    }
  })
  it('of a flat polygon are closed with its own area, in one triangle less than corners by two', () => {
    const n = 24
    const positions = new Float32Array(3 * n)
    for (let i = 0; i < n; i++) {
      // a star: not convex
      const r = i % 2 ? 1 : 0.5
      positions.set([r * Math.cos((2 * Math.PI * i) / n), r * Math.sin((2 * Math.PI * i) / n), 0], 3 * i)
    }
    const triangles = triangulateRim(
      positions,
      Uint32Array.from({ length: n }, (_, i) => i),
    )
    expect(triangles.length).toBe(3 * (n - 2))
    let area = 0
    for (let f = 0; f < triangles.length; f += 3) {
      const [a, b, c] = [0, 1, 2].map(k => positions.subarray(3 * triangles[f + k], 3 * triangles[f + k] + 2))
      area += Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])) / 2
    }
    expect(area).toBeCloseTo(n * 0.25 * Math.sin((2 * Math.PI) / n), 5)
  })
  it('that nearly touch are brought together; what is farther stays', async () => {
    const left = without(box([0, 0, 0], [1, 1, 1]), [])
    const gap = 0.0004
    const right = box([1 + gap, 0, 0], [2 + gap, 1, 1])
    // the faces that look at each other are taken out of both
    const side = (m: Mesh, x: number): number[] =>
      Array.from({ length: m.indices.length / 3 }, (_, f) => f).filter(f =>
        [0, 1, 2].every(k => Math.abs(m.positions[3 * m.indices[3 * f + k]] - x) < 1e-6),
      )
    const both = join(without(left, side(left, 1)), without(right, side(right, 1 + gap)))
    expect((await checkBody(both)).holes).toBe(2)
    const { mesh, lost } = await applySurfaceEdits(both, [{ kind: 'weld', within: 0.001 }])
    expect(lost).toEqual([])
    expect((await checkBody(mesh)).openEdges).toBe(0)
    expect((await applySurfaceEdits(both, [{ kind: 'weld', within: 1e-5 }])).lost).toHaveLength(1)
  })
})

describe('a hole that is filled', () => {
  it('is filled in what is delivered, is a step of its own, and is told when it is gone', async () => {
    const open = without(doll(), [200, 201, 700])
    const bytes = await writeGlb({ name: 'doll', mesh: meshOf(open.positions, open.indices) })
    const body = { name: 'doll.glb', hash: hashBytes(bytes), size: bytes.length }
    const whole = await writeGlb({ name: 'doll', mesh: meshOf(doll().positions, doll().indices) })
    const other = { name: 'whole.glb', hash: hashBytes(whole), size: whole.length }
    const d = createDerivation(async f => (f.hash === body.hash ? bytes : whole))
    const recipe: Recipe = { ...emptyRecipe('doll'), body }
    const { rims } = await d.get('faults', recipe)
    const before = rims.length
    const small = rims.filter(r => r.fillable && r.corners.length <= 4)
    expect(small.length).toBeGreaterThan(0)
    const filled: Recipe = { ...recipe, surface: [{ kind: 'fill-small', edges: 4 }] }
    expect((await d.get('faults', filled)).rims.length).toBe(before - small.length)
    const { bytes: out, proof } = await deliver(await bodyContentOf(d, filled))
    expect(proof.validatorErrors).toBe(0)
    const back = await readFile(out, 'a.glb')
    expect(back.mesh!.indices.length).toBe((await d.get('shape', filled)).mesh.indices.length)
    expect(back.mesh!.indices.length).toBeGreaterThan(open.indices.length)
    const elsewhere: Recipe = { ...recipe, body: other, surface: [{ kind: 'fill', at: [9, 9, 9] }] }
    const found = await d.get('findings', elsewhere, { of: [] })
    expect(found.filter(f => f.rule === 'lost-edit').map(f => f.where)).toContain('surface')
  })
})
