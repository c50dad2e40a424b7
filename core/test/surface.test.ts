import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { closestOnSurface } from '../src/mesh'
import { fromAxisAngle, multiply, normalize, quatAt, seededRandom, vec3At, type Quat, type Vec3 } from '../src/math'
import { bodyFrame } from '../src/retarget'
import { worldPose } from '../src/skeleton'
import { deform, type Skin } from '../src/skin'
import {
  clearOf,
  fleshAt,
  outermostOfRadii,
  posedSurface,
  solesOf,
  usualHeight,
  usualRadii,
  usualSurface,
} from '../src/surface'
import { biped, ROLES, wildAxes } from './skeletons'

const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))

/** A leg of flesh: a round tube from the hip to the ankle, its weights passing smoothly from thigh to shin. */
function legOf(seed: number) {
  const skeleton = biped({ axes: wildAxes(seed) })
  const rest = worldPose(skeleton)
  const [hip, knee, ankle] = ['leftUpperLeg', 'leftLowerLeg', 'leftFoot'].map(r => vec3At(rest.positions, joints[r]))
  const rows = 40,
    around = 24,
    radius = 0.06
  const positions: number[] = [],
    indices: number[] = [],
    weights: number[] = []
  const height = hip[1] - ankle[1]
  for (let i = 0; i <= rows; i++)
    for (let k = 0; k < around; k++) {
      const a = (2 * Math.PI * k) / around
      const y = hip[1] - (height * i) / rows
      positions.push(hip[0] + radius * Math.cos(a), y, hip[2] + radius * Math.sin(a))
      const t = Math.min(1, Math.max(0, (knee[1] + 0.05 - y) / 0.1))
      weights.push(1 - t * t * (3 - 2 * t), t * t * (3 - 2 * t))
      if (i === rows) continue
      const n = (k + 1) % around
      const [p, q, r, s] = [i * around + k, i * around + n, (i + 1) * around + k, (i + 1) * around + n]
      indices.push(p, q, r, q, s, r)
    }
  const skin: Skin = {
    influences: 2,
    // strongest first
    joints: Uint16Array.from(
      Array.from({ length: weights.length / 2 }, (_, v) =>
        weights[2 * v] >= weights[2 * v + 1]
          ? [joints.leftUpperLeg, joints.leftLowerLeg]
          : [joints.leftLowerLeg, joints.leftUpperLeg],
      ).flat(),
    ),
    weights: Float32Array.from(
      Array.from({ length: weights.length / 2 }, (_, v) => [
        Math.max(weights[2 * v], weights[2 * v + 1]),
        Math.min(weights[2 * v], weights[2 * v + 1]),
      ]).flat(),
    ),
  }
  return {
    skeleton,
    skin,
    mesh: { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) },
  }
}

describe('the distance to a posed surface', () => {
  it('is the one to the surface with every vertex posed, in any pose', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 4000 }), seed => {
        const { skeleton, skin, mesh } = legOf(seed)
        const random = seededRandom(seed + 7)
        const J = skeleton.names.length
        const rotations = skeleton.restRotations.slice()
        const bend = (j: number, most: number): void => {
          const axis = normalize([random() - 0.5, 0.3 * (random() - 0.5), random() - 0.5])
          const q: Quat = multiply(quatAt(rotations, j), fromAxisAngle(axis, most * (2 * random() - 1)))
          rotations.set(q, 4 * j)
        }
        bend(joints.hips, 0.6)
        bend(joints.leftUpperLeg, 0.8)
        bend(joints.leftLowerLeg, 0.9)
        const posed = worldPose(skeleton, skeleton.restTranslations, rotations, 0)
        const truth = closestOnSurface(deform(mesh.positions, skeleton, skin, posed), mesh.indices)
        const told = posedSurface(mesh, skeleton, skin, () => true)
        told.pose(posed)
        const out = { distance: 0, x: 0, y: 0, z: 0 }
        const knee = vec3At(posed.positions, joints.leftLowerLeg)
        for (let i = 0; i < 12; i++) {
          const p = knee.map(v => v + 0.22 * (random() - 0.5)) as Vec3
          told.distanceTo(out, [joints.leftUpperLeg, joints.leftLowerLeg], ...p)
          const exact = truth.nearest(...p)!.distance
          // never nearer than the truth, and hardly ever farther: where the skin folds there may be two near places
          expect(Math.abs(out.distance)).toBeGreaterThan(exact - 1e-4)
          // what is near counts; far off, in the bend of a knee, another place may be taken for the nearest
          expect(Math.abs(out.distance)).toBeLessThan(exact < 0.04 ? exact + 0.006 : 1.5 * exact)
        }
        expect(J).toBe(ROLES.length)
      }),
      { numRuns: 40, seed: 5 },
    )
  })
  it('is negative inside, and the way out leads out', () => {
    const { skeleton, skin, mesh } = legOf(3)
    const told = posedSurface(mesh, skeleton, skin, () => true)
    const rest = worldPose(skeleton)
    told.pose(rest)
    const out = { distance: 0, x: 0, y: 0, z: 0 }
    const [hip, knee] = ['leftUpperLeg', 'leftLowerLeg'].map(r => vec3At(rest.positions, joints[r]))
    const inside: Vec3 = [hip[0] + 0.04, (hip[1] + knee[1]) / 2, hip[2]]
    told.distanceTo(out, [joints.leftUpperLeg], ...inside)
    expect(out.distance).toBeCloseTo(-0.02, 2)
    expect(out.x).toBeGreaterThan(0.98)
    told.distanceTo(out, [joints.leftUpperLeg], inside[0] + 0.05, inside[1], inside[2])
    expect(out.distance).toBeCloseTo(0.03, 2)
    // nothing farther than what is asked for
    told.distanceTo(out, [joints.leftUpperLeg], inside[0] + 0.5, inside[1], inside[2], 0.1)
    expect(out.distance).toBe(Infinity)
  })
})

describe('the body people usually have around such bones', () => {
  it('is the same whatever the joint axes, unit and up, and grows with the bones', () => {
    const plain = biped()
    const usual = usualRadii(plain, joints, bodyFrame(plain, joints))
    const height = usualHeight(plain, joints)
    for (const seed of [2, 9, 31]) {
      const other = biped({ axes: wildAxes(seed), place: ([x, y, z]) => [100 * x, -100 * z, 100 * y] })
      const radii = usualRadii(other, joints, bodyFrame(other, joints))
      expect(usualHeight(other, joints)).toBeCloseTo(100 * height, 1)
      for (const [role, limb] of Object.entries(usual)) {
        expect(radii[role].bone, role).toBeCloseTo(100 * limb.bone, 2)
        for (let i = 0; i < limb.radii.length; i += 17)
          expect(radii[role].radii[i] / (100 * limb.radii[i]), role).toBeCloseTo(1, 1)
      }
    }
  })
  it('has the breadths and depths of tables of people', () => {
    const s = biped()
    const radii = usualRadii(s, joints, bodyFrame(s, joints))
    const height = usualHeight(s, joints)
    const wide = (role: string, share: number): number => fleshAt(radii[role], 1, share * radii[role].bone, 0) / height
    const deep = (role: string, share: number): number => fleshAt(radii[role], 0, share * radii[role].bone, 1) / height
    expect(wide('hips', 0.2)).toBeGreaterThan(0.08)
    expect(wide('hips', 0.2)).toBeLessThan(0.12)
    expect(deep('hips', 0.2)).toBeCloseTo(0.065, 2)
    expect(wide('leftUpperLeg', 0.1)).toBeCloseTo(0.05, 2)
    expect(deep('head', 0.4)).toBeCloseTo(0.06, 2)
    // a point that much outside is told so
    expect(clearOf(radii.hips, 0.3, 0, 0)).toBeCloseTo(0.3 - fleshAt(radii.hips, 1, 0, 0), 5)
  })
  it('stands on its feet: nothing else is near the ground at rest', () => {
    const s = biped()
    const frame = bodyFrame(s, joints)
    const { outermost } = usualSurface(s, joints, frame)
    const rest = worldPose(s)
    const soles = solesOf(s, joints, frame)
    const ground = Math.min(...Object.values(soles).flatMap(x => x.rest))
    outermost.joints.forEach((j, i) => {
      const [x, y, z] = vec3At(outermost.places, i)
      const q = quatAt(rest.rotations, j)
      const t: Vec3 = [2 * (q[1] * z - q[2] * y), 2 * (q[2] * x - q[0] * z), 2 * (q[0] * y - q[1] * x)]
      const up = rest.positions[3 * j + 1] + y + q[3] * t[1] + q[2] * t[0] - q[0] * t[2]
      expect(up, outermost.roles[i]).toBeGreaterThan(ground + 0.2)
    })
    expect(outermostOfRadii(usualRadii(s, joints, frame), s, joints).joints.length).toBe(outermost.joints.length)
  })
})

describe('soles', () => {
  it('are heel, ball and tip in a line on the ground, whatever the joint axes, with toes or without', () => {
    for (const seed of [1, 8, 15]) {
      const s = biped({ axes: wildAxes(seed) })
      for (const own of [
        joints,
        Object.fromEntries(Object.entries(joints).filter(([r]) => !r.endsWith('Toes'))) as typeof joints,
      ]) {
        const frame = bodyFrame(s, own)
        const rest = worldPose(s)
        for (const sole of Object.values(solesOf(s, own, frame))) {
          const at = ({ joint, at: [x, y, z] }: typeof sole.heel): Vec3 => {
            const q = quatAt(rest.rotations, joint)
            const t: Vec3 = [2 * (q[1] * z - q[2] * y), 2 * (q[2] * x - q[0] * z), 2 * (q[0] * y - q[1] * x)]
            return [
              rest.positions[3 * joint] + x + q[3] * t[0] + q[1] * t[2] - q[2] * t[1],
              rest.positions[3 * joint + 1] + y + q[3] * t[1] + q[2] * t[0] - q[0] * t[2],
              rest.positions[3 * joint + 2] + z + q[3] * t[2] + q[0] * t[1] - q[1] * t[0],
            ]
          }
          const [heel, ball, tip] = [sole.heel, sole.ball, sole.tip].map(at)
          expect(heel[2]).toBeLessThan(ball[2])
          expect(ball[2]).toBeLessThan(tip[2])
          for (const [i, p] of [heel, ball, tip].entries()) expect(p[1]).toBeCloseTo(sole.rest[i], 4)
          expect(Math.max(...sole.rest) - Math.min(...sole.rest)).toBeLessThan(1e-6)
        }
      }
    }
  })
})
