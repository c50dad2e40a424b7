import { describe, expect, it } from 'vitest'
import { deliver, readFile, writeGlb } from '../src/formats'
import { distance, fromAxisAngle, seededRandom, vec3At, type Vec3 } from '../src/math'
import { meshOf, type Mesh } from '../src/mesh'
import {
  ATTACH_DEFAULTS,
  emptyRecipe,
  hashBytes,
  PLAN_DEFAULTS,
  withoutAppendage,
  type AttachChoice,
  type FileRef,
  type Recipe,
} from '../src/recipe'
import { findJoint, jointIds, skeletonFromWorld, worldPose, type Skeleton } from '../src/skeleton'
import { bind, deform, type Skin } from '../src/skin'
import { attachAppendage, contentOf, createDerivation } from '../src/steps'
import { cleanDoll, limb } from './figure'
import { join } from './shapes'

/** A tail of five joints in a file of its own, in centimetres, its root where `from` is. */
async function tail(from: Vec3, unit: number): Promise<{ mesh: Mesh; skeleton: Skeleton; skin: Skin }> {
  const line = [0, 1, 2, 3, 4, 5].map((i): Vec3 => [from[0], from[1] - 0.04 * i * unit, from[2] - 0.1 * i * unit])
  const whole = join(...line.slice(1).map((b, i) => limb(line[i], b, 0.035 * unit)))
  const names = ['hips', 'bone', 'bone', 'Schwanz ü', 'spine']
  const skeleton = skeletonFromWorld(
    names.map((name, j) => ({
      name,
      parent: j - 1,
      position: line[j],
      rotation: fromAxisAngle([1, 0, 0], 0.3 * j),
      tip: line[j + 1],
    })),
  )
  const mesh = meshOf(whole.positions, whole.indices, 'tail')
  return { mesh, skeleton, skin: await bind(mesh, skeleton, { cells: 60 }) }
}

async function opened(received: boolean): Promise<{
  recipe: Recipe
  derivation: ReturnType<typeof createDerivation>
  put: (name: string, bytes: Uint8Array) => FileRef
}> {
  const doll = await cleanDoll()
  const files = new Map<string, Uint8Array>()
  const put = (name: string, bytes: Uint8Array): FileRef => {
    const hash = hashBytes(bytes)
    files.set(hash, bytes)
    return { name, hash, size: bytes.length }
  }
  const bytes = await writeGlb(received ? { name: 'doll', ...doll } : { name: 'doll', mesh: doll.mesh, takes: [] })
  const fresh = emptyRecipe('Doll')
  const recipe: Recipe = {
    ...fresh,
    body: put('doll.glb', bytes),
    bones: { source: 'auto', plan: { ...PLAN_DEFAULTS, kind: 'biped' }, edits: [] },
    // the doll is too plain to be searched: its skeleton is given from proportions
    landmarks: { edits: {}, byHand: true },
  }
  return { recipe, put, derivation: createDerivation(async f => files.get(f.hash)!) }
}

const CHOICES: readonly (readonly [string, Partial<AttachChoice>, number])[] = [
  ['where its own file has it', {}, 1],
  ['scaled from centimetres, its root on the joint', { scale: 0.01, onJoint: true }, 100],
  ['turned, its root on the joint', { scale: 1, onJoint: true, turn: fromAxisAngle([0, 1, 0], 0.6) }, 1],
]

describe('an appendage with bones of its own', () => {
  for (const received of [true, false])
    for (const [how, choice, unit] of CHOICES)
      it(`is attached ${how}, to a ${received ? 'skinned' : 'bare'} body`, async () => {
        const { recipe, derivation, put } = await opened(received)
        const hips = vec3At(worldPose((await derivation.get('rig', recipe)).skeleton).positions, 0)
        const own = await tail([3 * (unit - 1), hips[1] * (unit === 1 ? 1 : 0), -0.1], unit)
        const set = { file: put('tail.glb', await writeGlb({ name: 'tail', ...own, takes: [] })), beside: [] }
        const before = await derivation.get('rig', recipe)
        const after = await attachAppendage(derivation, recipe, set, { ...ATTACH_DEFAULTS, prefix: 't_', ...choice })
        const { skeleton, lost, takes } = await derivation.get('rig', after)
        expect(lost).toEqual([])
        // clashes are resolved, names of any script stay
        expect(skeleton.names.slice(-5)).toEqual(['t_hips', 't_bone', 't_bone 2', 't_Schwanz ü', 't_spine'])
        expect(skeleton.parents[findJoint(skeleton, 't_hips')]).toBe(findJoint(skeleton, 'hips'))
        expect(skeleton.roles.filter(r => r === 'hips')).toHaveLength(1)
        expect(takes).toHaveLength(before.takes.length)
        // the figure's own joints are where they were
        const h = (await derivation.get('shape', after)).straightened.height
        const [p, q] = [worldPose(before.skeleton).positions, worldPose(skeleton).positions]
        before.skeleton.names.forEach((_, j) => {
          const now = findJoint(skeleton, jointIds(before.skeleton)[j])
          if (received) expect(distance(vec3At(p, j), vec3At(q, now)) / h).toBeLessThan(1e-4)
        })
        // joints lie in the piece as they did in their own file
        const { mesh } = await derivation.get('shape', after)
        const part = mesh.parts.at(-1)!
        const used = [...new Set(mesh.indices.subarray(part.start, part.start + part.count))]
        const first = findJoint(skeleton, 't_hips')
        const mine = vec3At(worldPose(own.skeleton).positions, 0)
        const s = (choice.scale ?? 1) * (await derivation.get('shape', after)).straightened.scale
        const gap = (positions: Float32Array, list: number[], at: Vec3): number[] =>
          list.map(v => distance(vec3At(positions, v), at)).sort((a, b) => a - b)
        const own0 = gap(own.mesh.positions, [...Array(own.mesh.positions.length / 3).keys()], mine)
        const now0 = gap(mesh.positions, used, vec3At(q, first))
        expect(now0[0] / h).toBeCloseTo((own0[0] * s) / h, 3)
        expect(now0.at(-1)! / h).toBeCloseTo((own0.at(-1)! * s) / h, 3)
        if (choice.onJoint)
          expect(distance(vec3At(q, first), vec3At(q, findJoint(skeleton, 'hips'))) / h).toBeLessThan(1e-4)
        // its own skin moves it, exactly
        const skin = await derivation.get('skin', after)
        const pose = worldPose(skeleton)
        const random = seededRandom(5)
        const turned = skeleton.restRotations.slice()
        const alone = own.skeleton.restRotations.slice()
        for (const [j, name] of ['t_bone', 't_bone 2', 't_spine'].entries()) {
          const turn = fromAxisAngle(
            [random(), random(), random()].map(v => v - 0.5).map((v, _, all) => v / Math.hypot(...all)) as Vec3,
            0.5,
          )
          const at = findJoint(skeleton, name)
          turned.set(mul([...turned.subarray(4 * at, 4 * at + 4)], turn), 4 * at)
          const k = [1, 2, 4][j]
          alone.set(mul([...alone.subarray(4 * k, 4 * k + 4)], turn), 4 * k)
        }
        const bent = deform(mesh.positions, skeleton, skin, worldPose(skeleton, skeleton.restTranslations, turned))
        const bentAlone = deform(
          own.mesh.positions,
          own.skeleton,
          own.skin,
          worldPose(own.skeleton, own.skeleton.restTranslations, alone),
        )
        const sortedWays = (a: Float32Array, b: Float32Array, list: number[]): number[] =>
          list.map(v => distance(vec3At(a, v), vec3At(b, v))).sort((x, y) => x - y)
        const ways = sortedWays(bent, mesh.positions, used)
        const waysAlone = sortedWays(bentAlone, own.mesh.positions, [...Array(own.mesh.positions.length / 3).keys()])
        expect(ways.at(-1)! / h).toBeGreaterThan(0.01)
        for (const share of [0.25, 0.5, 0.75, 0.95, 1])
          expect(ways[Math.floor(share * (ways.length - 1))] / h).toBeCloseTo(
            (waysAlone[Math.floor(share * (waysAlone.length - 1))] * s) / h,
            2,
          )
        // the body follows none of its joints
        const attached = new Set(skeleton.names.flatMap((n, j) => (n.startsWith('t_') ? [j] : [])))
        const mineToo = new Set(used)
        for (let v = 0; v < mesh.positions.length / 3; v++)
          for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++)
            if (!mineToo.has(v) && skin.weights[i] > 0) expect(attached.has(skin.joints[i])).toBe(false)
        expect(pose.positions.every(Number.isFinite)).toBe(true)
        // delivered and read again
        const { bytes, proof } = await deliver(await contentOf(derivation, after, []))
        expect(proof.validatorErrors).toBe(0)
        expect((await readFile(bytes, 'out.glb')).skeleton!.names).toContain('t_Schwanz ü')
        // taken off, the figure is as it was
        const off = withoutAppendage(after, set.file.hash)
        expect((await derivation.get('rig', off)).skeleton.names).toEqual(before.skeleton.names)
      })

  it('is put otherwise without losing what was done to its joints since', async () => {
    const { recipe, derivation, put } = await opened(true)
    const own = await tail([0, 0.9, -0.1], 1)
    const set = { file: put('tail.glb', await writeGlb({ name: 'tail', ...own, takes: [] })), beside: [] }
    const once = await attachAppendage(derivation, recipe, set, { ...ATTACH_DEFAULTS, prefix: 't_' })
    const named: Recipe = {
      ...once,
      bones: { ...once.bones, edits: [...once.bones.edits, { kind: 'rename', names: { t_spine: 'end of the tail' } }] },
    }
    const again = await attachAppendage(derivation, named, set, {
      ...ATTACH_DEFAULTS,
      prefix: 't_',
      scale: 1.4,
      joint: 'spine',
    })
    const { skeleton, lost } = await derivation.get('rig', again)
    expect(lost).toEqual([])
    expect(skeleton.names).toContain('end of the tail')
    expect(skeleton.parents[findJoint(skeleton, 't_hips')]).toBe(findJoint(skeleton, 'spine'))
    expect(again.added).toHaveLength(1)
    expect(again.bones.edits.map(e => e.kind)).toEqual(['attach', 'rename'])
  })
  it('is refused where there is nothing to attach, or nothing to attach it to', async () => {
    const { recipe, derivation, put } = await opened(true)
    const own = await tail([0, 0.9, -0.1], 1)
    const bare = { file: put('bare.glb', await writeGlb({ name: 'bare', mesh: own.mesh, takes: [] })), beside: [] }
    await expect(attachAppendage(derivation, recipe, bare, ATTACH_DEFAULTS)).rejects.toThrow(/no joints of its own/)
    const set = { file: put('tail.glb', await writeGlb({ name: 'tail', ...own, takes: [] })), beside: [] }
    await expect(attachAppendage(derivation, recipe, set, { ...ATTACH_DEFAULTS, joint: 'gone' })).rejects.toThrow(
      /no joint gone/,
    )
  })
})

const mul = (a: number[], b: readonly number[]): number[] => [
  a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
  a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
  a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
  a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
]
