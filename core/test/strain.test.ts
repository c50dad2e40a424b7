import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { angleBetween, fromAxisAngle, normalize, rotate, sub, vec3At, type Vec3 } from '../src/math'
import { meshOf } from '../src/mesh'
import { boneDirection, bindPose, type Skeleton } from '../src/skeleton'
import { carryWeights, deform, deformKeepingVolume, jointWeights, skinOfPieces } from '../src/skin'
import {
  ALL_POSES,
  assess,
  bend,
  bentTriangles,
  causeOf,
  chainPoses,
  CHECK_POSES,
  differenceOver,
  poseWorld,
  strainOver,
  strainRange,
  strike,
  restTriangles,
  triangleStrain,
} from '../src/strain'
import { cleanDoll, turned } from './figure'
import { join, tube } from './shapes'

describe('strain of a triangle', () => {
  const rest = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0])
  const map = (a: number, b: number, c: number, d: number): Float32Array =>
    Float32Array.from([0, 0, 0, a, c, 0, b, d, 0])
  it('is none for whatever only turns and moves it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.tuple(
          fc.double({ min: -1, max: 1, noNaN: true }),
          fc.double({ min: -1, max: 1, noNaN: true }),
          fc.double({ min: 0.1, max: 1, noNaN: true }),
        ),
        (angle, axis) => {
          const q = fromAxisAngle(normalize(axis as Vec3), angle)
          const posed = Float32Array.from([0, 1, 2].flatMap(v => rotate(q, vec3At(rest, v)).map(x => x + 0.4)))
          const s = triangleStrain(restTriangles(rest, Uint32Array.of(0, 1, 2)), posed)
          for (const x of [s.stretch[0], s.squeeze[0], s.shear[0]]) expect(x).toBeCloseTo(0, 2)
        },
      ),
    )
  })
  it('tells stretch, squeeze and shear as they were made', () => {
    const of = (m: Float32Array): number[] => {
      const s = triangleStrain(restTriangles(rest, Uint32Array.of(0, 1, 2)), m)
      return [s.stretch[0], s.squeeze[0], s.shear[0]]
    }
    expect(of(map(2, 0, 0, 1))[0]).toBeCloseTo(1, 5)
    expect(of(map(1, 0, 0, 0.25))[1]).toBeCloseTo(0.75, 5)
    expect(of(map(1.3, 0, 0, 1.3))).toEqual([expect.closeTo(0.3, 4), expect.closeTo(0, 4), expect.closeTo(0, 4)])
    // a simple shear by k changes the right angle of its principal frame by asin(2k√(4+k²) / (2·(2+k²)))
    const k = 0.5
    expect(of(map(1, k, 0, 1))[2]).toBeCloseTo(Math.asin((k * Math.sqrt(4 + k * k)) / (2 + k * k)), 4)
  })
  it('is none where there was no area', () => {
    expect(triangleStrain(restTriangles(new Float32Array(9), Uint32Array.of(0, 1, 2)), rest).stretch[0]).toBe(0)
  })
})

describe('the triangles a pose bends', () => {
  it('are all that are strained in any pose and any skin, and hardly those of limbs that only turn', async () => {
    const doll = await cleanDoll()
    const { mesh, skeleton, skin } = doll
    const vertices = mesh.positions.length / 3
    const rest = restTriangles(mesh.positions, mesh.indices)
    let bent = 0
    const missed: string[] = []
    for (const pose of ALL_POSES) {
      const posed = poseWorld(skeleton, pose)
      // what rides along is the strongest joint here: a body of its own is not measured
      const riders = Uint16Array.from({ length: vertices }, (_, v) => skin.joints[skin.influences * v])
      const list = bentTriangles(mesh, skeleton, skin, riders)(posed)
      const strain = triangleStrain(rest, deform(mesh.positions, skeleton, skin, posed))
      const inside = new Set(list)
      strain.stretch.forEach((s, f) => {
        if ((s > 1e-3 || strain.squeeze[f] > 1e-3) && !inside.has(f)) missed.push(`${pose.id} ${f}`)
      })
      bent += list.length / rest.areas.length / ALL_POSES.length
    }
    expect(missed).toEqual([])
    expect(bent).toBeGreaterThan(0.02)
    expect(bent).toBeLessThan(0.7)
  })
  it('hold those whose own shape changes, whatever the joints do', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const riders = new Uint16Array(mesh.positions.length / 3)
    const always = new Uint8Array(riders.length)
    always[mesh.indices[30]] = 1
    const list = [...bentTriangles(mesh, skeleton, skin, riders, always)(bindPose(skeleton))]
    const round = Array.from({ length: mesh.indices.length / 3 }, (_, f) => f).filter(f =>
      mesh.indices.subarray(3 * f, 3 * f + 3).includes(mesh.indices[30]),
    )
    expect(list).toEqual(round)
  })
})

describe('check poses', () => {
  const posedBone = (s: Skeleton, id: string, role: string): Vec3 => {
    const w = poseWorld(
      s,
      ALL_POSES.find(p => p.id === id)!,
    )
    const j = s.roles.indexOf(role)
    const child = s.parents.indexOf(j)
    return normalize(sub(vec3At(w.positions, child), vec3At(w.positions, j)))
  }
  it('bring limbs where they say, on any joint axes', async () => {
    const doll = await cleanDoll()
    const wild = turned(doll, j => {
      const q = fromAxisAngle(normalize([1, j % 3, 0.5 + j]), 0.7 * j)
      return [q[0], q[1], q[2], q[3]]
    })
    for (const s of [doll.skeleton, wild.skeleton]) {
      expect(angleBetween(posedBone(s, 'arms-out', 'leftUpperArm'), [1, 0, 0])).toBeLessThan(0.02)
      expect(posedBone(s, 'arms-up', 'leftUpperArm')[1]).toBeGreaterThan(0.9)
      expect(posedBone(s, 'arms-ahead', 'rightUpperArm')[2]).toBeGreaterThan(0.9)
      expect(posedBone(s, 'sitting', 'leftUpperLeg')[2]).toBeGreaterThan(0.95)
      // knees bend back, elbows bend ahead
      expect(posedBone(s, 'knees-bent', 'rightLowerLeg')[2]).toBeLessThan(-0.6)
      expect(posedBone(s, 'elbows-bent', 'leftLowerArm')[2]).toBeGreaterThan(0.4)
      expect(posedBone(s, 'bend-ahead', 'neck')[2]).toBeGreaterThan(0.8)
    }
    for (const pose of CHECK_POSES) {
      const a = poseWorld(doll.skeleton, pose),
        b = poseWorld(wild.skeleton, pose)
      for (let i = 0; i < a.positions.length; i++) expect(b.positions[i], pose.id).toBeCloseTo(a.positions[i], 4)
    }
  })
  it('are the same on both sides where both sides are told alike', async () => {
    const { skeleton } = await cleanDoll()
    for (const pose of CHECK_POSES.filter(p =>
      p.turns.every(
        t =>
          !('joint' in t) &&
          !/^(left|right)/.test(t.part) &&
          (/^(trunk|nape)$/.test(t.part) ? 'about' in t && t.about === 'x' : true),
      ),
    )) {
      const w = poseWorld(skeleton, pose)
      skeleton.roles.forEach((role, j) => {
        if (!role?.startsWith('left')) return
        const o = skeleton.roles.indexOf(role.replace('left', 'right'))
        expect(w.positions[3 * o], `${pose.id} ${role}`).toBeCloseTo(-w.positions[3 * j], 3)
        expect(w.positions[3 * o + 1], `${pose.id} ${role}`).toBeCloseTo(w.positions[3 * j + 1], 3)
      })
    }
  })
  it('at share nought are rest', async () => {
    const { skeleton } = await cleanDoll()
    const w = poseWorld(skeleton, CHECK_POSES[2], 0),
      rest = bindPose(skeleton)
    for (let i = 0; i < rest.positions.length; i++) expect(w.positions[i]).toBeCloseTo(rest.positions[i], 5)
    expect(
      strike(skeleton, { id: 'x', label: 'x', group: 'arms', turns: [{ part: 'Wing', about: 'x', degrees: 90 }] }),
    ).toEqual(skeleton.restRotations)
    expect(boneDirection(skeleton, 0)).toBeDefined()
  })
})

describe('the assessment', () => {
  it('is near nothing for a body that follows one joint, and finds a planted fault first, with its joint', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const one = {
      influences: 1,
      joints: new Uint16Array(mesh.positions.length / 3),
      weights: new Float32Array(mesh.positions.length / 3).fill(1),
    }
    expect((await assess(mesh, skeleton, one)).score).toBeLessThan(0.01)
    const before = await assess(mesh, skeleton, skin)
    const arm = skeleton.roles.indexOf('leftLowerArm')
    const spoiled = { ...skin, joints: skin.joints.slice(), weights: skin.weights.slice() }
    const k = skin.influences
    for (let v = 0; v < mesh.positions.length / 3; v++) {
      const p = vec3At(mesh.positions, v)
      if (Math.hypot(p[0] - 0.13, p[1] - 0.95, p[2]) > 0.09) continue
      for (let i = 0; i < k; i++) spoiled.weights[v * k + i] *= 0.4
      spoiled.joints[v * k + k - 1] = arm
      spoiled.weights[v * k + k - 1] = 0.6
    }
    const after = await assess(mesh, skeleton, spoiled)
    expect(after.score).toBeGreaterThan(before.score * 1.1)
    const worst = after.worst.filter(w => w.joint === arm && w.place[1] < 1.15)
    expect(worst.length).toBeGreaterThan(0)
    expect(after.worst.indexOf(worst[0])).toBeLessThan(4)
    const pose = ALL_POSES.find(p => p.id === worst[0].pose)!
    expect(causeOf(mesh, skeleton, spoiled, worst[0].triangle, poseWorld(skeleton, pose))).toBe(arm)
  })
  it('grows on the way into a pose, and is refused without roles', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const range = await strainRange(
      mesh,
      skeleton,
      skin,
      CHECK_POSES.find(p => p.id === 'knees-bent')!,
      {},
      [],
      4,
    )
    expect(range.regions[0].id).toMatch(/Knee/)
    expect(range.regions[0].scores[0]).toBeCloseTo(0, 1)
    expect(range.regions[0].scores[4]).toBeGreaterThan(range.regions[0].scores[2])
    const nobody = { ...skeleton, roles: skeleton.roles.map(() => undefined) }
    // what no role is known of is bent as chains; controls move no skin and are not
    expect((await assess(mesh, nobody, skin)).poses.map(p => p.id)).toEqual(chainPoses(nobody).map(p => p.id))
    await expect(assess(mesh, { ...nobody, names: nobody.names.map((_, i) => `ctrl ${i}`) }, skin)).rejects.toThrow(
      /no check pose/,
    )
  })
  it('draws every kind, and the difference of two blends', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const pose = CHECK_POSES.find(p => p.id === 'palms-down')!
    const linear = bend(mesh.positions, skeleton, skin, pose, 1, 'linear'),
      volume = bend(mesh.positions, skeleton, skin, pose, 1, 'volume')
    for (const kind of ['stretch', 'squeeze', 'shear', 'volume'] as const)
      expect(Math.max(...(await strainOver(mesh, linear, kind)))).toBeGreaterThan(kind === 'volume' ? 0 : 1)
    expect(Math.max(...differenceOver(linear, volume))).toBeGreaterThan(1e-4)
    expect(Math.max(...differenceOver(linear, linear))).toBe(0)
  })
})

describe('blending that keeps volume', () => {
  it('agrees with linear blending where one joint holds, and keeps a twisted tube round', () => {
    const body = tube(
      Array.from({ length: 21 }, (_, i) => [0, i / 10, 0]),
      0.2,
      20,
    )
    const s: Skeleton = {
      names: ['a', 'b'],
      parents: Int16Array.of(-1, 0),
      roles: [undefined, undefined],
      restTranslations: Float32Array.of(0, 0, 0, 0, 1, 0),
      restRotations: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1),
    }
    const n = body.positions.length / 3
    const skin = {
      influences: 2,
      joints: Uint16Array.from({ length: 2 * n }, (_, i) => i % 2),
      weights: new Float32Array(2 * n),
    }
    for (let v = 0; v < n; v++) {
      const up = Math.min(1, Math.max(0, body.positions[3 * v + 1] - 0.5))
      skin.weights.set([1 - up, up], 2 * v)
    }
    const half = fromAxisAngle([0, 1, 0], 2.6)
    const posed = { positions: Float64Array.of(0, 0, 0, 0, 1, 0), rotations: Float64Array.of(0, 0, 0, 1, ...half) }
    const linear = deform(body.positions, s, skin, posed),
      kept = deformKeepingVolume(body.positions, s, skin, posed)
    const thinnest = (p: Float32Array): number =>
      Math.min(...Array.from({ length: 20 * 21 }, (_, v) => Math.hypot(p[3 * v], p[3 * v + 2])))
    expect(thinnest(linear)).toBeLessThan(0.08)
    expect(thinnest(kept)).toBeGreaterThan(0.199)
    for (let k = 0; k < 3; k++) expect(kept[k]).toBeCloseTo(linear[k], 6)
  })
})

describe('garments', () => {
  it('take the weights of what lies beneath, fill the rest smoothly, and do not join the legs', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const sleeve = tube(
      Array.from({ length: 9 }, (_, i) => [0.3, 1.42 - 0.06 + 0, -0.06 + 0.015 * i]),
      0.02,
      8,
    )
    const skirt = tube(
      Array.from({ length: 12 }, (_, i) => [0, 0.5 + 0.05 * i, 0]),
      0.24,
      32,
    )
    const carried = await carryWeights(mesh, skin, skirt, skeleton.names.length)
    const k = carried.skin.influences
    for (let v = 0; v < skirt.positions.length / 3; v++)
      expect(carried.skin.weights.subarray(v * k, v * k + k).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4)
    const whole = join(mesh, skirt)
    const parts = [
      { name: 'body', start: 0, count: mesh.indices.length, color: [1, 1, 1] as [number, number, number] },
      {
        name: 'skirt',
        start: mesh.indices.length,
        count: skirt.indices.length,
        color: [1, 1, 1] as [number, number, number],
      },
    ]
    const dressed = { ...whole, parts }
    const worn = await skinOfPieces(dressed, skeleton, [undefined, { role: 'garment' }])
    const left = jointWeights(worn, skeleton.roles.indexOf('leftUpperLeg')),
      right = jointWeights(worn, skeleton.roles.indexOf('rightUpperLeg'))
    const base = mesh.positions.length / 3
    for (let v = base; v < left.length; v++) {
      const x = dressed.positions[3 * v]
      const [own, other] = x > 0 ? [left[v], right[v]] : [right[v], left[v]]
      if (Math.abs(x) <= 0.2) continue
      expect(other).toBeLessThan(0.25)
      if (own + other > 0.3) expect(other).toBeLessThan(0.6 * own)
    }
    await expect(skinOfPieces(dressed, skeleton, [{ role: 'garment' }, { role: 'garment' }])).rejects.toThrow(
      /Every piece is a garment/,
    )
    const empty = {
      ...dressed,
      parts: [
        ...parts,
        { name: 'nothing', start: whole.indices.length, count: 0, color: [1, 1, 1] as [number, number, number] },
      ],
    }
    expect(await skinOfPieces(empty, skeleton, [undefined, undefined, { role: 'garment' }])).toBeDefined()
    expect(meshOf(sleeve.positions, sleeve.indices).parts).toHaveLength(1)
  })
  it('far from the body still get weights of the nearest place', async () => {
    const { mesh, skeleton, skin } = await cleanDoll()
    const far = tube(
      [
        [3, 1, 0],
        [3, 1.5, 0],
      ],
      0.1,
    )
    const { told, skin: got } = await carryWeights(mesh, skin, far, skeleton.names.length)
    expect(told).toBe(0)
    expect(got.weights[0]).toBeGreaterThan(0)
  })
})
