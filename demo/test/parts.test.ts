import { describe, expect, it } from 'vitest'
import { distance, vec3At, type Vec3 } from '@chiraxis/core/math'
import { boundsOf, joinMeshes, meshOf, type Mesh } from '@chiraxis/core/mesh'
import { guessPieces } from '@chiraxis/core/pieces'
import {
  ADDED_PARTS,
  applyRigEdits,
  chainRecord,
  partChains,
  rigOf,
  SKIRT_CHAINS,
  type AddedPart,
} from '@chiraxis/core/rig'
import { findJoint, jointSide, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { appendageJoints, skinOfPieces } from '@chiraxis/core/skin'
import { makeFigure, ODA, PIM, trueSkeleton, variedProportions } from '../src/figures'

const BODIES = [
  ['Oda', ODA],
  ['Pim', PIM],
  ...[4401, 4418, 4435, 4452, 4469].map(s => [`seed ${s}`, variedProportions(s)] as const),
] as const

interface Figure {
  readonly mesh: Mesh
  readonly skeleton: Skeleton
  readonly height: number
}
function figureOf(proportions: typeof ODA): Figure {
  const made = makeFigure(proportions, { vertices: 4000 })
  const { min, max } = boundsOf(made.mesh.positions)
  return { mesh: made.mesh, skeleton: trueSkeleton(made), height: max[1] - min[1] }
}
async function withParts(
  { mesh, skeleton, height }: Figure,
  parts: readonly AddedPart[],
  around?: Mesh,
): Promise<Skeleton> {
  let s = skeleton
  for (const part of parts) {
    const { rig, lost } = await applyRigEdits(rigOf(s), partChains(part, s, mesh, height, { around }), height)
    expect(lost).toEqual([])
    s = rig.skeleton
  }
  return s
}

/** A skirt of cloth without thickness, open above and below. */
function cloth(waist: Vec3, height: number, rings = 10, around = 32): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  for (let r = 0; r <= rings; r++)
    for (let a = 0; a < around; a++) {
      const t = (2 * Math.PI * a) / around
      const wide = (0.11 + 0.1 * (r / rings)) * height
      positions.push(
        waist[0] + wide * Math.sin(t),
        waist[1] - (0.3 * height * r) / rings,
        waist[2] + 0.8 * wide * Math.cos(t),
      )
    }
  for (let r = 0; r < rings; r++)
    for (let a = 0; a < around; a++) {
      const [p, q] = [r * around + a, r * around + ((a + 1) % around)]
      indices.push(p, p + around, q, q, p + around, q + around)
    }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), 'skirt')
}
/** A ball about a point. */
function ball(name: string, at: Vec3, r: number, rows = 8): Mesh {
  const positions: number[] = []
  const indices: number[] = []
  for (let i = 0; i <= rows; i++)
    for (let j = 0; j <= 2 * rows; j++) {
      const [a, b] = [(Math.PI * i) / rows, (Math.PI * j) / rows]
      positions.push(
        at[0] + r * Math.sin(a) * Math.cos(b),
        at[1] + r * Math.cos(a),
        at[2] + r * Math.sin(a) * Math.sin(b),
      )
      const k = i * (2 * rows + 1) + j
      if (i < rows && j < 2 * rows) indices.push(k, k + 1, k + 2 * rows + 1, k + 1, k + 2 * rows + 2, k + 2 * rows + 1)
    }
  return meshOf(Float32Array.from(positions), Uint32Array.from(indices), name)
}

describe('parts that a plan does not have', () => {
  for (const [name, proportions] of BODIES)
    it(`begin where they usually are: ${name}`, async () => {
      const figure = figureOf(proportions)
      const { mesh, height } = figure
      const s = await withParts(figure, ADDED_PARTS)
      const p = worldPose(s).positions
      const at = (ref: string): Vec3 => vec3At(p, findJoint(s, ref))
      const { max } = boundsOf(mesh.positions)
      const head = at('head')
      for (const role of ['jaw', 'leftEye', 'rightEye']) {
        expect(at(role)[1], role).toBeGreaterThan(head[1] - 0.01 * height)
        expect(at(role)[1], role).toBeLessThan(max[1])
        // within the head and ahead of the joint that carries it
        expect(at(role)[2], role).toBeGreaterThan(head[2] - 0.01 * height)
        let near = Infinity
        for (let v = 0; v < mesh.positions.length / 3; v++)
          near = Math.min(near, distance(vec3At(mesh.positions, v), at(role)))
        expect(near / (max[1] - head[1]), role).toBeLessThan(role === 'jaw' ? 0.5 : 0.35)
      }
      expect(at('leftEye')[1]).toBeGreaterThan(at('jaw')[1])
      expect(at('leftEye')[0]).toBeCloseTo(-at('rightEye')[0], 5)
      const wings = s.names.filter(n => n.includes('wing'))
      expect(wings.filter(n => n.startsWith('left'))).toHaveLength(4)
      expect(wings.filter(n => n.startsWith('right'))).toHaveLength(4)
      const skirt = s.names.flatMap((n, j) => (n.startsWith('skirt') ? [j] : []))
      expect(skirt).toHaveLength(3 * SKIRT_CHAINS)
      expect(new Set(skirt.map(j => jointSide(s, j)))).toEqual(new Set(['left', 'right', 'middle']))
      // no chain of the skirt lies in the hand
      for (const j of skirt) expect(Math.hypot(p[3 * j], p[3 * j + 2]) / height).toBeLessThan(0.25)
    })
})

describe('pieces with joints of their own', () => {
  it('a skirt of eight chains: cloth follows its chains and the hips alone, and the body none of them', async () => {
    for (const [, proportions] of BODIES.slice(0, 3)) {
      const figure = figureOf(proportions)
      const hips = vec3At(worldPose(figure.skeleton).positions, findJoint(figure.skeleton, 'hips'))
      const skirt = cloth(hips, figure.height)
      const s = await withParts(figure, ['skirt'], skirt)
      const mesh = joinMeshes([figure.mesh, skirt])
      const skin = await skinOfPieces(mesh, s, [undefined, { role: 'appendage' }])
      const own = new Set(appendageJoints(s, findJoint(s, 'hips')))
      const body = figure.mesh.positions.length / 3
      const followed = new Set<number>()
      for (let v = 0; v < mesh.positions.length / 3; v++)
        for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++) {
          if (skin.weights[i] === 0) continue
          if (v < body) expect(own.has(skin.joints[i]) && s.roles[skin.joints[i]] === undefined).toBe(false)
          else {
            expect(own.has(skin.joints[i])).toBe(true)
            followed.add(skin.joints[i])
          }
        }
      // every chain holds some of the cloth, and each place follows a chain of its own side
      expect([...followed].filter(j => s.names[j].startsWith('skirt')).length).toBeGreaterThan(2 * SKIRT_CHAINS)
      for (let v = body; v < mesh.positions.length / 3; v++) {
        const x = mesh.positions[3 * v]
        let most = 0,
          chief = 0
        for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++)
          if (skin.weights[i] > most) [most, chief] = [skin.weights[i], skin.joints[i]]
        if (x > 0.08 * figure.height) expect(jointSide(s, chief)).not.toBe('right')
      }
    }
  })
  it('a tail drawn in a piece of its own takes no flesh of the body', async () => {
    const figure = figureOf(ODA)
    const hips = vec3At(worldPose(figure.skeleton).positions, findJoint(figure.skeleton, 'hips'))
    const line = [0, 1, 2, 3, 4].map((i): Vec3 => [0, hips[1] - 0.03 * i, hips[2] - 0.08 - 0.1 * i])
    const told = { name: 'tail', joints: 4, mirror: false }
    const tail = joinMeshes(line.map((at, i) => ball(`tail ${i}`, at, 0.06)))
    const one = meshOf(tail.positions, tail.indices, 'tail')
    const edit = chainRecord(figure.skeleton, findJoint(figure.skeleton, 'hips'), line, figure.height, told)
    const { rig } = await applyRigEdits(rigOf(figure.skeleton), [edit], figure.height)
    const mesh = joinMeshes([figure.mesh, one])
    const skin = await skinOfPieces(mesh, rig.skeleton, [undefined, { role: 'appendage', joint: 'tail 1' }])
    const body = figure.mesh.positions.length / 3
    const isTail = (j: number): boolean => rig.skeleton.names[j].startsWith('tail')
    for (let v = 0; v < mesh.positions.length / 3; v++)
      for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++)
        if (skin.weights[i] > 0) expect(isTail(skin.joints[i])).toBe(v >= body)
  })
  it('a jaw takes the lower face and no more, and the skull stays with the head', async () => {
    for (const [name, proportions] of [BODIES[0], BODIES[1], BODIES[3]]) {
      const figure = figureOf(proportions)
      const s = await withParts(figure, ['jaw', 'eyes'])
      const skin = await skinOfPieces(figure.mesh, s, [undefined])
      const p = worldPose(s).positions
      const [head, jaw] = ['head', 'jaw'].map(r => findJoint(s, r))
      const top = boundsOf(figure.mesh.positions).max[1]
      const at = (share: number): number => p[3 * head + 1] + share * (top - p[3 * head + 1])
      let taken = 0,
        high = 0,
        behind = 0,
        skull = 0,
        crown = 0
      for (let v = 0; v < figure.mesh.positions.length / 3; v++) {
        const [, y, z] = vec3At(figure.mesh.positions, v)
        let [own, ofHead] = [0, 0]
        for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++) {
          if (skin.joints[i] === jaw) own += skin.weights[i]
          if (skin.joints[i] === head) ofHead += skin.weights[i]
        }
        if (y > at(0.8)) {
          crown++
          if (ofHead > 0.5) skull++
        }
        if (own <= 0.5) continue
        taken++
        if (y > at(0.45)) high++
        if (z < p[3 * head + 2]) behind++
      }
      expect(taken, name).toBeGreaterThan(20)
      expect(high / taken, name).toBeLessThan(0.05)
      expect(behind, name).toBe(0)
      expect(skull / crown, name).toBeGreaterThan(0.9)
    }
  })
  it('eyes ride on the eye of their side, and the face does not turn with them', async () => {
    const figure = figureOf(ODA)
    const s = await withParts(figure, ['eyes'])
    const p = worldPose(s).positions
    const eyes = (['leftEye', 'rightEye'] as const).map(r => ball(r, vec3At(p, findJoint(s, r)), 0.012))
    const mesh = joinMeshes([figure.mesh, ...eyes])
    const guesses = await guessPieces(mesh, s)
    expect(guesses.slice(1).map(g => g.joint)).toEqual(['leftEye', 'rightEye'])
    const skin = await skinOfPieces(mesh, s, guesses)
    const body = figure.mesh.positions.length / 3
    for (let v = 0; v < mesh.positions.length / 3; v++)
      for (let i = v * skin.influences; i < (v + 1) * skin.influences; i++)
        if (skin.weights[i] > 0 && v < body) expect(s.roles[skin.joints[i]]).not.toMatch(/Eye$/)
  })
})
