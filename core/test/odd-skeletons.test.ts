import { beforeAll, describe, expect, it } from 'vitest'
import { readFile, writeGlb, type Received } from '../src/formats'
import { ChiraxisError } from '../src/math'
import { packGlb } from '../src/document'
import { emptyRecipe, hashBytes, type Recipe } from '../src/recipe'
import {
  jointIds,
  jointsInWorld,
  recogniseRoles,
  skeletonFromWorld,
  type Skeleton,
  type WorldJoint,
} from '../src/skeleton'
import { applyRigEdits } from '../src/rig'
import { bind, type Skin } from '../src/skin'
import { createDerivation, type Derivation } from '../src/steps'
import type { Mesh } from '../src/mesh'
import { cleanDoll } from './figure'

let doll: { mesh: Mesh; skeleton: Skeleton; skin: Skin }
beforeAll(async () => {
  doll = await cleanDoll()
})

async function opened(skeleton: Skeleton): Promise<{ recipe: Recipe; derivation: Derivation }> {
  const bytes = await writeGlb({ name: 'odd', mesh: doll.mesh, skeleton, skin: doll.skin, takes: [] })
  const derivation = createDerivation(async () => bytes)
  const body = { name: 'odd.glb', hash: hashBytes(bytes), size: bytes.length }
  return { derivation, recipe: { ...emptyRecipe('odd'), body } }
}
const withJoints = (more: (joints: WorldJoint[]) => void): Skeleton => {
  const joints = jointsInWorld(doll.skeleton).map(j => ({ ...j }))
  more(joints)
  return skeletonFromWorld(joints)
}
/** Hangs many more joints on the doll's, in chains of twenty. */
function crowd(joints: WorldJoint[], count: number): void {
  const base = joints.length
  for (let i = base; i < count; i++) {
    const parent = (i - base) % 20 === 0 ? 3 + (Math.floor((i - base) / 20) % 12) : i - 1
    const p = joints[parent].position
    const name = i % 7 === 0 ? '' : i % 11 === 0 ? 'same' : `鎖 ${i}`
    joints.push({ name, parent, position: [p[0] + 0.01, p[1] - 0.005, p[2] + 0.003 * (i % 5)], rotation: [0, 0, 0, 1] })
  }
}

describe('skeletons nobody would wish for', () => {
  it('of five thousand joints are read, skinned, edited and read by structure in bearable time', async () => {
    const skeleton = withJoints(joints => crowd(joints, 5000))
    const { recipe, derivation } = await opened(skeleton)
    const since = performance.now()
    const rig = await derivation.get('rig', recipe)
    expect(rig.skeleton.names).toHaveLength(5000)
    expect(new Set(jointIds(rig.skeleton)).size).toBe(5000)
    const findings = await derivation.get('findings', recipe, { of: [] })
    expect(findings.map(f => f.rule)).toContain('duplicate-names')
    const edits: Recipe['bones']['edits'] = [
      { kind: 'number' },
      { kind: 'root', name: 'all of it', at: [0, 0, 0] },
      { kind: 'aim', convention: { along: '+y', hinge: '+x' } },
    ]
    const edited = await derivation.get('rig', { ...recipe, bones: { ...recipe.bones, edits } })
    expect(edited.lost).toEqual([])
    expect(new Set(edited.skeleton.names).size).toBe(5001)
    const nobody = {
      ...skeleton,
      roles: skeleton.roles.map(() => undefined),
      names: skeleton.names.map((_, j) => `結 ${j}`),
    }
    const reading = recogniseRoles(nobody)
    // it may be read or not, but it says so
    expect(reading.missing.length + reading.doubts.length + Object.keys(reading.joints).length).toBeGreaterThan(0)
    const skin = await bind(doll.mesh, skeleton, { cells: 60 })
    expect(skin.weights.every(Number.isFinite)).toBe(true)
    expect(performance.now() - since).toBeLessThan(60_000)
  })
  it('with names of any script, empty and twice keep each its own place, and can be given names again', async () => {
    const names = ['ルート', '', '', 'ὦμος', 'רגל', 'same', 'same', '💪', ' ', 'a'.repeat(900)]
    const skeleton = withJoints(joints => {
      const base = joints.length
      names.forEach((name, i) =>
        joints.push({
          ...joints[5],
          role: undefined,
          name,
          parent: i === 0 ? 5 : base + i - 1,
          position: [0, 1.6 + 0.01 * i, 0],
        }),
      )
    })
    const { recipe, derivation } = await opened(skeleton)
    const { skeleton: read } = await derivation.get('rig', recipe)
    expect(read.names).toEqual(expect.arrayContaining(['ルート', 'ὦμος', 'רגל', '💪', 'same']))
    expect(read.names.filter(n => n === 'same')).toHaveLength(2)
    expect(read.names.every(n => n.length > 0)).toBe(true)
    const second = read.names.lastIndexOf('same')
    const ref = jointIds(read)[second]
    const edits: Recipe['bones']['edits'] = [
      { kind: 'rename', names: { [ref]: '二つ目' } },
      { kind: 'rename', names: { ルート: 'same' } },
    ]
    const { skeleton: named, lost } = await derivation.get('rig', { ...recipe, bones: { ...recipe.bones, edits } })
    expect(named.names[second]).toBe('二つ目')
    // a name that is taken is refused and told, and nothing is lost by it
    expect(lost.map(l => l.reason).join()).toMatch(/would be called same/)
    expect(named.names).toContain('ルート')
  })
  it('with several roots, joints in one place and far outside are kept as they are and told', async () => {
    const skeleton = withJoints(joints => {
      joints.push({ name: 'second root', parent: -1, position: [0, 0, 0], rotation: [0, 0, 0, 1] })
      joints.push({ name: 'on it', parent: joints.length - 1, position: [0, 0, 0], rotation: [0, 0, 0, 1] })
      joints.push({
        name: 'beside the hand',
        parent: joints.findIndex(j => j.role === 'leftHand'),
        position: [0.69, 1.42, 0.01],
        rotation: [0, 0, 0, 1],
      })
      joints.push({ name: 'far', parent: 0, position: [900, -40, 3000], rotation: [0, 0, 0, 1] })
    })
    const { recipe, derivation } = await opened(skeleton)
    const rig = await derivation.get('rig', recipe)
    expect([...rig.skeleton.parents].filter(p => p < 0)).toHaveLength(2)
    expect((await derivation.get('shape', recipe)).straightened.height).toBeCloseTo(1.72, 1)
    const found = await derivation.get('findings', recipe, { of: [] })
    expect(found.filter(f => f.rule === 'zero-length-bone').map(f => f.where)).toContain('beside the hand')
    const joined: Recipe['bones']['edits'] = [{ kind: 'root', name: 'one root', at: [0, 0, 0] }]
    const one = await derivation.get('rig', { ...recipe, bones: { ...recipe.bones, edits: joined } })
    expect([...one.skeleton.parents].filter(p => p < 0)).toHaveLength(1)
    const skin = await derivation.get('skin', recipe)
    expect(skin.weights.every(Number.isFinite)).toBe(true)
  })
  it('whose nodes form a ring are refused in plain words', async () => {
    const bytes = await writeGlb({ name: 'ring', ...doll, takes: [] })
    const { document } = await readFile(bytes, 'ring.glb')
    const json = structuredClone(document!.json)
    const at = (name: string): number => json.nodes!.findIndex(n => n.name === name)
    const spine = json.nodes![at('spine')]
    spine.children = [...(spine.children ?? []), at('hips')]
    const ring = packGlb({ json, buffers: document!.buffers })
    const read = async (): Promise<Received> => readFile(ring, 'ring.glb')
    await expect(read()).rejects.toThrow(ChiraxisError)
    await expect(read()).rejects.toThrow(/itself|ring|loop|tree/i)
  })
})

describe('mounts', () => {
  it('take no flesh of what they stand on', async () => {
    const { rig } = await applyRigEdits(
      { skeleton: doll.skeleton, takes: [] },
      ['leftHand', 'head', 'chest'].map(parent => ({
        kind: 'add' as const,
        parent,
        name: `${parent} lantern`,
        at: [0, 0, 0] as [number, number, number],
        along: [0, 0, 0] as [number, number, number],
        joints: 1,
        mirror: false,
      })),
      1.72,
    )
    const skin = await bind(doll.mesh, rig.skeleton, { cells: 70 })
    const lanterns = new Set(rig.skeleton.names.flatMap((n, j) => (n.includes('lantern') ? [j] : [])))
    expect(lanterns.size).toBe(3)
    expect(skin.joints.some((j, i) => lanterns.has(j) && skin.weights[i] > 0)).toBe(false)
    const plain = await bind(doll.mesh, doll.skeleton, { cells: 70 })
    const hand = (s: Skin, of: Skeleton): number => {
      const at = of.roles.indexOf('leftHand')
      return s.weights.reduce((sum, w, i) => sum + (s.joints[i] === at ? w : 0), 0)
    }
    expect(hand(skin, rig.skeleton)).toBeCloseTo(hand(plain, doll.skeleton), 0)
  })
})
