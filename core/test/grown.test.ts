import { beforeAll, describe, expect, it } from 'vitest'
import { makeFigure, ODA, referenceSkin, trueSkeleton } from '@chiraxis/demo/figures'
import { MOVES, record, SOUTH } from '@chiraxis/demo/takes'
import { vec3At, type Vec3 } from '../src/math'
import type { Mesh } from '../src/mesh'
import type { Take } from '../src/motion'
import { perform, TRANSFER_DEFAULTS } from '../src/perform'
import { atBind, worldPose, type Skeleton } from '../src/skeleton'
import type { Skin } from '../src/skin'
import { bodySurfaceOf, grownMesh, marginsOf } from '../src/surface'

/** A body that counts for larger than it is drawn. */
describe('volumes grown by hand', () => {
  let mesh: Mesh, skeleton: Skeleton, skin: Skin
  let joints: Record<string, number>
  beforeAll(() => {
    const figure = makeFigure(ODA, { vertices: 8000 })
    mesh = figure.mesh
    skeleton = trueSkeleton(figure)
    skin = referenceSkin(figure, skeleton)
    joints = Object.fromEntries(skeleton.roles.flatMap((r, j) => (r ? [[r, j]] : [])))
  })
  it('are the body itself where nothing is told, and leave alone what they do not name', () => {
    expect(grownMesh(mesh, skeleton, skin, {})).toBe(mesh)
    expect(grownMesh(mesh, skeleton, skin, { thirdArm: 0.1 })).toBe(mesh)
    const grown = grownMesh(mesh, skeleton, skin, { head: 0.03 })
    const margins = marginsOf(skeleton, { head: 0.03 })
    let most = 0
    for (let v = 0; v < mesh.positions.length / 3; v++) {
      const far = Math.hypot(...[0, 1, 2].map(k => grown.positions[3 * v + k] - mesh.positions[3 * v + k]))
      const own = Array.from({ length: skin.influences }, (_, i) => skin.influences * v + i)
      const share = own.reduce((s, i) => s + skin.weights[i] * margins[skin.joints[i]], 0)
      expect(far).toBeCloseTo(share, 4)
      most = Math.max(most, far)
    }
    expect(most).toBeCloseTo(0.03, 3)
  })
  it('are what bones are thick around, what lies on the ground first, and how far places are', async () => {
    const grown = { chest: 0.04, hips: 0.04, spine: 0.04 }
    const [plain, large] = await Promise.all(
      [mesh, grownMesh(mesh, skeleton, skin, grown)].map(m => bodySurfaceOf(m, skeleton, skin, joints)),
    )
    const middle = (s: typeof plain, role: string): number => s.radii[role].mean[7]
    expect(middle(large, 'spine') - middle(plain, 'spine')).toBeGreaterThan(0.025)
    expect(middle(large, 'leftLowerLeg')).toBeCloseTo(middle(plain, 'leftLowerLeg'), 5)
    const w = worldPose(atBind(skeleton))
    const at: Vec3 = [...vec3At(w.positions, joints.spine)]
    at[2] += 0.3
    const off = [plain, large].map(s => {
      const out = { distance: 0, x: 0, y: 0, z: 0 }
      s.exact!.pose(w)
      s.exact!.distanceTo(out, [joints.spine], ...at)
      return out.distance
    })
    expect(off[0] - off[1]).toBeGreaterThan(0.03)
    expect(off[0] - off[1]).toBeLessThan(0.045)
  })
  it('keep the arms farther away while the figure stands, and change nothing of its legs', async () => {
    const { skeleton: performer, take } = record(
      MOVES.find(m => m.name === 'walk')!,
      SOUTH,
    )
    const trunk = { hips: 0.08, spine: 0.08, chest: 0.08 }
    const [plain, large] = await Promise.all(
      [mesh, grownMesh(mesh, skeleton, skin, trunk)].map(async m =>
        perform(performer, take, skeleton, {
          settings: TRANSFER_DEFAULTS,
          surface: await bodySurfaceOf(m, skeleton, skin, joints),
        }),
      ),
    )
    const wide = (t: Take): number => {
      let sum = 0
      for (let f = 0; f < t.frames; f += 4) {
        const w = worldPose(skeleton, t.translations, t.rotations, f * skeleton.names.length)
        sum += Math.hypot(
          ...vec3At(w.positions, joints.leftHand).map((v, k) => v - vec3At(w.positions, joints.rightHand)[k]),
        )
      }
      return sum / Math.ceil(t.frames / 4)
    }
    expect(wide(large.take)).toBeGreaterThan(wide(plain.take) + 0.02)
    const legs = ['leftUpperLeg', 'rightUpperLeg', 'leftLowerLeg', 'rightLowerLeg'].map(r => joints[r])
    const n = skeleton.names.length
    for (let f = 0; f < take.frames; f += 9)
      for (const j of legs)
        for (let c = 0; c < 4; c++)
          expect(large.take.rotations[4 * (f * n + j) + c]).toBeCloseTo(plain.take.rotations[4 * (f * n + j) + c], 4)
  })
})
