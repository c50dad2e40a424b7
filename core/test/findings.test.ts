import { describe, expect, it } from 'vitest'
import { findAll, mendOne, RULES, type FindingContext } from '../src/findings'
import { applyEdits, BIPED_LANDMARKS, landmarkSection, placeLandmark, type Landmark } from '../src/landmarks'
import { partnerOf } from '../src/body'
import type { Straightened } from '../src/shape'
import { tube } from './shapes'

const straightened: Straightened = {
  matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
  up: '+y',
  facing: '+z',
  unit: 'm',
  scale: 1,
  turn: 0,
  offMidline: 0,
  offGround: 0,
  asymmetry: 0,
  height: 2,
  confidence: { up: 1, facing: 1, unit: 1 },
}
const arm = tube(
  Array.from({ length: 21 }, (_, i) => [0.5, i / 10, 0]),
  0.08,
  32,
)
const at = (id: string, y: number, x = 0.5): Landmark => ({ id, position: [x, y, 0], confidence: 0.9 })

describe('rules', () => {
  it('each have an id of their own', () => {
    expect(new Set(RULES.map(r => r.id)).size).toBe(RULES.length)
  })
  it('find nothing in nothing', async () => {
    expect(await findAll({})).toEqual([])
  })
  it('name a guess and where it is', async () => {
    const [f] = await findAll({ landmarks: [{ id: 'leftElbow', position: [0, 1, 0], confidence: 0.3 }] })
    expect(f).toMatchObject({
      rule: 'guessed-landmark',
      severity: 'warning',
      where: 'Left elbow',
      target: 'leftElbow',
      mendable: false,
    })
  })
  it('find a landmark off the middle of its limb, and mend it there', async () => {
    const context: FindingContext = {
      mesh: arm,
      straightened,
      landmarks: [at('leftShoulder', 1.8), at('leftElbow', 1, 0.54), at('leftWrist', 0.2)],
      edits: {},
    }
    const [f] = await findAll(context)
    expect(f).toMatchObject({ rule: 'off-centre', value: 4, unit: 'cm', mendable: true })
    const remedy = mendOne(f, context)!
    const mended = applyEdits(context.landmarks!, remedy.edits!, 2)
    expect(mended[1].position[0]).toBeCloseTo(0.5, 3)
    expect(await findAll({ ...context, landmarks: mended })).toEqual([])
  })
  it('tell what straightening changed and what it was unsure of', async () => {
    const rules = await findAll({
      straightened: {
        ...straightened,
        turn: 7,
        unit: 'cm',
        scale: 0.01,
        offGround: 0.3,
        confidence: { up: 1, facing: 0.2, unit: 1 },
      },
    })
    expect(rules.filter(f => f.severity === 'note').map(f => f.rule)).toEqual(['turned-body', 'unit-off', 'off-ground'])
    expect(rules[0]).toMatchObject({ rule: 'unsure-stance', where: 'facing', severity: 'warning' })
  })
})

describe('landmarks by hand', () => {
  const all: Landmark[] = BIPED_LANDMARKS.map((k, i) => ({
    id: k.id,
    position: [k.side === 'left' ? 0.3 : k.side === 'right' ? -0.32 : 0, i / 20, 0],
    confidence: 0.9,
  }))
  it('are kept as shares of height, so that they survive a change of unit', () => {
    const edits = placeLandmark(all, {}, 'leftKnee', [0.2, 0.5, 0.1], { mirror: false, height: 2 })
    expect(edits).toEqual({ leftKnee: [0.1, 0.25, 0.05] })
    expect(applyEdits(all, edits, 200).find(l => l.id === 'leftKnee')).toMatchObject({
      position: [20, 50, 10],
      confidence: 1,
    })
  })
  it('move their partner by the mirrored way, and midline ones stay on the midline', () => {
    const knee = all.find(l => l.id === 'leftKnee')!
    const edits = placeLandmark(all, {}, 'leftKnee', [0.35, knee.position[1] + 0.1, 0.02], { mirror: true, height: 1 })
    expect(edits.rightKnee[0]).toBeCloseTo(-0.37)
    expect(edits.rightKnee[2]).toBeCloseTo(0.02)
    expect(placeLandmark(all, {}, 'chest', [0.1, 1, 0], { mirror: true, height: 1 }).chest[0]).toBe(0)
    expect(BIPED_LANDMARKS.every(k => partnerOf(partnerOf(k.id)) === k.id)).toBe(true)
  })
  it('know the cut of the body there', () => {
    const cut = landmarkSection(
      arm,
      [at('leftShoulder', 1.8), at('leftElbow', 1, 0.53), at('leftWrist', 0.2)],
      'leftElbow',
    )!
    expect(cut.off).toBeCloseTo(0.03, 2)
  })
})
