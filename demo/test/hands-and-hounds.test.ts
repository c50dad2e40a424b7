import { describe, expect, it } from 'vitest'
import { detectBody, detectFourleg, detectLandmarks, findHands, landmarkKind, standUp } from '@chiraxis/core/landmarks'
import { distance, transformPoint, type Vec3 } from '@chiraxis/core/math'
import { applyStraighten } from '@chiraxis/core/shape'
import { buildPlan } from '@chiraxis/core/skeleton'
import {
  BRINDLE,
  disturb,
  dressed,
  makeFigure,
  makeHound,
  ODA,
  ODA_COLORS,
  PIM,
  variedHound,
  variedProportions,
} from '../src/figures'

const TIPS: Record<string, string> = { nose: 'headEnd', tailTip: 'tailEnd', tailMiddle: 'tailMiddle' }

describe('hands', () => {
  it('show as many fingers as are modelled, each joint within a hundredth of height on average', async () => {
    for (const p of [ODA, PIM, ...[4, 10].map(variedProportions)]) {
      const figure = makeFigure(p, { vertices: 22_000 })
      const hands = await findHands(figure.mesh, await detectLandmarks(figure.mesh))
      const modelled = p.fingers === 0 ? 2 : p.fingers + 1
      expect(hands.seen).toEqual({ left: modelled, right: modelled })
      const off = hands.landmarks.flatMap(l => {
        const truth = figure.joints[landmarkKind(l.id)!.role ?? l.id.replace('Tip', 'End')]
        return truth ? [distance(l.position, truth) / figure.height] : []
      })
      if (off.length > 0) expect(off.reduce((a, b) => a + b, 0) / off.length).toBeLessThan(0.01)
    }
  })
  it('get the fingers that are wished for, by proportion where none show', async () => {
    const figure = makeFigure(PIM, { vertices: 20_000 })
    const body = await detectLandmarks(figure.mesh)
    for (const wish of [0, 1, 3, 5]) {
      const hands = await findHands(figure.mesh, body, { left: wish, right: 'auto' })
      expect(hands.fingers.left).toHaveLength(wish)
      expect(hands.fingers.right).toHaveLength(2)
      const skeleton = buildPlan('biped', [...body, ...hands.landmarks], { found: hands.fingers })
      expect(skeleton.names.filter(n => /^left(Thumb|Index|Middle|Ring|Little)/.test(n))).toHaveLength(3 * wish)
      expect([...skeleton.restRotations].every(Number.isFinite)).toBe(true)
    }
  })
})

describe('a dressed body', () => {
  it('is looked at beneath its coat', async () => {
    const figure = makeFigure(ODA, { vertices: 8000, headless: true })
    const { landmarks } = await detectBody((await dressed(figure, ODA, ODA_COLORS, 2000)).mesh, 'auto')
    const off = landmarks.flatMap(l => {
      const truth = figure.joints[landmarkKind(l.id)!.role ?? '']
      return truth ? [distance(l.position, truth) / figure.height] : []
    })
    expect(off.reduce((a, b) => a + b, 0) / off.length).toBeLessThan(0.015)
    expect(Math.max(...off)).toBeLessThan(0.04)
  })
})

describe('bodies on four legs', () => {
  it('have their landmarks found upright and as they come, and a skeleton of their own', async () => {
    for (const [i, p] of [BRINDLE, ...[3, 7, 11, 16, 20].map(variedHound)].entries()) {
      const hound = makeHound(p, { vertices: 6000 })
      const awkward = disturb(
        hound,
        { noise: 0, turn: i % 2 ? 90 : 0, unit: i % 2 ? 100 : 1, zUp: i % 3 === 1, offset: [0.2 * (i % 2), 0, 0] },
        i,
      )
      const s = await standUp(awkward.mesh)
      const { plan, landmarks } = await detectBody(applyStraighten(awkward.mesh, s), 'auto', { stance: s.confidence })
      expect(plan).toBe('fourleg')
      const off = landmarks.flatMap(l => {
        const truth = awkward.joints[landmarkKind(l.id)!.role ?? TIPS[l.id]]
        return truth ? [distance(l.position, transformPoint(s.matrix, truth) as Vec3) / s.height] : []
      })
      expect(off.reduce((a, b) => a + b, 0) / off.length, `body ${i}`).toBeLessThan(i === 0 ? 0.015 : 0.03)
      for (const l of landmarks) if (l.id.startsWith('left')) expect(l.position[0], l.id).toBeGreaterThan(0)
      const skeleton = buildPlan('fourleg', landmarks, { tailJoints: 5, flex: 1 })
      expect(skeleton.roles).toContain('leftHindFoot')
      expect(skeleton.names.filter(n => /^tail/.test(n))).toHaveLength(5)
    }
  })
  it('are not seen in one that stands on two', async () => {
    await expect(detectFourleg(makeFigure(ODA, { vertices: 5000 }).mesh)).rejects.toMatchObject({ code: 'not-a-biped' })
  })
})
