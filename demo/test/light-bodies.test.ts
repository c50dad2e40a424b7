import { describe, expect, it } from 'vitest'
import { writeGlb } from '@chiraxis/core/formats'
import type { Mesh } from '@chiraxis/core/mesh'
import { openFigure } from '@chiraxis/core/steps'
import { makeFigure, makeHound, variedHound, variedProportions } from '../src/figures'
import { makeStranger } from '../src/strangers'

/** Bodies of three generators, from file to light body: none of these seeds was looked at while the method was made. */
const BODIES: readonly { readonly name: string; readonly mesh: () => Promise<Mesh>; readonly bends: RegExp }[] = [
  {
    name: 'a figure of other proportions',
    mesh: async () => makeFigure(variedProportions(611), { vertices: 9000 }).mesh,
    bends: /^(left|right)(Arm|Leg) 1$/,
  },
  {
    name: 'a hound',
    mesh: async () => makeHound(variedHound(612), { vertices: 9000 }).mesh,
    bends: /^(left|right)(Front|Hind)Leg 1$/,
  },
  {
    name: 'a stranger in a robe to the ground',
    mesh: async () =>
      (await makeStranger(613, { build: 'woman', stance: 'a-pose', dress: 'robe', make: 'one surface' })).mesh,
    bends: /^(left|right)Arm 1$/,
  },
  {
    name: 'a stranger in armour with bent elbows',
    mesh: async () =>
      (await makeStranger(614, { build: 'heavy', stance: 'elbows bent', dress: 'armour', make: 'scan' })).mesh,
    bends: /^(left|right)(Arm|Leg) 1$/,
  },
]

describe('light bodies', () => {
  it('of few quads have hands as wholes, and say so', async () => {
    const bytes = await writeGlb({ name: 'few', mesh: await BODIES[0].mesh() })
    const { recipe, derivation } = await openFigure({ name: 'body.glb', bytes })
    const { report, limbs } = await derivation.get('light', { ...recipe, light: { quads: 700 } })
    expect(report.quads).toBeLessThan(760)
    expect(report.told).toEqual(['so few quads leave fingers undivided'])
    expect(limbs).not.toContain('leftIndex')
    expect(report.crossings).toBe(0)
  }, 60_000)

  for (const { name, mesh, bends } of BODIES)
    it(`of ${name} lie on it, bend at its joints and never pass through themselves`, async () => {
      const bytes = await writeGlb({ name, mesh: await mesh() })
      const { recipe, derivation } = await openFigure({ name: 'body.glb', bytes })
      const asked = { ...recipe, light: { quads: 4000 } }
      const { straightened } = await derivation.get('shape', asked)
      const { report, far } = await derivation.get('light', asked)
      expect(Math.abs(report.quads - 4000)).toBeLessThan(120)
      expect(report.crossings).toBe(0)
      expect(report.irregular / report.vertices).toBeLessThan(0.05)
      expect(report.deviation.mean).toBeLessThan(0.0025 * straightened.height)
      expect(far.length).toBe(report.vertices)
      const joints = report.loops.filter(l => bends.test(`${l.limb} ${l.joint}`))
      expect(joints.length).toBeGreaterThanOrEqual(2)
      for (const { loops } of joints) expect(loops.length).toBeGreaterThanOrEqual(3)
      const figure = await derivation.get('lightFigure', asked)
      expect(figure.mesh.parts.filter(p => p.paired).reduce((n, p) => n + p.count, 0)).toBe(6 * report.quads)
    }, 120_000)
})
