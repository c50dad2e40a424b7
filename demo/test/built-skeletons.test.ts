import { describe, expect, it } from 'vitest'
import { findAll } from '@chiraxis/core/findings'
import { writeGlb } from '@chiraxis/core/formats'
import { emptyRecipe, hashBytes, type Recipe } from '@chiraxis/core/recipe'
import { moveRecord, type RigEdit } from '@chiraxis/core/rig'
import { atBind, findJoint, worldPose } from '@chiraxis/core/skeleton'
import { createDerivation, mendAll } from '@chiraxis/core/steps'
import type { Performed } from '@chiraxis/core/perform'
import type { Vec3 } from '@chiraxis/core/math'
import { makeFigure, makeHound, BRINDLE, ODA, PIM, variedProportions } from '../src/figures'

async function opened(mesh: Parameters<typeof writeGlb>[0]['mesh']) {
  const bytes = await writeGlb({ name: 'body', mesh })
  const derivation = createDerivation(async () => bytes)
  const recipe: Recipe = {
    ...emptyRecipe('body'),
    body: { name: 'body.glb', hash: hashBytes(bytes), size: bytes.length },
  }
  const found = async (edits: RigEdit[]) =>
    derivation.get('findings', { ...recipe, bones: { ...recipe.bones, edits } }, { of: [] })
  return { derivation, recipe, found }
}
const BODIES = [
  ['Oda', makeFigure(ODA, { vertices: 4000 }).mesh],
  ['Pim', makeFigure(PIM, { vertices: 4000 }).mesh],
  ['Brindle', makeHound(BRINDLE, { vertices: 4000 }).mesh],
  ...[5101, 5118, 5135].map(s => [`seed ${s}`, makeFigure(variedProportions(s), { vertices: 4000 }).mesh] as const),
] as const

describe('skeletons that were built here', () => {
  it.each(BODIES)('have nothing outside the body before anybody touched them: %s', async (_, mesh) => {
    const { found } = await opened(mesh)
    const rules = (await found([])).filter(f =>
      ['joint-outside', 'zero-length-bone', 'hinge-disagrees'].includes(f.rule),
    )
    expect(rules).toEqual([])
  })
  it('are watched after edits by hand: a knee that was typed outside the body is found and can be mended', async () => {
    for (const [name, mesh] of [BODIES[0], BODIES[3]]) {
      const { derivation, recipe, found } = await opened(mesh)
      const { skeleton } = await derivation.get('rig', recipe)
      const { height } = (await derivation.get('shape', recipe)).straightened
      const knee = findJoint(skeleton, 'leftLowerLeg')
      const p = worldPose(atBind(skeleton)).positions
      const to: Vec3 = [p[3 * knee] + 0.12 * height, p[3 * knee + 1], p[3 * knee + 2] + 0.1 * height]
      const edits = [moveRecord(skeleton, knee, to, height, { children: false, mirror: false })]
      const outside = (await found(edits)).filter(f => f.rule === 'joint-outside')
      expect(
        outside.map(f => f.where),
        name,
      ).toEqual(['Left lower leg'])
      expect(outside[0].value).toBeGreaterThan(3)
      const moved = { ...recipe, bones: { ...recipe.bones, edits } }
      const mended = await mendAll(derivation, moved)
      expect(mended.left.filter(f => f.rule === 'joint-outside')).toEqual([])
      expect(mended.left.length).toBeLessThan(mended.before.length)
      // what was done on one side alone is told, and never put right of its own accord
      expect(mended.before.some(f => f.rule === 'asymmetric-skeleton' && !f.mendable)).toBe(true)
    }
  })
  it('are told of joints put on one another, but not of mounts', async () => {
    const { derivation, recipe, found } = await opened(BODIES[0][1])
    const { skeleton } = await derivation.get('rig', recipe)
    const { height } = (await derivation.get('shape', recipe)).straightened
    const [hand, arm] = ['leftHand', 'leftLowerArm'].map(r => findJoint(skeleton, r))
    const p = worldPose(skeleton).positions
    const onto: Vec3 = [p[3 * arm], p[3 * arm + 1], p[3 * arm + 2]]
    const put = moveRecord(skeleton, hand, onto, height, { children: false, mirror: false })
    expect((await found([put])).filter(f => f.rule === 'zero-length-bone').map(f => f.where)).toEqual(['leftHand'])
    const mount: RigEdit = {
      kind: 'add',
      parent: 'leftHand',
      name: 'lantern',
      at: [0, 0, 0],
      along: [0, 0, 0],
      joints: 1,
      mirror: false,
    }
    expect((await found([mount])).filter(f => f.rule === 'zero-length-bone')).toEqual([])
  })
})

describe('the same in many takes', () => {
  const performed = (name: string, slide: number, extra: number): Performed =>
    ({
      take: { name },
      measures: { footSkateMetresPerSecond: slide },
      performer: { extra: Array.from({ length: extra }, (_, i) => i), doubts: [] },
      performerSkeleton: { names: [name] },
    }) as unknown as Performed
  it('is one finding of a kind, told by the worst and naming the others', async () => {
    const takes = Array.from({ length: 60 }, (_, i) =>
      performed(`take ${i}`, 0.02 + 0.001 * ((7 * i) % 60), 3 + (i % 4)),
    )
    const found = (await findAll({ performed: takes, grounded: true })).filter(f => f.rule !== 'doubtful-reading')
    expect(found.map(f => [f.rule, f.where])).toEqual([
      ['foot-skate', '60 takes'],
      ['extra-joints', '60 takes'],
    ])
    expect(found[0].takes).toHaveLength(60)
    expect(found[0].value).toBeCloseTo(7.9, 1)
    expect(found[0].message).toContain(`in ${found[0].takes![0]}`)
    expect(found[0].message).toMatch(/and 57 more\.$/)
  })
  it('stays as it was for one alone, and is nothing where nothing is wrong', async () => {
    const [one] = await findAll({
      performed: [performed('walk', 0.05, 0), performed('idle', 0.001, 0)],
      grounded: false,
    })
    expect(one).toMatchObject({ rule: 'foot-skate', where: 'walk', mendable: true, value: 5 })
    expect(await findAll({ performed: [performed('idle', 0.001, 0)], grounded: false })).toEqual([])
  })
})
