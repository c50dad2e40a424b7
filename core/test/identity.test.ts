import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { writeGlb } from '../src/formats'
import { vec3At } from '../src/math'
import { emptyRecipe, hashBytes, ownTakeAt, ownTakeIds, type Recipe } from '../src/recipe'
import { applyRigEdit, applyRigEdits, type Rig, type RigEdit } from '../src/rig'
import { findJoint, jointId, jointIds, jointRef, worldPose, type Skeleton } from '../src/skeleton'
import { contentOf, createDerivation, ownTakesOf, type Derivation } from '../src/steps'
import { cleanDoll } from './figure'
import { wildTake } from './skeletons'

let doll: Awaited<ReturnType<typeof cleanDoll>>
beforeAll(async () => {
  doll = await cleanDoll()
})

/** Where a joint is, told by what it is known by. */
const placeOf = (s: Skeleton, id: string): [number, number, number] =>
  vec3At(worldPose(s).positions, jointIds(s).indexOf(id))

describe('what a joint is known by', () => {
  it('is its own for every joint, even where many have one name', () => {
    const s = doll.skeleton
    const named: Skeleton = { ...s, roles: s.names.map(() => undefined), names: s.names.map(() => 'bone') }
    const ids = jointIds(named)
    expect(new Set(ids).size).toBe(s.names.length)
    ids.forEach((id, j) => expect(findJoint({ ...named, ids }, id)).toBe(j))
  })
  it('is the role first, which other bodies have too', () => {
    doll.skeleton.roles.forEach((role, j) => {
      if (role) expect(jointRef(doll.skeleton, j)).toBe(role)
      expect(findJoint(doll.skeleton, jointId(doll.skeleton, j))).toBe(j)
    })
  })

  const anyEdit = fc.oneof(
    fc.record({
      kind: fc.constant('split' as const),
      joint: fc.constantFrom('leftUpperArm', 'rightLowerLeg', 'spine'),
      parts: fc.integer({ min: 2, max: 4 }),
      mirror: fc.boolean(),
    }),
    fc.record({
      kind: fc.constant('insert' as const),
      joint: fc.constantFrom('leftLowerArm', 'rightUpperLeg'),
      name: fc.constantFrom('mid', 'hips', 'leftHand'),
      share: fc.double({ min: 0.1, max: 0.9, noNaN: true }),
      mirror: fc.boolean(),
    }),
    fc.record({
      kind: fc.constant('add' as const),
      parent: fc.constantFrom('head', 'leftHand'),
      name: fc.constantFrom('mount', 'spine', 'mount'),
      at: fc.constant([0, 0.05, 0] as [number, number, number]),
      along: fc.constant([0, 0.02, 0] as [number, number, number]),
      joints: fc.integer({ min: 1, max: 3 }),
      mirror: fc.boolean(),
    }),
    fc.record({ kind: fc.constant('number' as const) }),
    fc.record({
      kind: fc.constant('rename' as const),
      names: fc.constantFrom<Record<string, string>>(
        { leftUpperArm: 'arm one' },
        { spine: 'trunk' },
        { head: 'skull' },
      ),
    }),
  ) as fc.Arbitrary<RigEdit>

  it('stays through any edits: each joint that was there is found where it was', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(anyEdit, { minLength: 1, maxLength: 6 }), async edits => {
        const start: Rig = { skeleton: doll.skeleton, takes: [] }
        const ids = jointIds(doll.skeleton)
        const { rig } = await applyRigEdits(start, edits, 1.7)
        const after = jointIds(rig.skeleton)
        expect(new Set(after).size).toBe(after.length)
        for (const id of ids) {
          expect(after, id).toContain(id)
          placeOf(rig.skeleton, id).forEach((v, k) => expect(v).toBeCloseTo(placeOf(doll.skeleton, id)[k]!, 4))
        }
      }),
      { numRuns: 40 },
    )
  })
  it('leads an edit to its joint after a rename and after a split', async () => {
    const start: Rig = { skeleton: doll.skeleton, takes: [] }
    const named = await applyRigEdit(
      start,
      { kind: 'add', parent: 'head', name: 'ear', at: [0.05, 0.1, 0], along: [0, 0.03, 0], joints: 2, mirror: false },
      1.7,
    )
    const ear = jointRef(named.skeleton, named.skeleton.names.indexOf('ear 1'))
    const renamed = await applyRigEdit(named, { kind: 'rename', names: { 'ear 1': 'left ear', 'ear 2': 'ear 1' } }, 1.7)
    // the record made before the rename still means the joint it was made for, not the one that bears its name now
    expect(renamed.skeleton.names[findJoint(renamed.skeleton, ear)]).toBe('left ear')
    const removed = await applyRigEdit(renamed, { kind: 'remove', joint: ear, mirror: false }, 1.7)
    expect(removed.skeleton.names).toContain('ear 1')
    expect(removed.skeleton.names).not.toContain('left ear')
  })
  it('does not let a joint of the same name be hit on the other side', async () => {
    const s = doll.skeleton
    // two limbs whose joints have no roles and all one name
    const left = s.roles.indexOf('leftLowerArm')
    const blank: Skeleton = {
      ...s,
      ids: jointIds(s),
      names: s.names.map((n, j) => (/LowerArm/.test(s.roles[j] ?? '') ? 'elbow' : n)),
      roles: s.roles.map(r => (/LowerArm/.test(r ?? '') ? undefined : r)),
    }
    const ref = jointRef(blank, left)
    const { skeleton } = await applyRigEdit(
      { skeleton: blank, takes: [] },
      { kind: 'remove', joint: ref, mirror: false },
      1.7,
    )
    expect(jointIds(skeleton)).not.toContain('leftLowerArm')
    expect(jointIds(skeleton)).toContain('rightLowerArm')
  })
})

describe('takes that came with the body', () => {
  it('are known by their names, numbered where a name is there twice', () => {
    expect(ownTakeIds([{ name: 'walk' }, { name: 'run' }, { name: 'walk' }])).toEqual([
      'own:walk',
      'own:run',
      'own:walk~2',
    ])
    expect(ownTakeAt('own:walk')).toBe(true)
    expect(ownTakeAt('3f2a')).toBe(false)
  })

  let derivation: Derivation
  let recipe: Recipe
  beforeAll(async () => {
    const takes = [
      { ...wildTake(doll.skeleton, 3, 20), name: 'nod' },
      { ...wildTake(doll.skeleton, 4, 30), name: 'turn' },
    ]
    const glb = await writeGlb({ ...doll, name: 'doll', takes })
    derivation = createDerivation(async () => glb)
    recipe = { ...emptyRecipe(), body: { name: 'doll.glb', hash: hashBytes(glb), size: glb.length } }
  })
  it('are looked at by that, whichever place they have in the file', async () => {
    const rig = await derivation.get('rig', recipe)
    expect(ownTakesOf(rig).map(t => t.id)).toEqual(['own:nod', 'own:turn'])
    const turn = await derivation.get('take', recipe, { of: 'own:turn' })
    expect([turn.take.name, turn.take.frames]).toEqual(['turn', 30])
    const nod = await derivation.get('take', recipe, { of: 'own:nod' })
    expect([nod.take.name, nod.take.frames]).toEqual(['nod', 20])
    await expect(derivation.get('take', recipe, { of: 'own:gone' })).rejects.toMatchObject({ code: 'no-take' })
    await expect(derivation.get('take', recipe, { of: 'gone' })).rejects.toMatchObject({ code: 'no-take' })
  })
  it('ride along with edits of the skeleton, and into the file', async () => {
    const edited: Recipe = {
      ...recipe,
      bones: { ...recipe.bones, edits: [{ kind: 'split', joint: 'leftUpperArm', parts: 2, mirror: false }] },
    }
    const { take } = await derivation.get('take', edited, { of: 'own:nod' })
    const rig = await derivation.get('rig', edited)
    expect(take.rotations).toHaveLength(4 * rig.skeleton.names.length * 20)
    expect((await contentOf(derivation, edited, [])).takes!.map(t => t.name)).toEqual(['nod', 'turn'])
  })
  it('carried ones go into the file under the name they were given', async () => {
    const motion = await writeGlb({
      name: 'somebody',
      skeleton: doll.skeleton,
      takes: [wildTake(doll.skeleton, 9, 24)],
    })
    const file = { name: 'motion.glb', hash: hashBytes(motion), size: motion.length }
    const glb = await writeGlb({ ...doll, name: 'doll', takes: [] })
    const both = createDerivation(async f => (f.hash === file.hash ? motion : glb))
    const own: Recipe = {
      ...emptyRecipe(),
      body: { name: 'doll.glb', hash: hashBytes(glb), size: glb.length },
      takes: [{ id: 't', name: 'my stroll', performer: 'somebody', file, index: 0 }],
    }
    expect((await contentOf(both, own, ['t'])).takes!.map(t => t.name)).toEqual(['my stroll'])
    // a new name works nothing out again
    const renamed: Recipe = { ...own, takes: [{ ...own.takes[0]!, name: 'another' }] }
    expect(both.has(both.key('take', renamed, 't'))).toBe(true)
    expect((await contentOf(both, renamed, ['t'])).takes!.map(t => t.name)).toEqual(['another'])
    const missing: Recipe = { ...own, takes: [{ ...own.takes[0]!, index: 5 }] }
    await expect(contentOf(both, missing, ['t'])).rejects.toMatchObject({
      code: 'no-take',
      message: expect.stringMatching(/my stroll/) as unknown as string,
    })
  })
})
