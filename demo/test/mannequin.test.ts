import { describe, expect, it } from 'vitest'
import { writeGlb, proveGlb } from '@chiraxis/core/formats'
import { detectLandmarks, landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { distance, fromAxisAngle, multiply, quatAt, setQuat, vec3At, scale } from '@chiraxis/core/math'
import { applyStraighten, straighten } from '@chiraxis/core/shape'
import { buildBiped, jointByRole, worldPose } from '@chiraxis/core/skeleton'
import { bind, deform } from '@chiraxis/core/skin'
import { mannequin, type MannequinShape } from './mannequin'

const BASE: MannequinShape = { height: 1.75, armsDown: 10, sides: 8, overlap: 0.6, thickness: 1, skirt: false }
const TIPS: Record<string, string> = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }

async function measure(
  change: Partial<MannequinShape>,
): Promise<{ mean: number; worst: number; landmarks: Landmark[] }> {
  const m = mannequin({ ...BASE, ...change })
  const s = await straighten(m.mesh)
  const landmarks = await detectLandmarks(applyStraighten(m.mesh, s))
  const unit = s.height / m.height
  const errors = landmarks.flatMap(l => {
    const truth = m.joints[landmarkKind(l.id)!.role ?? TIPS[l.id]]
    return truth ? [distance(l.position, scale(truth, unit)) / s.height] : []
  })
  return { mean: errors.reduce((a, b) => a + b, 0) / errors.length, worst: Math.max(...errors), landmarks }
}

describe('bodies of another make: loose overlapping prisms', () => {
  const cases: [string, Partial<MannequinShape>][] = [
    ['arms straight out', { armsDown: 0 }],
    ['arms a little down', { armsDown: 25 }],
    ['arms well down', { armsDown: 50 }],
    ['arms hanging', { armsDown: 72 }],
    ['thin', { thickness: 0.7 }],
    ['stout', { thickness: 1.45 }],
    ['square limbs', { sides: 4 }],
    ['round limbs, a toy of 30 cm', { sides: 24, height: 0.3 }],
    ['in centimetres', { height: 175 }],
  ]
  for (const [name, change] of cases) {
    it(`are understood: ${name}`, async () => {
      const { mean, worst, landmarks } = await measure(change)
      expect(mean).toBeLessThan(0.03)
      expect(worst).toBeLessThan(0.07)
      for (const l of landmarks) {
        const { side } = landmarkKind(l.id)!
        if (side !== 'middle') expect(Math.sign(l.position[0])).toBe(side === 'left' ? 1 : -1)
      }
    })
  }
  it('hide their legs under a skirt: near the truth, and told as a guess', async () => {
    const { mean, landmarks } = await measure({ skirt: true, armsDown: 30 })
    expect(mean).toBeLessThan(0.03)
    for (const id of ['leftHip', 'rightHip']) expect(landmarks.find(l => l.id === id)!.confidence).toBeLessThan(0.6)
  })
  it('bend cleanly: a raised arm and a lifted leg keep everything else in place', async () => {
    const { mesh } = mannequin({ ...BASE, armsDown: 40 })
    const skeleton = buildBiped(await detectLandmarks(mesh))
    const skin = await bind(mesh, skeleton)
    const rotations = skeleton.restRotations.slice()
    for (const [role, axis, degrees] of [
      ['leftUpperArm', [0, 0, 1], 60],
      ['leftUpperLeg', [1, 0, 0], -60],
    ] as const) {
      const j = jointByRole(skeleton, role)
      setQuat(rotations, j, multiply(quatAt(skeleton.restRotations, j), fromAxisAngle(axis, (degrees * Math.PI) / 180)))
    }
    const posed = deform(mesh.positions, skeleton, skin, worldPose(skeleton, skeleton.restTranslations, rotations))
    let held = 0,
      swung = 0
    for (let v = 0; v < mesh.positions.length / 3; v++) {
      const p = vec3At(mesh.positions, v)
      const moved = distance(p, vec3At(posed, v))
      // the whole right half away from the midline stands still; the left hand and foot travel
      if (p[0] < -0.12) {
        expect(moved).toBeLessThan(0.004)
        held++
      }
      if (p[0] > 0.45 || (p[0] > 0.05 && p[1] < 0.12)) {
        expect(moved).toBeGreaterThan(0.2)
        swung++
      }
    }
    expect(held).toBeGreaterThan(40)
    expect(swung).toBeGreaterThan(10)
    const content = { name: 'mannequin', mesh, skeleton, skin }
    expect((await proveGlb(await writeGlb(content), content)).validatorErrors).toBe(0)
  })
})
