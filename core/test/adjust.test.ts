import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rootTake } from '../src/root-motion'
import { adjustTake, loopSeam, mirrorTake, stepLength, trimTake, vigourOf } from '../src/adjust'
import { tracksOf, type Played, takeSeconds, type Take } from '../src/motion'
import { angleOf, IDENTITY, multiply, conjugate, quatAt, type Quat } from '../src/math'
import { worldPose, type Skeleton } from '../src/skeleton'
import { bodyFrame } from '../src/retarget'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))
const play = (skeleton: Skeleton, take: Take): Played => ({
  skeleton,
  joints,
  take,
  frame: bodyFrame(skeleton, joints),
})
const J = ROLES.length

/** Largest difference of any joint's place over two takes. */
function apart(s: Skeleton, a: Take, b: Take): number {
  expect(b.frames).toBe(a.frames)
  let worst = 0
  for (let f = 0; f < a.frames; f++) {
    const p = worldPose(s, a.translations, a.rotations, f * J).positions,
      q = worldPose(s, b.translations, b.rotations, f * J).positions
    p.forEach((v, i) => {
      worst = Math.max(worst, Math.abs(v - q[i]))
    })
  }
  return worst
}

describe('a mirrored take', () => {
  it('is itself when mirrored again, on any joint axes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
        const s = biped({ axes: wildAxes(seed) })
        const take = wildTake(s, seed + 1)
        const twice = mirrorTake(play(s, mirrorTake(play(s, take))))
        expect(apart(s, take, twice)).toBeLessThan(1e-4)
      }),
      { numRuns: 10 },
    )
  })
  it('puts every joint where its partner was, across the midline', () => {
    const s = biped({ axes: wildAxes(7) })
    const take = wildTake(s, 8)
    const a = tracksOf(play(s, take), ['leftHand', 'rightFoot', 'head']),
      b = tracksOf(play(s, mirrorTake(play(s, take))), ['rightHand', 'leftFoot', 'head'])
    for (const [from, to] of [
      ['leftHand', 'rightHand'],
      ['rightFoot', 'leftFoot'],
      ['head', 'head'],
    ]) {
      for (let i = 0; i < 3 * take.frames; i++) expect(b[to]![i]).toBeCloseTo((i % 3 === 0 ? -1 : 1) * a[from]![i], 4)
    }
  })
})

describe('a take', () => {
  const s = biped({ axes: wildAxes(3) })
  const take = wildTake(s, 4, 61)
  it('is cut to whole frames, and refused where nothing is left', () => {
    const cut = trimTake(take, 0.5, 1.5)
    expect(cut.frames).toBe(31)
    expect([...cut.rotations.subarray(0, 4)]).toEqual([...take.rotations.subarray(4 * 15 * J, 4 * 15 * J + 4)])
    expect(trimTake(take, 0, 99)).toBe(take)
    expect(() => trimTake(take, 5, 6)).toThrow(/Nothing/)
  })
  it('keeps its length at another rate and changes it by its pace', () => {
    for (const fps of [24, 25, 30, 48, 50, 60])
      expect(takeSeconds(adjustTake(play(s, take), { fps }))).toBeCloseTo(2, 1)
    const fast = adjustTake(play(s, take), { pace: 2 })
    expect(fast.fps).toBe(30)
    expect(takeSeconds(fast)).toBeCloseTo(1, 2)
    expect(() => adjustTake(play(s, take), { pace: 0 })).toThrow(/pace/)
    expect(() => adjustTake(play(s, take), { fps: 1000 })).toThrow(/Frames a second/)
  })
  it('stays as it is where nothing is changed', () => {
    expect(adjustTake(play(s, take))).toBe(take)
    expect(vigourOf(play(s, take), 1)).toBe(take)
  })
  it('swings its arms further with more vigour and leaves its legs alone', () => {
    const more = vigourOf(play(s, take), 1.5)
    const swing = (t: Take, j: number): number =>
      Math.max(
        ...Array.from({ length: t.frames }, (_, f) => angleOf(quatAt(t.rotations, f * J + j), quatAt(t.rotations, j))),
      )
    expect(swing(more, joints.leftUpperArm)).toBeGreaterThan(1.2 * swing(take, joints.leftUpperArm))
    expect(swing(more, joints.leftUpperLeg)).toBe(swing(take, joints.leftUpperLeg))
  })
})

/** Standing still but for the travel of the whole body, two metres ahead. */
function gliding(s: Skeleton, frames = 91): Take {
  const rotations = new Float32Array(4 * J * frames),
    translations = new Float32Array(3 * J * frames)
  for (let f = 0; f < frames; f++) {
    rotations.set(s.restRotations, 4 * J * f)
    translations.set(s.restTranslations, 3 * J * f)
    translations[3 * J * f + 2] += (2 * f) / (frames - 1)
  }
  return { name: 'glide', fps: 30, frames, rotations, translations }
}

describe('travel', () => {
  const s = biped()
  const spot = (take: Take): Take =>
    rootTake(play(s, take), { across: 'dropped', ahead: 'dropped' }, { soles: {}, contacts: {} }).take
  it('is taken away on the spot, and nothing else is', () => {
    const hips = tracksOf(play(s, spot(gliding(s))), ['hips']).hips!
    for (let f = 0; f < 91; f++) {
      expect(Math.abs(hips[3 * f + 2])).toBeLessThan(0.002)
      expect(hips[3 * f + 1]).toBeCloseTo(1, 5)
    }
  })
  it('grows with the length of steps', () => {
    const long = tracksOf(play(s, stepLength(play(s, gliding(s)), 1.4)), ['hips']).hips!
    expect(long[3 * 90 + 2] - long[2]).toBeCloseTo(2.8, 1)
  })
  it('runs on over a loop seam without a jump', () => {
    const take = gliding(s)
    for (let f = 0; f < take.frames; f++) {
      // one arm swings with another period than the take's
      const q: Quat = [Math.sin(0.3 * Math.sin(f / 9)), 0, 0, Math.cos(0.3 * Math.sin(f / 9))]
      take.rotations.set(
        multiply(q, quatAt(take.rotations, f * J + joints.leftUpperArm)),
        4 * (f * J + joints.leftUpperArm),
      )
    }
    const looped = loopSeam(play(s, take), 0.6)
    expect(looped.frames).toBe(91 - 18)
    const j = joints.leftUpperArm
    const step = (a: number, b: number, t: Take): number =>
      angleOf(multiply(conjugate(quatAt(t.rotations, a * J + j)), quatAt(t.rotations, b * J + j)), IDENTITY)
    const usual = Math.max(...Array.from({ length: 90 }, (_, f) => step(f, f + 1, take)))
    expect(step(looped.frames - 1, 0, looped)).toBeLessThan(2 * usual)
    expect(step(take.frames - 1, 0, take)).toBeGreaterThan(4 * usual)
  })
})
