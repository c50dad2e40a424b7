import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { fromAxisAngle, quatAt, setQuat, vec3At } from '../src/math'
import {
  balanceThrough,
  bodyMass,
  capsulesOf,
  centreOfMass,
  DENSITY,
  nearestWithin,
  outlineAround,
  PUBLISHED,
  roomWithin,
  supportOf,
  touchPlaces,
  volumesByJoint,
  type JointVolumes,
} from '../src/mass'
import { enclosedVolume, voxelize, type Mesh } from '../src/mesh'
import { createFigureSolver, restingPose, type Goal } from '../src/reach'
import { atBind, worldPose, type Skeleton } from '../src/skeleton'
import type { Skin } from '../src/skin'
import { makeFigure, referenceSkin, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { biped, ROLES } from './skeletons'

describe('the outline of what carries a figure', () => {
  const points = fc.array(
    fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true })),
    { minLength: 3, maxLength: 40 },
  )
  it('holds every point, and nothing is inside that is no mean of points', () => {
    fc.assert(
      fc.property(
        points,
        fc.array(fc.double({ min: 0.01, max: 1, noNaN: true }), { minLength: 40, maxLength: 40 }),
        (list, w) => {
          const outline = outlineAround(list)
          fc.pre(outline.length > 2)
          for (const [x, z] of list) expect(roomWithin(outline, x, z)!).toBeGreaterThan(-1e-9)
          const sum = list.reduce((s, _, i) => s + w[i], 0)
          const mean = [0, 1].map(k => list.reduce((s, p, i) => s + (w[i] * p[k as 0 | 1]) / sum, 0))
          expect(roomWithin(outline, mean[0], mean[1])!).toBeGreaterThan(-1e-9)
          expect(roomWithin(outline, 3, 0)!).toBeLessThan(-1.9)
        },
      ),
    )
  })
  it('brings what lies outside in, as far as was asked, and leaves what is in', () => {
    const square = outlineAround([
      [-1, -1],
      [1, -1],
      [1, 1],
      [-1, 1],
    ])
    expect(nearestWithin(square, 0.2, 0.3, 0.1)).toEqual([0.2, 0.3])
    const [x, z] = nearestWithin(square, 3, 0.5, 0.1)
    expect(roomWithin(square, x, z)!).toBeCloseTo(0.1, 6)
    // one that is too small gives its middle
    expect(nearestWithin(square, 3, 0, 5).map(v => Math.abs(v))).toEqual([0, 0])
    expect(roomWithin([], 0, 0)).toBeUndefined()
  })
})

describe('what a body weighs', () => {
  const plain = biped()
  const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))
  const none: JointVolumes = { volumes: new Float64Array(ROLES.length), centres: new Float64Array(3 * ROLES.length) }
  it('by published shares is whole, and lies where living bodies carry it', () => {
    expect(PUBLISHED.reduce((s, p) => s + p.mass, 0)).toBeCloseTo(1, 3)
    const mass = bodyMass(plain, joints, none, { by: 'published', total: 70 })
    expect(mass.masses.reduce((a, b) => a + b, 0)).toBeCloseTo(70, 1)
    expect(mass.masses[joints.leftUpperLeg]).toBeCloseTo(0.1447 * 70, 3)
    // standing, it lies a little over half of the height: within the pelvis (Winter 2009)
    const centre = centreOfMass(mass, worldPose(atBind(plain)))!
    expect(centre.place[1]).toBeGreaterThan(0.88)
    expect(centre.place[1]).toBeLessThan(1.12)
    expect(Math.abs(centre.place[0])).toBeLessThan(1e-6)
  })
  it('shares of joints that are not there go to those they hang on', () => {
    const { upperChest: _, chest: __, head: ___, ...fewer } = joints
    const mass = bodyMass(plain, fewer, none, { by: 'published', total: 1 })
    expect(mass.masses.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 3)
    expect(mass.masses[joints.spine]).toBeGreaterThan(0.3)
    expect(() => bodyMass(plain, { hips: 0 }, none, { by: 'published' })).toThrow(/two legs/)
  })
  it('what was told by hand of one part leaves the others', () => {
    const before = bodyMass(plain, joints, none, { by: 'published', total: 70 })
    const after = bodyMass(plain, joints, none, { by: 'published', total: 70, own: { leftHand: 9, nobody: 4 } })
    expect(after.masses[joints.leftHand]).toBe(9)
    ROLES.forEach((r, j) => {
      if (r !== 'leftHand') expect(after.masses[j]).toBe(before.masses[j])
    })
  })

  describe('by its own volume', () => {
    let mesh: Mesh
    let skeleton: Skeleton
    let skin: Skin
    let volumes: JointVolumes
    let own: Record<string, number>
    beforeAll(async () => {
      const figure = makeFigure(variedProportions(77), { vertices: 6000 })
      mesh = figure.mesh
      skeleton = trueSkeleton(figure)
      skin = referenceSkin(figure, skeleton)
      own = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
      volumes = await volumesByJoint(mesh, skeleton, skin, await voxelize(mesh.positions, mesh.indices, { cells: 110 }))
    })
    it('is the volume the surface encloses, shared out among its parts', () => {
      const whole = volumes.volumes.reduce((a, b) => a + b, 0)
      const enclosed = Math.abs(enclosedVolume(mesh.positions, mesh.indices))
      expect(Math.abs(whole - enclosed) / enclosed).toBeLessThan(0.06)
      const mass = bodyMass(skeleton, own, volumes)
      expect(mass.masses.reduce((a, b) => a + b, 0)).toBeCloseTo(DENSITY * whole, 3)
      // sides alike, and a thigh heavier than a forearm
      for (const part of ['UpperLeg', 'LowerLeg', 'UpperArm', 'LowerArm']) {
        const [l, r] = ['left', 'right'].map(s => mass.masses[own[s + part]])
        expect(Math.abs(l - r) / (l + r)).toBeLessThan(0.08)
      }
      expect(mass.masses[own.leftUpperLeg]).toBeGreaterThan(2 * mass.masses[own.leftLowerArm])
    })
    it('stands over its feet, and what lies near its bones holds its surface', () => {
      const pose = worldPose(atBind(skeleton))
      const support = supportOf(touchPlaces(mesh, skeleton, skin), pose, 0.02)
      const centre = centreOfMass(bodyMass(skeleton, own, volumes), pose)!
      expect(roomWithin(support.outline, centre.place[0], centre.place[2])!).toBeGreaterThan(0)
      const capsules = capsulesOf(mesh, skeleton, skin)
      expect(capsules.some(c => c.joint === own.leftUpperLeg)).toBe(true)
      for (const c of capsules) {
        expect(c.fromRadius).toBeGreaterThan(0)
        expect(c.toRadius).toBeLessThan(0.5)
      }
      const [thigh, hand] = [own.leftUpperLeg, own.leftLowerArm].map(j => capsules.find(c => c.joint === j)!)
      expect(thigh.fromRadius).toBeGreaterThan(hand.toRadius)
    })
    it('through a take: as in each pose, with what is carried, and nothing where nothing carries it', () => {
      const n = skeleton.names.length
      const rotations = new Float32Array(4 * n * 3),
        translations = new Float32Array(3 * n * 3)
      for (let f = 0; f < 3; f++) {
        rotations.set(skeleton.restRotations, 4 * n * f)
        translations.set(skeleton.restTranslations, 3 * n * f)
      }
      const root = skeleton.parents.indexOf(-1)
      // the second frame stands elsewhere, the third is in the air
      translations[3 * (n + root)] += 2
      translations[3 * (2 * n + root) + 1] += 0.3
      const take = { name: '', fps: 30, frames: 3, rotations, translations }
      const mass = bodyMass(skeleton, own, volumes, {})
      const touch = touchPlaces(mesh, skeleton, skin)
      const [still, elsewhere, air] = balanceThrough(mass, touch, skeleton, take, 0.02, 1.7)
      expect(still).toBeGreaterThan(0)
      expect(elsewhere).toBeCloseTo(still, 4)
      expect(air).toBeNaN()
      const loaded = balanceThrough(mass, touch, skeleton, take, 0.02, 1.7, () => [{ mass: 500, place: [3, 1, 0] }])
      expect(loaded[0]).toBeLessThan(-1)
    })
    it('a figure that leans is brought back over its feet, which stay', () => {
      const mass = bodyMass(skeleton, own, volumes)
      const rest = restingPose(skeleton)
      const rotations = rest.rotations.slice()
      for (const leg of ['leftUpperLeg', 'rightUpperLeg']) setQuat(rotations, own[leg], fromAxisAngle([1, 0, 0], 0.25))
      const from = { translations: rest.translations, rotations }
      const w = worldPose(skeleton, from.translations, from.rotations)
      const { outline } = supportOf(touchPlaces(mesh, skeleton, skin), w, 0.02)
      const before = centreOfMass(mass, w)!.place
      const [x, z] = nearestWithin(outline, before[0], before[2], 0.03)
      const feet = ['leftFoot', 'rightFoot'].map((r): Goal => ({
        joint: own[r],
        place: vec3At(w.positions, own[r]),
        turn: quatAt(w.rotations, own[r]),
        strength: 'hold',
      }))
      const solver = createFigureSolver(skeleton, own, [0, 0, 0, 1])
      const found = solver.solve(from, feet, { balance: { ...mass, place: [x, 0, z] } })
      const after = worldPose(skeleton, found.translations, found.rotations)
      const there = centreOfMass(mass, after)!.place
      const [a, b] = [roomWithin(outline, before[0], before[2])!, roomWithin(outline, there[0], there[2])!]
      expect(a).toBeLessThan(0.01)
      expect(b).toBeGreaterThan(0.02)
      found.residuals.forEach(r => expect(r.place).toBeLessThan(1e-4))
    })
  })
})
