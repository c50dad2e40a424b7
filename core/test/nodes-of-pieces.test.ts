import { describe, expect, it } from 'vitest'
import { deliver, readFile } from '../src/formats'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { bodyContentOf, createDerivation } from '../src/steps'
import { cleanDoll, doll } from './figure'
import { box } from './shapes'
import type { Mesh } from '../src/mesh'

/** An OBJ of several objects, one of them of two materials. */
function obj(): string {
  const lines: string[] = []
  let base = 1
  const put = (name: string, mesh: Mesh, materials: readonly string[]): void => {
    lines.push(`o ${name}`)
    for (let v = 0; v < mesh.positions.length; v += 3)
      lines.push(`v ${[...mesh.positions.subarray(v, v + 3)].join(' ')}`)
    const faces = mesh.indices.length / 3
    for (let f = 0; f < faces; f++) {
      if (f % Math.ceil(faces / materials.length) === 0)
        lines.push(`usemtl ${materials[Math.floor(f / Math.ceil(faces / materials.length))]}`)
      lines.push(`f ${[0, 1, 2].map(k => mesh.indices[3 * f + k] + base).join(' ')}`)
    }
    base += mesh.positions.length / 3
  }
  put('Sailor', doll(), ['skin', 'cloth'])
  put('Cap', box([-0.08, 1.7, -0.08], [0.08, 1.76, 0.08]), ['felt'])
  put('Lamp', box([0.7, 1.2, -0.05], [0.8, 1.3, 0.05]), ['brass'])
  return lines.join('\n')
}

describe('pieces of a file that is no glTF', () => {
  it('are nodes of their own names; parts that share vertices are one mesh', async () => {
    const bytes = new TextEncoder().encode(obj())
    const body = { name: 'sailor.obj', hash: hashBytes(bytes), size: bytes.length }
    const recipe: Recipe = { ...emptyRecipe('sailor'), body }
    const d = createDerivation(async () => bytes)
    const { bytes: out, proof } = await deliver(await bodyContentOf(d, recipe))
    expect(proof.validatorErrors).toBe(0)
    const { document, mesh } = await readFile(out, 'a.glb')
    const { nodes, meshes } = document!.json
    const worn = nodes!.filter(n => n.mesh !== undefined)
    expect(worn.map(n => n.name)).toEqual(['Sailor', 'Cap', 'Lamp'])
    expect(worn.map(n => meshes![n.mesh!].primitives.length)).toEqual([2, 1, 1])
    const came = (await readFile(bytes, 'sailor.obj')).mesh!
    expect(mesh!.parts.map(p => [p.name, p.count])).toEqual(came.parts.map(p => [p.name, p.count]))
    expect(mesh!.positions.length).toBe(came.positions.length)
  })
  it('of a skinned figure all follow its skeleton', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const half = 3 * Math.floor(mesh.indices.length / 6)
    const parts = [
      { ...mesh.parts[0], name: 'one', count: half },
      { ...mesh.parts[0], name: 'two', start: half, count: mesh.indices.length - half },
    ]
    const { bytes } = await deliver({ name: 'doll', mesh: { ...mesh, parts }, skeleton, skin })
    const { document } = await readFile(bytes, 'a.glb')
    for (const n of document!.json.nodes!) if (n.mesh !== undefined) expect(n.skin).toBe(0)
  })
})
