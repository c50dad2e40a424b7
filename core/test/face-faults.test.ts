import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { add, sub, type Vec3 } from '../src/math'
import { deliver, readFile, writeGlb } from '../src/formats'
import { meshOf, vertexNormals, type Mesh } from '../src/mesh'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { applySurfaceEdits, checkBody, cleanFaces, findFaceFaults, MOST_FAULTS } from '../src/shape'
import { bodyContentOf, createDerivation } from '../src/steps'
import { doll } from './figure'
import { box, join, tube } from './shapes'

const pipe = (): Mesh =>
  tube(
    Array.from({ length: 8 }, (_, i) => [0, i, 0]),
    1,
    12,
  )
const withFaces = (mesh: Mesh, faces: (face: number) => readonly number[][]): Mesh => {
  const indices: number[] = []
  for (let f = 0; f < mesh.indices.length / 3; f++) for (const c of faces(f)) indices.push(...c)
  return { ...mesh, indices: Uint32Array.from(indices), parts: [{ ...mesh.parts[0], count: indices.length }] }
}
const corners = (m: Mesh, f: number): [number, number, number] => [m.indices[3 * f], m.indices[3 * f + 1], m.indices[3 * f + 2]] // prettier-ignore
const turnedAt = (mesh: Mesh, which: ReadonlySet<number>): Mesh =>
  withFaces(mesh, f => {
    const [a, b, c] = corners(mesh, f)
    return [which.has(f) ? [a, c, b] : [a, b, c]]
  })
const middle = (m: Mesh, f: number): Vec3 => {
  const at = corners(m, f).map(v => [m.positions[3 * v], m.positions[3 * v + 1], m.positions[3 * v + 2]] as Vec3)
  return add(at[0], add(at[1], at[2])).map(x => x / 3) as unknown as Vec3
}

describe('faults of faces', () => {
  it('are none on clean bodies', async () => {
    for (const mesh of [box([0, 0, 0], [1, 2, 3]), pipe(), doll()]) expect(await findFaceFaults(mesh)).toEqual([])
  })
  it('turned ones are found as they were turned, whichever they are, and turning them back restores the body', async () => {
    const whole = pipe()
    const faces = whole.indices.length / 3
    await fc.assert(
      fc.asyncProperty(
        fc.uniqueArray(fc.integer({ min: 0, max: faces - 1 }), { minLength: 1, maxLength: Math.floor(faces / 3) }),
        async list => {
          const bad = turnedAt(whole, new Set(list))
          const found = await findFaceFaults(bad)
          expect(found.flatMap(f => [...f.faces]).sort((a, b) => a - b)).toEqual([...list].sort((a, b) => a - b))
          expect(found.every(f => f.kind === 'turned')).toBe(true)
          const { mesh, lost } = await applySurfaceEdits(bad, found.map(f => ({ kind: f.kind, at: f.centre }))) // prettier-ignore
          expect(lost).toEqual([])
          for (let f = 0; f < faces; f++) expect(rotated(corners(mesh, f))).toEqual(rotated(corners(whole, f)))
        },
      ),
      { numRuns: 60 },
    )
  })
  it('are mended one by one: the others stay', async () => {
    const whole = join(box([0, 0, 0], [1, 1, 1]), box([3, 0, 0], [4, 1, 1]))
    const bad = turnedAt(whole, new Set([2, 15]))
    const found = await findFaceFaults(bad)
    expect(found).toHaveLength(2)
    const { mesh } = await applySurfaceEdits(bad, [{ kind: 'turned', at: middle(bad, 15) }])
    const left = await findFaceFaults(mesh)
    expect(left.map(f => [...f.faces])).toEqual([[2]])
    expect(mesh.normals).toBe(bad.normals)
  })
  it('those without area are taken out, and nothing else', async () => {
    const whole = pipe()
    const bad = withFaces(whole, f => {
      const [a, b, c] = corners(whole, f)
      return f === 7 || f === 30 ? [[a, b, c], [a, a, b]] : [[a, b, c]] // prettier-ignore
    })
    const found = await findFaceFaults(bad)
    expect(found.map(f => f.kind)).toEqual(['empty', 'empty'])
    const { mesh } = await applySurfaceEdits(bad, found.map(f => ({ kind: f.kind, at: f.centre }))) // prettier-ignore
    expect([...mesh.indices]).toEqual([...whole.indices])
  })
  it('faces that lie there twice are taken out once; both sides of a sheet and a fin stay', async () => {
    const whole = box([0, 0, 0], [1, 1, 1])
    const [a, b, c] = corners(whole, 4)
    const doubled = withFaces(whole, f => (f === 4 ? [corners(whole, 4), [b, c, a]] : [corners(whole, f)]))
    const [fault, ...more] = await findFaceFaults(doubled)
    expect(more).toEqual([])
    expect([fault.kind, fault.mends.length]).toEqual(['crowded', 1])
    const { mesh } = await applySurfaceEdits(doubled, [{ kind: 'crowded', at: fault.centre }])
    expect((await checkBody(mesh)).crowded).toBe(0)
    expect(mesh.indices.length).toBe(whole.indices.length)
    // both sides of a sheet of four faces
    const sheet = meshOf(
      Float32Array.from([0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 1, 0, 1, 1, 0, 2, 1, 0]),
      Uint32Array.from([0, 1, 4, 0, 4, 3, 1, 2, 5, 1, 5, 4, 0, 4, 1, 0, 3, 4, 1, 5, 2, 1, 4, 5]),
    )
    const sides = await findFaceFaults(sheet)
    expect(sides.map(f => [f.kind, f.mends.length])).toEqual([['crowded', 0]])
    expect((await applySurfaceEdits(sheet, [{ kind: 'crowded', at: sides[0].centre }])).lost).toHaveLength(1)
  })
  it('are no more than can be stepped through', async () => {
    const whole = box([0, 0, 0], [1, 1, 1])
    const many = withFaces(whole, f => [corners(whole, f), ...Array.from({ length: 300 }, () => [0, 0, 1])])
    expect((await findFaceFaults(many)).length).toBe(MOST_FAULTS)
  })
  it('are mended all at once as one by one', async () => {
    const bad = turnedAt(doll(), new Set([5, 6, 7, 300, 900, 901]))
    const clean = await cleanFaces(bad)
    const found = await findFaceFaults(bad)
    const { mesh } = await applySurfaceEdits(bad, found.map(f => ({ kind: f.kind, at: f.centre }))) // prettier-ignore
    expect([...mesh.indices]).toEqual([...clean.indices])
    expect(await cleanFaces(clean)).toBe(clean)
  })
})

const rotated = ([a, b, c]: readonly number[]): number[] => (a < b && a < c ? [a, b, c] : b < c ? [b, c, a] : [c, a, b])

describe('faces that are turned', () => {
  it('leave with their normals turned, all others to the bit as they came', async () => {
    const plain = doll()
    const turned = new Set([200, 201, 202, 203])
    const bad = turnedAt(plain, turned)
    // normals of the artist's own that lean a little, and those of the turned faces looking in
    const normals = vertexNormals(plain.positions, plain.indices)
    const lone = new Set<number>()
    for (const f of turned) for (const v of corners(bad, f)) lone.add(v)
    for (let f = 0; f < bad.indices.length / 3; f++) if (!turned.has(f)) for (const v of corners(bad, f)) lone.delete(v)
    for (const v of lone) for (let k = 0; k < 3; k++) normals[3 * v + k] *= -1
    const bytes = await writeGlb({ name: 'doll', mesh: { ...bad, normals } })
    const body = { name: 'doll.glb', hash: hashBytes(bytes), size: bytes.length }
    const d = createDerivation(async () => bytes)
    const recipe: Recipe = { ...emptyRecipe('doll'), body }
    const { faces } = await d.get('faults', recipe)
    expect(faces.length).toBeGreaterThan(0)
    const mended: Recipe = { ...recipe, surface: faces.map(f => ({ kind: f.kind, at: f.centre })) }
    const out = await deliver(await bodyContentOf(d, mended))
    const back = await readFile(out.bytes, 'a.glb')
    const was = await readFile(bytes, 'a.glb')
    let different = 0
    for (let v = 0; v < lone.size + was.mesh!.positions.length / 3 - lone.size; v++) {
      const [a, b] = [was.mesh!.normals!, back.mesh!.normals!].map(n => [n[3 * v], n[3 * v + 1], n[3 * v + 2]] as Vec3)
      if (sub(a, b).every(x => x === 0)) continue
      different++
      expect(lone.has(v)).toBe(true)
      expect(add(a, b).every(x => Math.abs(x) < 1e-6)).toBe(true)
    }
    expect(different).toBe(lone.size)
    expect((await findFaceFaults(back.mesh!)).length).toBe(0)
  })
})
