import { beforeAll, describe, expect, it } from 'vitest'
import { detectLandmarks, landmarkKind, type Landmark } from '@chiraxis/core/landmarks'
import { distance, invertAffine, seededRandom, transformPoint, type Vec3 } from '@chiraxis/core/math'
import { meshOf } from '@chiraxis/core/mesh'
import { applyStraighten, straighten } from '@chiraxis/core/shape'
import { disturb, variedDisturbance, type MadeFigure } from '../src/figures'
import { FRESH_SEEDS, freshBody, odaBody, pimBody } from './bodies'

const TIPS: Record<string, string> = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }

interface Errors {
  mean: number
  worst: number
  worstAt: string
  swapped: boolean
  sureButWrong: number
}

/** Distances to the truth as shares of height. */
function errorsOf(landmarks: readonly Landmark[], joints: Readonly<Record<string, Vec3>>, height: number): Errors {
  const list = landmarks.flatMap(l => {
    const role = landmarkKind(l.id)!.role ?? TIPS[l.id]
    return role && joints[role]
      ? [{ id: l.id, d: distance(l.position, joints[role]) / height, confidence: l.confidence }]
      : []
  })
  const worst = list.reduce((a, b) => (b.d > a.d ? b : a))
  return {
    mean: list.reduce((s, e) => s + e.d, 0) / list.length,
    worst: worst.d,
    worstAt: worst.id,
    swapped: landmarks.some(
      l =>
        (landmarkKind(l.id)!.side === 'left' && l.position[0] < 0) ||
        (landmarkKind(l.id)!.side === 'right' && l.position[0] > 0),
    ),
    sureButWrong: list.filter(e => e.d > 0.05 && e.confidence > 0.6).length,
  }
}

async function upright(figure: MadeFigure): Promise<Errors> {
  return errorsOf(await detectLandmarks(figure.mesh), figure.joints, figure.height)
}

describe('landmarks', () => {
  it('on the demo figures: mean under 1.5 % of height, worst under 4 %', async () => {
    for (const figure of [odaBody(), pimBody()]) {
      const e = await upright(figure)
      expect(e.mean).toBeLessThan(0.015)
      expect(e.worst, e.worstAt).toBeLessThan(0.04)
      expect(e.swapped).toBe(false)
    }
  })

  describe('on ten fresh bodies, turned, noisy, in any unit and up axis', () => {
    const all: Errors[] = []
    beforeAll(async () => {
      for (const seed of FRESH_SEEDS) {
        const figure = freshBody(seed)
        const awkward = disturb(figure, variedDisturbance(seed), seed)
        const s = await straighten(awkward.mesh)
        const landmarks = await detectLandmarks(applyStraighten(awkward.mesh, s))
        const joints: Record<string, Vec3> = {}
        for (const [role, p] of Object.entries(awkward.joints)) joints[role] = transformPoint(s.matrix, p)
        all.push(errorsOf(landmarks, joints, s.height))
      }
      const mean = all.reduce((s, e) => s + e.mean, 0) / all.length
      console.log(
        `landmarks on fresh bodies: mean ${(100 * mean).toFixed(2)} %, worst body ${(100 * Math.max(...all.map(e => e.mean))).toFixed(2)} %, worst landmark ${(100 * Math.max(...all.map(e => e.worst))).toFixed(2)} %`,
      )
    })
    it('mean under 2.5 % of height on every one', () => {
      for (const [i, e] of all.entries()) expect(e.mean, `seed ${FRESH_SEEDS[i]}`).toBeLessThan(0.025)
    })
    it('left and right never swapped', () => {
      expect(all.filter(e => e.swapped)).toHaveLength(0)
    })
    it('nothing far off that claims to be sure', () => {
      expect(all.reduce((n, e) => n + e.sureButWrong, 0)).toBe(0)
    })
  })

  it('follow the body when the file is turned', async () => {
    const figure = odaBody()
    const turned = disturb(figure, { noise: 0, turn: 90, unit: 100, zUp: true, offset: [1, 0.3, -2] }, 1)
    const s = await straighten(turned.mesh)
    expect(s).toMatchObject({ up: '+z', unit: 'cm' })
    const back = invertAffine(turned.matrix)!
    const toMade = (p: Vec3): Vec3 => transformPoint(back, transformPoint(invertAffine(s.matrix)!, p))
    const plain = await detectLandmarks(figure.mesh)
    for (const l of await detectLandmarks(applyStraighten(turned.mesh, s))) {
      expect(distance(toMade(l.position), plain.find(p => p.id === l.id)!.position) / figure.height, l.id).toBeLessThan(
        0.02,
      )
    }
  })

  it('keep a well-made file where it stands', async () => {
    const s = await straighten(odaBody().mesh)
    expect(s.matrix.map(v => Math.round(v * 1e6) / 1e6)).toEqual([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1])
  })

  it('are refused on bodies that are no standing figure', async () => {
    const ball: number[] = []
    const faces: number[] = []
    for (let i = 0; i <= 24; i++)
      for (let j = 0; j < 32; j++)
        ball.push(
          Math.sin((Math.PI * i) / 24) * Math.cos((Math.PI * j) / 16),
          1 - Math.cos((Math.PI * i) / 24),
          Math.sin((Math.PI * i) / 24) * Math.sin((Math.PI * j) / 16),
        )
    for (let i = 0; i < 24; i++)
      for (let j = 0; j < 32; j++) {
        const a = 32 * i + j,
          b = 32 * i + ((j + 1) % 32)
        faces.push(a, a + 32, b, b, a + 32, b + 32)
      }
    await expect(detectLandmarks(meshOf(Float32Array.from(ball), Uint32Array.from(faces)))).rejects.toMatchObject({
      code: 'not-a-biped',
    })
    // crumbs: triangles that enclose nothing
    const random = seededRandom(3)
    const soup = Float32Array.from({ length: 900 }, () => random())
    await expect(
      detectLandmarks(
        meshOf(
          soup,
          Uint32Array.from({ length: 300 }, (_, i) => i),
        ),
      ),
    ).rejects.toMatchObject({ code: 'not-a-biped' })
  })
})
