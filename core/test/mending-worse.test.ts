import { describe, expect, it } from 'vitest'
import { deliver } from '../src/formats'
import { distance, vec3At, type Vec3 } from '../src/math'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import { recogniseRoles, withRoles, worldPose } from '../src/skeleton'
import { bind } from '../src/skin'
import { createDerivation, mendAll } from '../src/steps'
import { limb } from './figure'
import { STYLES } from './rigs/styles'
import { join } from './shapes'

const STYLES_HELD = [
  'walking',
  'sitting',
  'arms raised',
  'arms crossed',
  'sides named from the viewer',
  'lying on its back',
]

/** A skinned body of tubes around the bones of a rig, however it stands. */
async function figureOf(
  name: string,
  seed: number,
): Promise<{ bytes: Uint8Array<ArrayBuffer>; head: Vec3; hips: Vec3 }> {
  const { skeleton, truth } = STYLES.find(s => s.name === name)!.make(seed)
  const world = worldPose(skeleton)
  const at = (role: string): Vec3 => vec3At(world.positions, truth[role])
  const size = distance(at('head'), at('leftFoot'))
  const bones = [
    ['hips', 'upperChest', 0.09],
    ['upperChest', 'head', 0.04],
    ...['left', 'right'].flatMap(s => [
      [`${s}UpperArm`, `${s}LowerArm`, 0.028],
      [`${s}LowerArm`, `${s}Hand`, 0.022],
      [`${s}UpperLeg`, `${s}LowerLeg`, 0.04],
      [`${s}LowerLeg`, `${s}Foot`, 0.03],
      [`${s}Foot`, `${s}Toes`, 0.02],
    ]),
  ] as [string, string, number][]
  const top = at('head').map((x, k) => x + 0.6 * (x - at('neck')[k])) as unknown as Vec3
  const mesh = join(...bones.map(([a, b, r]) => limb(at(a), at(b), r * size)), limb(at('head'), top, 0.06 * size))
  const skin = await bind(mesh, withRoles(skeleton, recogniseRoles(skeleton).joints), { cells: 50 })
  const { bytes } = await deliver({ name, mesh, skeleton, skin })
  return { bytes, head: at('head'), hips: at('hips') }
}

describe('mending', () => {
  it.each(STYLES_HELD)('%s: leaves no more wrong than there was, and tells both', async name => {
    const { bytes } = await figureOf(name, 6)
    const body = { name: 'held.glb', hash: hashBytes(bytes), size: bytes.length }
    const recipe: Recipe = { ...emptyRecipe('held'), body }
    const d = createDerivation(async () => bytes)
    const { before, left, recipe: mended } = await mendAll(d, recipe)
    const count = (of: typeof before, s: string): number => of.filter(f => f.severity === s).length
    expect(count(left, 'error')).toBeLessThanOrEqual(count(before, 'error'))
    const joints = (of: readonly { rule: string }[]): number => of.filter(f => f.rule === 'joint-outside').length
    expect(joints(left)).toBeLessThanOrEqual(joints(before))
    // left stays left: nothing was mirrored or turned about
    const rigs = [await d.get('rig', recipe), await d.get('rig', mended)]
    const side = rigs.map(({ skeleton }) => {
      const world = worldPose(skeleton)
      const j = skeleton.roles.indexOf('leftUpperLeg')
      return Math.sign(world.positions[3 * j] - world.positions[3 * skeleton.roles.indexOf('rightUpperLeg')])
    })
    expect(side[1]).toBe(side[0])
  })
})
