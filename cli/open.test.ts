import { readFileSync, writeFileSync } from 'node:fs'
import { beforeAll, describe, expect, it } from 'vitest'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import {
  emptyRecipe,
  hashBytes,
  readProject,
  withSettings,
  writeProject,
  type FileRef,
  type Recipe,
} from '@chiraxis/core/recipe'
import { makeFigure, ODA, PIM } from '@chiraxis/demo/figures'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'
import { commandLine } from './running'

const { file, chiraxis } = commandLine('open')

beforeAll(async () => {
  const files = new Map<string, Uint8Array>()
  const put = (name: string, bytes: Uint8Array): FileRef => {
    const hash = hashBytes(bytes)
    files.set(hash, bytes)
    return { name, hash, size: bytes.length }
  }
  const walk = record(
    MOVES.find(m => m.name === 'walk')!,
    SOUTH,
  )
  const take = put('walk.bvh', writeBvh(walk.skeleton, walk.take))
  const recipe: Recipe = {
    ...emptyRecipe('Clerk'),
    body: put('clerk.glb', await writeGlb({ name: 'clerk', mesh: makeFigure(ODA, { vertices: 5000 }).mesh })),
    landmarks: { edits: { leftElbow: [0.22, 0.78, -0.01] } },
    bones: { ...emptyRecipe().bones, edits: [{ kind: 'rename', names: { head: 'skull' } }] as never },
    takes: [{ id: 'w', name: 'stroll', performer: 'South', file: take, index: 0 }],
  }
  writeFileSync(file('clerk.chiraxis'), await writeProject(recipe, async f => files.get(f.hash)!))
  writeFileSync(file('pim.glb'), await writeGlb({ name: 'pim', mesh: makeFigure(PIM, { vertices: 5000 }).mesh }))
})

describe('chiraxis open', () => {
  it('delivers a saved project with its takes and its work by hand', async () => {
    const { code, report } = await chiraxis('open', file('clerk.chiraxis'), '--out', file('clerk-out.glb'))
    expect(code).toBe(0)
    expect(report).toMatchObject({
      ok: true,
      name: 'Clerk',
      body: 'clerk.glb',
      delivered: ['stroll'],
      proof: { validatorErrors: 0 },
    })
    const read = await readFile(new Uint8Array(readFileSync(file('clerk-out.glb'))), 'a.glb')
    expect(read.skeleton!.names).toContain('skull')
    expect(read.takes.map(t => t.name)).toEqual(['stroll'])
  })
  it('lays settings over it, makes it again on another body, and saves both as a project', async () => {
    const settings = {
      name: 'Second',
      straighten: { height: 1.5 },
      skin: { influences: 2 },
      transfer: { ground: false },
    }
    writeFileSync(file('set.json'), JSON.stringify(settings))
    const args = ['open', file('clerk.chiraxis'), '--body', file('pim.glb'), '--set', file('set.json')]
    const { code, report } = await chiraxis(
      ...args,
      '--takes',
      'none',
      '--out',
      file('second.glb'),
      '--save',
      file('second.chiraxis'),
    )
    expect(code).toBe(0)
    expect(report).toMatchObject({ name: 'Second', body: 'pim.glb', delivered: [], edits: { landmarks: 1, joints: 1 } })
    expect(report.height as number).toBeCloseTo(1.5, 4)
    const read = await readFile(new Uint8Array(readFileSync(file('second.glb'))), 'a.glb')
    for (let v = 0; v < 200; v++)
      expect(
        Array.from(
          { length: read.skin!.influences },
          (_, k) => read.skin!.weights[v * read.skin!.influences + k],
        ).filter(w => w > 0).length,
      ).toBeLessThan(3)
    const { recipe } = await readProject(new Uint8Array(readFileSync(file('second.chiraxis'))))
    expect(recipe).toMatchObject({
      name: 'Second',
      skin: { influences: 2 },
      transfer: { ground: false },
      landmarks: { edits: { leftElbow: [0.22, 0.78, -0.01] } },
    })
    expect(recipe.body!.name).toBe('pim.glb')
  })
  it('refuses settings and takes there are none of, files of another kind, and writing over what it reads', async () => {
    writeFileSync(file('bad.json'), JSON.stringify({ skin: { infuences: 2 } }))
    const strange = await chiraxis('open', file('clerk.chiraxis'), '--set', file('bad.json'))
    expect([strange.code, strange.stderr]).toEqual([1, expect.stringContaining('There is no setting skin.infuences.')])
    const none = await chiraxis('open', file('clerk.chiraxis'), '--takes', 'jig', '--out', file('x.glb'))
    expect([none.code, none.stderr]).toEqual([1, expect.stringContaining('The project has no take jig.')])
    const named = await chiraxis('open', file('clerk.chiraxis'), '--out', file('x.vrm'))
    expect([named.code, named.stderr]).toEqual([1, expect.stringContaining('A file named .vrm cannot be written here')])
    const over = await chiraxis('open', file('clerk.chiraxis'), '--save', file('clerk.chiraxis'))
    expect([over.code, over.stderr]).toEqual([1, expect.stringContaining('would be written over')])
  })
})

describe('settings laid over a recipe', () => {
  const recipe = emptyRecipe('a')
  it('change what they name and leave the rest', () => {
    const next = withSettings(recipe, {
      bones: { plan: { flex: 2 } },
      pieces: { hat: { role: 'rigid' } },
      mirrorHalf: 'left',
    })
    expect(next).toEqual({
      ...recipe,
      mirrorHalf: 'left',
      pieces: { hat: { role: 'rigid' } },
      bones: { ...recipe.bones, plan: { ...recipe.bones.plan, flex: 2 } },
    })
    expect(
      withSettings({ ...recipe, straighten: { unit: 'cm', turn: 3 } }, { straighten: { unit: null } }).straighten,
    ).toEqual({ turn: 3 })
  })
  it.each([
    [[], /object/],
    [{ body: null }, /no body/],
    [{ skin: { influences: 99 } }, /skin\.influences/],
    [{ straighten: { up: 'north' } }, /straighten\.up/],
    [{ transfer: { gravity: 1 } }, /no setting transfer\.gravity/],
  ])('are refused with the path: %j', (settings, words) => expect(() => withSettings(recipe, settings)).toThrow(words))
})
