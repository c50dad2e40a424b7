import { describe, expect, it } from 'vitest'
import { writeBvh, writeGlb } from '@chiraxis/core/formats'
import { fromAxisAngle, normalize, seededRandom, type Vec3 } from '@chiraxis/core/math'
import { emptyRecipe, hashBytes, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { transfer } from '@chiraxis/core/retarget'
import { findJoint, turnAt, worldPose } from '@chiraxis/core/skeleton'
import { deform } from '@chiraxis/core/skin'
import { createDerivation, type Derivation } from '@chiraxis/core/steps'
import { cleanRig, dressed, makeFigure, ODA, ODA_COLORS, PIM, variedProportions, withTake } from '../src/figures'
import { MOVES, NORTH, record } from '../src/takes'

describe('a rest pose made by posing', () => {
  it.each([
    ['Oda, dressed', ODA, 11],
    ['Pim', PIM, 23],
    ['seed 4507', variedProportions(4507), 37],
  ])('leaves every vertex of every frame of every take where it was: %s', async (name, proportions, seed) => {
    const files = new Map<string, Uint8Array>()
    const put = (file: string, bytes: Uint8Array): FileRef => {
      const hash = hashBytes(bytes)
      files.set(hash, bytes)
      return { name: file, hash, size: bytes.length }
    }
    const derivation: Derivation = createDerivation(async f => files.get(f.hash)!)
    const worn = name.includes('dressed')
    const made = makeFigure(proportions, { vertices: 4000, headless: worn })
    const mesh = worn ? (await dressed(made, proportions, ODA_COLORS, 4000)).mesh : made.mesh
    const moved = record(
      MOVES.find(m => m.name === 'walk')!,
      NORTH,
    )
    const walk = put('walk.bvh', writeBvh(moved.skeleton, moved.take))
    const recipe: Recipe = {
      ...emptyRecipe(name),
      body: put('body.glb', await writeGlb({ name, mesh })),
      takes: [{ id: 'walk', name: 'walk', performer: 'somebody', file: walk, index: 0 }],
    }
    const random = seededRandom(seed)
    const turn = (most: number): [number, number, number, number] =>
      fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), most * random())
    const before = await shown(derivation, recipe)
    // arms, legs, trunk and fingers alike
    const turns = before.skeleton.roles.flatMap(r =>
      r && r !== 'hips' && random() < 0.8 ? [{ joint: r, by: turn(0.9) }] : [],
    )
    const posed: Recipe = {
      ...recipe,
      bones: { ...recipe.bones, edits: [{ kind: 'rest', pose: 'posed', degrees: 0, turns }] },
    }
    const after = await shown(derivation, posed)
    for (const { joint, by } of turns) {
      const now = turnAt(after.skeleton, after.skeleton.restRotations, findJoint(after.skeleton, joint))
      expect(Math.abs(now[0] * by[0] + now[1] * by[1] + now[2] * by[2] + now[3] * by[3])).toBeGreaterThan(0.99999)
    }
    let apart = 0
    before.skin.weights.forEach((w, i) => (apart = Math.max(apart, Math.abs(w - after.skin.weights[i]))))
    expect(apart).toBeLessThan(1e-6)
    expect(after.skin.joints).toEqual(before.skin.joints)
    let worst = 0
    const [a, b] = [before.frames, after.frames]
    expect(a).toHaveLength(b.length)
    a.forEach((frame, f) => frame.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - b[f][i])))))
    expect(worst / before.height).toBeLessThan(1e-5)
    // and the figure does rest otherwise
    const rest = worldPose(after.skeleton).positions
    const was = worldPose(before.skeleton).positions
    expect(Math.max(...[...rest.subarray(0, 60)].map((v, i) => Math.abs(v - was[i])))).toBeGreaterThan(0.05)
  })
  it('does so for takes that came with a skinned body', async () => {
    const clean = await cleanRig(makeFigure(PIM, { vertices: 3000 }).mesh)
    const moved = record(MOVES[0], NORTH)
    const own = await transfer(moved.skeleton, moved.take, clean.skeleton)
    const rig = withTake(clean, { ...own.take, name: 'own' })
    const bytes = await writeGlb({ name: 'Pim', ...rig })
    const hash = hashBytes(bytes)
    const derivation = createDerivation(async () => bytes)
    const recipe: Recipe = { ...emptyRecipe('Pim'), body: { name: 'pim.glb', hash, size: bytes.length } }
    const shownOwn = async (r: Recipe): Promise<Float32Array[]> => {
      const { takes, skeleton } = await derivation.get('rig', r)
      const skin = await derivation.get('skin', r)
      const { mesh } = await derivation.get('shape', r)
      expect(takes.length).toBeGreaterThan(0)
      return takes.flatMap(t =>
        Array.from({ length: t.frames }, (_, f) =>
          deform(
            mesh.positions,
            skeleton,
            skin,
            worldPose(skeleton, t.translations, t.rotations, f * skeleton.names.length),
          ),
        ),
      )
    }
    const before = await shownOwn(recipe)
    const turns = ['leftUpperArm', 'rightLowerLeg', 'head', 'spine', 'leftFoot'].map((joint, i) => ({
      joint,
      by: fromAxisAngle(normalize([1, i - 2, 0.5] as Vec3), 0.4 + 0.2 * i),
    }))
    const after = await shownOwn({
      ...recipe,
      bones: { ...recipe.bones, edits: [{ kind: 'rest', pose: 'posed', degrees: 0, turns }] },
    })
    const height = (await derivation.get('shape', recipe)).straightened.height
    let worst = 0
    before.forEach((frame, f) => frame.forEach((v, i) => (worst = Math.max(worst, Math.abs(v - after[f][i])))))
    expect(worst / height).toBeLessThan(1e-5)
  })
})

/** A figure in every fifth frame of its take. */
async function shown(derivation: Derivation, recipe: Recipe) {
  const { skeleton } = await derivation.get('rig', recipe)
  const skin = await derivation.get('skin', recipe)
  const { mesh, straightened } = await derivation.get('shape', recipe)
  const { take } = await derivation.get('take', recipe, { of: 'walk' })
  const J = skeleton.names.length
  const frames = Array.from({ length: Math.ceil(take.frames / 5) }, (_, i) =>
    deform(mesh.positions, skeleton, skin, worldPose(skeleton, take.translations, take.rotations, 5 * i * J)),
  )
  return { skeleton, skin, height: straightened.height, frames }
}
