import { readFileSync, writeFileSync } from 'node:fs'
import { beforeAll, describe, expect, it } from 'vitest'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import type { Layer } from '@chiraxis/core/layers'
import { angleOf, conjugate, multiply, quatAt } from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { emptyRecipe, hashBytes, readProject, writeProject, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { createDerivation } from '@chiraxis/core/steps'
import { makeFigure, ODA } from '@chiraxis/demo/figures'
import { FERRY_POLE, propFile } from '@chiraxis/demo/props'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'
import { commandLine } from './running'

const { file, chiraxis } = commandLine('bake')
const files = new Map<string, Uint8Array>()
function put(name: string, bytes: Uint8Array): FileRef {
  const hash = hashBytes(bytes)
  files.set(hash, bytes)
  return { name, hash, size: bytes.length }
}
const nod: Layer = {
  id: 'nod',
  name: 'Nod',
  mode: 'add',
  weight: 1,
  keys: [
    { at: 0, channel: 'turn head', value: [0.5, 0, 0] },
    { at: 0, channel: 'reach rightHand', value: [0, 0.1, 0.1] },
  ],
}
let recipe: Recipe

describe('bake', () => {
  beforeAll(async () => {
    const { skeleton, take } = record(
      MOVES.find(m => m.name === 'pole push')!,
      SOUTH,
    )
    recipe = {
      ...emptyRecipe('Clerk'),
      body: put('clerk.glb', await writeGlb({ name: 'clerk', mesh: makeFigure(ODA, { vertices: 5000 }).mesh })),
      takes: [
        {
          id: 'p',
          name: 'push',
          performer: 'South',
          file: put('push.bvh', writeBvh(skeleton, take)),
          index: 0,
          adjust: { trim: [1, 3] },
          layers: [nod],
          props: [
            {
              prop: 'pole',
              at: 0,
              by: 'rightHand',
              grip: 'grip lower',
              second: { by: 'leftHand', grip: 'grip upper' },
              aim: 'between',
            },
            { prop: 'pole', at: 2, by: 'ground' },
          ],
        },
      ],
      props: [
        {
          id: 'pole',
          name: 'Ferry pole',
          file: put('pole.glb', propFile(FERRY_POLE)),
          beside: [],
          carry: { by: 'leftHand', grip: 'grip lower' },
        },
      ],
    }
    writeFileSync(file('clerk.chiraxis'), await writeProject(recipe, async f => files.get(f.hash)!))
  })
  const shown = async (r: Recipe, id: string, all: ReadonlyMap<string, Uint8Array>): Promise<Take> =>
    (await createDerivation(async f => all.get(f.hash)!).get('take', r, { of: id })).take
  const worst = (a: Take, b: Take): number => {
    let most = 0
    for (let i = 0; i < a.rotations.length / 4; i++)
      most = Math.max(most, angleOf(multiply(conjugate(quatAt(a.rotations, i)), quatAt(b.rotations, i))))
    return (most * 180) / Math.PI
  }

  it('writes the take with its layers, and what it carries as a node of its own', async () => {
    const { code, report } = await chiraxis('bake', file('clerk.chiraxis'), '--take', 'push', '--out', file('push.glb'))
    expect(code).toBe(0)
    expect(report.layers).toEqual([{ name: 'Nod', keys: 2 }])
    expect((report.props as { name: string }[])[0].name).toBe('Ferry pole')
    const read = await readFile(readFileSync(file('push.glb')), 'push.glb')
    expect(read.takes.map(t => t.name)).toEqual(['push'])
    expect(read.document!.json.nodes!.some(n => n.name === 'Ferry pole')).toBe(true)
    const wanted = await shown(recipe, 'p', files)
    expect(read.takes[0].frames).toBe(wanted.frames)
    // the file tells joints in another order
    const { skeleton } = await createDerivation(async f => files.get(f.hash)!).get('rig', recipe)
    const to = skeleton.names.map(n => read.skeleton!.names.indexOf(n))
    const n = skeleton.names.length
    const rotations = new Float32Array(wanted.rotations.length)
    for (let f = 0; f < wanted.frames; f++)
      to.forEach((k, j) =>
        rotations.set(read.takes[0].rotations.subarray(4 * (f * n + k), 4 * (f * n + k + 1)), 4 * (f * n + j)),
      )
    expect(worst(wanted, { ...wanted, rotations })).toBeLessThan(0.01)
  })
  it('lays layers of a file over it, for formats of motion alone as well', async () => {
    const turned = { ...nod, id: 'look', name: 'Look', keys: [{ at: 0, channel: 'turn head', value: [0, 0.6, 0] }] }
    writeFileSync(file('look.json'), JSON.stringify({ layers: [turned] }))
    const args = ['bake', file('clerk.chiraxis'), '--take', 'push', '--layers', file('look.json')]
    const { code, report } = await chiraxis(...args, '--out', file('push.bvh'))
    expect(code).toBe(0)
    expect((report.layers as { name: string }[]).map(l => l.name)).toEqual(['Nod', 'Look'])
    const { skeleton, takes } = await readFile(readFileSync(file('push.bvh')), 'push.bvh')
    expect(takes).toHaveLength(1)
    expect(skeleton!.names).toContain('head')
  })
  it('keeps it in a project as a take of its own, which comes back as it is', async () => {
    const { code, report } = await chiraxis(
      'bake',
      file('clerk.chiraxis'),
      '--take',
      'push',
      '--save',
      file('two.chiraxis'),
    )
    expect(code).toBe(0)
    expect(report.baked).toBe('push, baked')
    const { recipe: saved, files: all } = await readProject(readFileSync(file('two.chiraxis')))
    expect(saved.takes.map(t => t.name)).toEqual(['push', 'push, baked'])
    // the take it came from is as it was
    expect(saved.takes[0]).toEqual(recipe.takes[0])
    const baked = saved.takes[1]
    expect(baked.props!.map(k => [k.at, k.by])).toEqual([
      [0, 'rightHand'],
      [1, 'ground'],
    ])
    const [a, b] = [await shown(recipe, 'p', files), await shown(saved, baked.id, all)]
    expect(b.frames).toBe(a.frames)
    expect(worst(a, b)).toBeLessThan(0.05)
  })
  it('refuses what is not there and what is no layer, in words', async () => {
    const gone = await chiraxis('bake', file('clerk.chiraxis'), '--take', 'dive', '--out', file('x.glb'))
    expect([gone.code, (gone.report.error as { code: string }).code]).toEqual([1, 'no-take'])
    writeFileSync(file('wrong.json'), '{"layers":[{"name":3}]}')
    const args = [
      'bake',
      file('clerk.chiraxis'),
      '--take',
      'push',
      '--layers',
      file('wrong.json'),
      '--out',
      file('x.glb'),
    ]
    const wrong = await chiraxis(...args)
    expect(wrong.code).toBe(1)
    expect(wrong.stderr).toContain('wrong.json does not hold layers')
    const nowhere = await chiraxis('bake', file('clerk.chiraxis'), '--take', 'push')
    expect(nowhere.stderr).toContain('Tell a file to write')
  })
})
