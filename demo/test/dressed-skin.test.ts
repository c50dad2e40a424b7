import { describe, expect, it } from 'vitest'
import { guessPieces } from '@chiraxis/core/pieces'
import { deform, skinOfPieces } from '@chiraxis/core/skin'
import { ALL_POSES, poseWorld } from '@chiraxis/core/strain'
import { detectBody, landmarkKind, standUp } from '@chiraxis/core/landmarks'
import { distance, transformPoint } from '@chiraxis/core/math'
import { applyStraighten } from '@chiraxis/core/shape'
import { apart, disturb, variedDisturbance } from '../src/figures'
import { makeBeast, makeStranger, trueSkin, type BeastKind } from '../src/strangers'

const POSES = ALL_POSES.filter(p => ['arms-up', 'squat', 'leg-ahead', 'bent-ahead', 'head-down'].includes(p.id))

describe('automatic skin of dressed strangers', () => {
  it('their true weights sum to one at every vertex', async () => {
    const { skin } = trueSkin(await makeStranger(4, { dress: 'robe', make: 'low-poly' }))
    for (let v = 0; v < skin.weights.length; v += skin.influences)
      expect(skin.weights.subarray(v, v + skin.influences).reduce((a, b) => a + b, 0)).toBeCloseTo(1, 4)
  })
  it.each([
    [91_001, 'robe', 0.008],
    [91_002, 'cape', 0.006],
    [91_003, 'horned helmet', 0.003],
    [91_004, 'staff', 0.003],
    [91_005, 'coat', 0.01],
  ] as const)('of seed %i in %s, all in one part, goes where it should', async (seed, dress, most) => {
    const stranger = await makeStranger(seed, { dress, make: 'low-poly', stance: 'a-pose' })
    const { skeleton, skin: truth, natures } = trueSkin(stranger)
    const { mesh } = stranger
    const one = { ...mesh, parts: [{ ...mesh.parts[0], name: 'figure', start: 0, count: mesh.indices.length }] }
    const skin = await skinOfPieces(one, skeleton, await guessPieces(one, skeleton))
    const offs = POSES.map(pose => {
      const posed = poseWorld(skeleton, pose)
      const [a, b] = [truth, skin].map(s => deform(mesh.positions, skeleton, s, posed))
      return apart(a, b, stranger.height).mean
    })
    expect(offs.reduce((a, b) => a + b, 0) / offs.length).toBeLessThan(most)
    // what is stiff rides on one joint, all of it
    const k = skin.influences
    const riders = new Set<number>()
    natures.forEach((nature, v) => {
      if (nature !== 'rigid' || dress === 'robe') return
      expect(skin.weights[v * k]).toBeGreaterThan(0.99)
      riders.add(skin.joints[v * k])
    })
    if (dress === 'staff' || dress === 'horned helmet') expect(riders.size).toBe(1)
  })
})

describe('four-legged strangers', () => {
  it.each<[number, BeastKind, number]>([
    [92_001, 'bull', 0.075],
    [92_002, 'elephant', 0.1],
    [92_003, 'goat', 0.045],
    [92_004, 'cat', 0.04],
  ])('seed %i, a %s, stands and is read as what it is', async (seed, kind, most) => {
    const beast = await makeBeast(seed, { kind, make: 'low-poly' })
    const awkward = disturb({ ...beast, labels: [], near: () => [] }, { ...variedDisturbance(seed), noise: 0 }, seed)
    const s = await standUp(awkward.mesh)
    const { plan, landmarks } = await detectBody(applyStraighten(awkward.mesh, s), 'auto', { stance: s.confidence })
    expect(plan).toBe('fourleg')
    const offs = landmarks.flatMap(l => {
      const role = landmarkKind(l.id)!.role
      const truth = role ? awkward.joints[role] : undefined
      return truth ? [distance(l.position, transformPoint(s.matrix, truth)) / s.height] : []
    })
    expect(offs.length).toBeGreaterThan(20)
    expect(offs.reduce((a, b) => a + b, 0) / offs.length).toBeLessThan(most)
    // its feet on the ground, and its head ahead
    const at = (id: string) => landmarks.find(l => l.id === id)!.position
    expect(at('skullBase')[2]).toBeGreaterThan(at('hips')[2])
    for (const id of ['leftFrontTip', 'rightHindTip']) expect(Math.abs(at(id)[1]) / s.height).toBeLessThan(0.03)
  })
})
