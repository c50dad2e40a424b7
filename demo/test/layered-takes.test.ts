import { beforeAll, describe, expect, it } from 'vitest'
import { readFile, writeBvh, writeGlb } from '@chiraxis/core/formats'
import { layerParts, type Layer } from '@chiraxis/core/layers'
import { emptyRecipe, hashBytes, writeProject, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { figureJob, openFigure } from '@chiraxis/core/steps'
import { worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import type { Take } from '@chiraxis/core/motion'
import { makeFigure, ODA } from '../src/figures'
import { MOVES, record, SOUTH } from '../src/takes'

const raise: Layer = {
  id: 'raise',
  name: 'Raise',
  mode: 'add',
  weight: 1,
  keys: [
    { at: 0.5, channel: 'reach rightHand', value: [0, 0, 0] },
    { at: 1, channel: 'reach rightHand', value: [0, 0.2, 0] },
    { at: 1.5, channel: 'reach rightHand', value: [0, 0, 0] },
  ],
}
let body: Uint8Array, motion: Uint8Array, recipe: Recipe
beforeAll(async () => {
  body = await writeGlb({ name: 'Oda', mesh: makeFigure(ODA, { vertices: 8_000 }).mesh })
  const recorded = record(
    MOVES.find(m => m.name === 'walk')!,
    SOUTH,
  )
  motion = writeBvh(recorded.skeleton, recorded.take)
  const ref = (name: string, bytes: Uint8Array): FileRef => ({ name, hash: hashBytes(bytes), size: bytes.length })
  recipe = {
    ...emptyRecipe('Oda'),
    body: ref('oda.glb', body),
    takes: [{ id: 'walk', name: 'walk', performer: 'South', file: ref('walk.bvh', motion), index: 0, layers: [raise] }],
  }
})
const project = (of: Recipe): Promise<Uint8Array> =>
  writeProject(of, async file => (file.hash === of.body!.hash ? body : motion))

const hand = (s: Skeleton, t: Take, f: number): number[] => {
  const J = s.names.length
  const j = 3 * s.names.indexOf('rightHand')
  const { positions } = worldPose(s, t.translations, t.rotations, f * J)
  return [positions[j]!, positions[j + 1]!, positions[j + 2]!]
}
const apart = (a: number[], b: number[]): number => Math.hypot(...a.map((v, k) => v - b[k]!))

describe('a layer of a project', () => {
  it('is in the file that is delivered, the take below it as it was', async () => {
    const bytes = await project(recipe)
    const { bytes: glb, report } = await figureJob({ figure: { name: 'oda.chiraxis', bytes }, takes: ['walk'] })
    expect(report.takes).toEqual(['walk'])
    expect(report.findings.filter(f => f.rule === 'lost-edit')).toEqual([])
    const back = await readFile(glb, 'oda.glb')
    const { recipe: opened, derivation } = await openFigure({ name: 'oda.chiraxis', bytes })
    const performed = await derivation.get('take', opened, { of: 'walk' })
    const { skeleton } = await derivation.get('rig', opened)
    const written = back.takes[0]!
    const f = Math.round(performed.take.fps)
    const here = hand(skeleton, performed.take, f)
    expect(apart(hand(back.skeleton!, written, f), here)).toBeLessThan(1e-4)
    // a fifth of an arm higher than below
    const played = {
      skeleton,
      joints: performed.figure.joints,
      take: performed.take,
      frame: performed.figureFrame,
    }
    const { long } = layerParts(played).limbs.get('rightHand')!
    expect(apart(here, hand(skeleton, performed.below!, f))).toBeCloseTo(0.2 * long, 3)
    expect(apart(hand(skeleton, performed.take, 0), hand(skeleton, performed.below!, 0))).toBe(0)
  })
  it('changes a take that came with its body, and leaves the others as they came', async () => {
    const two: Recipe = {
      ...recipe,
      takes: ['walk', 'amble'].map(name => ({ ...recipe.takes[0]!, id: name, name, layers: undefined })),
    }
    const first = await figureJob({ figure: { name: 'oda.chiraxis', bytes: await project(two) }, takes: 'all' })
    const came = await readFile(first.bytes, 'rigged.glb')
    const opened = await openFigure({ name: 'rigged.glb', bytes: first.bytes })
    const layered: Recipe = { ...opened.recipe, ownLayers: { 'own:walk': [raise] } }
    const bytes = await writeProject(layered, async () => first.bytes)
    const done = await figureJob({ figure: { name: 'rigged.chiraxis', bytes } })
    const back = await readFile(done.bytes, 'again.glb')
    expect(back.takes.map(t => t.name).sort()).toEqual(['amble', 'walk'])
    const of = (file: typeof came, name: string): Take => file.takes.find(t => t.name === name)!
    const f = Math.round(of(came, 'walk').fps)
    const lifted = (name: string, at: number): number =>
      apart(hand(back.skeleton!, of(back, name), at), hand(came.skeleton!, of(came, name), at))
    expect(lifted('walk', f)).toBeGreaterThan(0.05)
    expect(lifted('walk', 0)).toBeLessThan(1e-5)
    expect(lifted('amble', f)).toBeLessThan(1e-6)
  })
  it('is told where the figure has no such part, and costs nothing else', async () => {
    const wings: Recipe = {
      ...recipe,
      takes: [
        {
          ...recipe.takes[0]!,
          layers: [{ ...raise, keys: [...raise.keys, { at: 1, channel: 'turn leftWing1', value: [1, 0, 0] }] }],
        },
      ],
    }
    const { derivation } = await openFigure({ name: 'oda.chiraxis', bytes: await project(wings) })
    const found = await derivation.get('findings', wings, { of: ['walk'] })
    const lost = found.filter(f => f.rule === 'lost-edit')
    expect(lost.map(f => f.message)).toEqual([expect.stringMatching(/Raise, a layer of walk, has keys for .*wing/i)])
    const a = await derivation.get('take', wings, { of: 'walk' }),
      b = await derivation.get('take', recipe, { of: 'walk' })
    expect(a.take.rotations).toEqual(b.take.rotations)
  })
  it('survives another trim, pace and plan of the skeleton', async () => {
    const { derivation } = await openFigure({ name: 'oda.chiraxis', bytes: await project(recipe) })
    const lifted = async (of: Recipe, second: number): Promise<number> => {
      const { take, below } = await derivation.get('take', of, { of: 'walk' })
      const { skeleton } = await derivation.get('rig', of)
      const f = Math.round(second * take.fps)
      return apart(hand(skeleton, take, f), hand(skeleton, below ?? take, f))
    }
    const plain = await lifted(recipe, 1)
    const tuned = (adjust: Recipe['takes'][number]['adjust']): Recipe => ({
      ...recipe,
      takes: [{ ...recipe.takes[0]!, adjust }],
    })
    expect(await lifted(tuned({ trim: [0.6, 3] }), 0.4)).toBeCloseTo(plain, 3)
    expect(await lifted(tuned({ pace: 2 }), 0.5)).toBeCloseTo(plain, 3)
    const bare: Recipe = {
      ...recipe,
      bones: { ...recipe.bones, plan: { ...recipe.bones.plan, fingers: { left: 0, right: 0 } } },
    }
    expect(await lifted(bare, 1)).toBeCloseTo(plain, 3)
  })
})
