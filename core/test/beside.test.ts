import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { ADJUST_DEFAULTS, adjustTake, timeMapOf, trimTake, type AdjustSettings } from '../src/adjust'
import { IDENTITY, quatAt, vec3At, type Quat } from '../src/math'
import { resampleTake, retime, sampleTake, takeSeconds, type Take } from '../src/motion'
import { bodyFrame, transfer } from '../src/retarget'
import { recogniseRoles } from '../src/skeleton'
import { biped, wildTake } from './skeletons'

const skeleton = biped()
const roles = recogniseRoles(skeleton)
const frame = bodyFrame(skeleton, roles.joints)

/** A take whose tracks tell their own time: the scalar is the moment, the root is there times a metre. */
function clocked(frames = 90, fps = 30): Take {
  const plain = wildTake(skeleton, 5, frames)
  const at = (f: number): number => f / fps
  return {
    ...plain,
    fps,
    root: {
      translations: Float32Array.from({ length: 3 * frames }, (_, i) => (i % 3 === 0 ? at(Math.floor(i / 3)) : 0)),
      rotations: Float32Array.from({ length: 4 * frames }, (_, i) => (i % 4 === 3 ? 1 : 0)),
    },
    scalars: [
      { name: 'clock', kind: 'curve', values: Float32Array.from({ length: frames }, (_, f) => at(f)) },
      { name: 'leftBlink', kind: 'expression', values: new Float32Array(frames).fill(0.3) },
    ],
    events: Array.from({ length: 8 }, (_, i) => ({ time: (i * (frames - 1)) / fps / 7, name: `e${i}`, data: { i } })),
  }
}
const played = (take: Take) => ({ skeleton, joints: roles.joints, take, frame })
const clock = (take: Take): Float32Array => take.scalars!.find(s => s.name === 'clock')!.values

const anySettings = fc.record(
  {
    trim: fc
      .tuple(fc.double({ min: 0, max: 1.2, noNaN: true }), fc.double({ min: 0.3, max: 1.5, noNaN: true }))
      .map(([from, long]): [number, number] => [from, from + long]),
    pace: fc.double({ min: 0.4, max: 2.5, noNaN: true }),
    fps: fc.constantFrom(24, 30, 48, 60, 120),
  },
  { requiredKeys: [] },
)

describe('what goes along with a take', () => {
  it('keeps its time through trim, pace and other rates, as the time map tells', () => {
    const take = clocked()
    fc.assert(
      fc.property(anySettings, settings => {
        const map = timeMapOf(settings as Partial<AdjustSettings>, take)
        const result = adjustTake(played(take), settings as Partial<AdjustSettings>)
        expect(clock(result)).toHaveLength(result.frames)
        expect(result.root!.rotations).toHaveLength(4 * result.frames)
        expect(Math.abs(takeSeconds(result) - map.seconds)).toBeLessThanOrEqual(0.5 / result.fps + 1e-6)
        clock(result).forEach((value, f) => {
          const moment = Math.min(takeSeconds(take), map.toRecording(f / result.fps))
          // at the very end a rate may not meet the last frame
          expect(Math.abs(value - moment)).toBeLessThan(f === result.frames - 1 ? 0.05 : 1e-3)
          expect(vec3At(result.root!.translations, f)[0]).toBeCloseTo(value, 5)
        })
        for (const event of result.events!) {
          const from = take.events!.find(e => e.name === event.name)!
          expect(Math.abs(event.time - map.toResult(from.time))).toBeLessThan(0.02)
          expect(event.data).toEqual(from.data)
        }
        // no moment inside is lost, and none outside is kept
        const inside = take.events!.filter(e => {
          const t = map.toResult(e.time)
          return t > 0.02 && t < map.seconds - 0.02
        })
        for (const e of inside) expect(result.events!.map(r => r.name)).toContain(e.name)
      }),
      { numRuns: 60 },
    )
  })
  it('and the time map goes there and back', () => {
    fc.assert(
      fc.property(anySettings, fc.double({ min: 0, max: 3, noNaN: true }), (settings, t) => {
        const map = timeMapOf(settings as Partial<AdjustSettings>, { frames: 90, fps: 30 })
        expect(map.toResult(map.toRecording(t))).toBeCloseTo(t, 9)
      }),
    )
    const whole = timeMapOf(ADJUST_DEFAULTS, { frames: 91, fps: 30 })
    expect([whole.seconds, whole.toRecording(1), whole.toResult(1)]).toEqual([3, 1, 1])
    expect(timeMapOf({ loopBlend: 0.5 }, { frames: 91, fps: 30 }).seconds).toBeCloseTo(2.5, 6)
  })
  it('is exact on whole frames', () => {
    const take = clocked()
    const cut = trimTake(take, 0.5, 2)
    expect(clock(cut)).toEqual(clock(take).slice(15, 61))
    expect(cut.events!.every(e => e.time >= 0 && e.time <= takeSeconds(cut))).toBe(true)
    expect(clock(resampleTake(take, 60)).filter((_, f) => f % 2 === 0)).toEqual(clock(take))
    expect(retime(take, take.frames, take.fps)).toEqual({ root: take.root, scalars: take.scalars, events: take.events })
  })
  it('is mirrored: the root across the middle, expressions of one side to the other', () => {
    const take = clocked(10)
    const mirrored = adjustTake(played(take), { mirror: true })
    expect(mirrored.scalars!.map(s => s.name)).toEqual(['clock', 'rightBlink'])
    const back = adjustTake(played(mirrored), { mirror: true })
    expect(back.scalars!.map(s => s.name)).toEqual(['clock', 'leftBlink'])
    back.root!.translations.forEach((v, i) => expect(v).toBeCloseTo(take.root!.translations[i]!, 4))
  })
  it('closes its loop as the joints do', () => {
    const take = clocked(90)
    const { scalars, frames } = adjustTake(played(take), { loopBlend: 0.5 })
    const values = scalars![0]!.values
    expect(values).toHaveLength(frames)
    // the first frame is nearly what came after the last one
    expect(Math.abs(values[0]! - take.scalars![0]!.values[frames]!)).toBeLessThan(0.1)
  })
  it('is carried to another skeleton, the root in its size, all else as it is', async () => {
    const half = { ...skeleton, restTranslations: skeleton.restTranslations.map(v => v / 2) }
    const take = clocked(20)
    const { take: carried, travel } = await transfer(skeleton, take, half)
    expect(travel.scale).toBeCloseTo(0.5, 3)
    expect(carried.scalars).toEqual(take.scalars)
    expect(carried.events).toEqual(take.events)
    carried.root!.translations.forEach((v, i) => expect(v).toBeCloseTo(take.root!.translations[i]! / 2, 4))
    expect(quatAt(carried.root!.rotations, 3)).toEqual([...IDENTITY] as Quat)
  })
  it('is not there where nothing was', () => {
    const plain = wildTake(skeleton, 12)
    const result = adjustTake(played(plain), { pace: 2, trim: [0, 0.2], fps: 24 })
    expect([result.root, result.scalars, result.events]).toEqual([undefined, undefined, undefined])
  })
})

describe('a take', () => {
  it('is sampled without anything being made: the same numbers, whatever is written into', () => {
    const take = clocked(30)
    const J = skeleton.names.length
    const single = { translations: new Float32Array(3 * J), rotations: new Float32Array(4 * J) }
    const double = { translations: new Float64Array(3 * J), rotations: new Float64Array(4 * J) }
    fc.assert(
      fc.property(fc.double({ min: -1, max: 3, noNaN: true }), t => {
        sampleTake(take, t, single)
        sampleTake(take, t, double)
        for (let i = 0; i < 4 * J; i++) expect(single.rotations[i]).toBeCloseTo(double.rotations[i]!, 6)
        for (let j = 0; j < J; j++) expect(Math.hypot(...quatAt(double.rotations, j))).toBeCloseTo(1, 5)
      }),
    )
  })
})
