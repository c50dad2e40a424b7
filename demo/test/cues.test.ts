import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { adjustTake, timeMapOf, type AdjustSettings } from '@chiraxis/core/adjust'
import { findCues, FOUND_CUES, travelCurves, withCues, withToldCues, type ToldCue } from '@chiraxis/core/cues'
import { readGltf, writeGlb, deliver } from '@chiraxis/core/formats'
import { findContacts, resampleTake, rootPath, takeSeconds, type Played, type TakeEvent } from '@chiraxis/core/motion'
import { bodyFrame } from '@chiraxis/core/retarget'
import { recogniseRoles } from '@chiraxis/core/skeleton'
import { BRISK, gait, HOUND_MOVES, MOVES, NORTH, NORTH_HOUND, record, RUN, SOUTH, WALK, type Move } from '../src/takes'

function scene(move: Move, habit = NORTH, fps = 60) {
  const { skeleton, take, contacts: told } = record(move, habit, fps)
  const { joints } = recogniseRoles(skeleton)
  const played: Played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
  return { played, contacts: findContacts(played), told, unit: 1 / habit.unit }
}
const named = (events: readonly TakeEvent[], name: string): TakeEvent[] => events.filter(e => e.name === name)
const move = (name: string): Move => MOVES.find(m => m.name === name)!

describe('moments that are found', () => {
  it.each([
    ['walk', WALK, 5],
    ['brisk', BRISK, 5],
    ['run', RUN, 6],
  ] as const)(
    'footsteps of a %s come one a step, left and right in turn, near where the foot comes down',
    (_, g, cycles) => {
      const s = scene(gait('gait', g, cycles * g.cycle, 8))
      const steps = named(findCues({ ...s, surface: 'planks' }, ['footstep']), 'footstep')
      expect(Math.abs(steps.length - 2 * cycles)).toBeLessThanOrEqual(1)
      steps.forEach((step, i) => {
        if (i > 0) expect(step.data!.foot).not.toBe(steps[i - 1].data!.foot)
        expect(step.data!.surface).toBe('planks')
        // the model's foot is flat a sixth of its stance after its heel struck
        const side = step.data!.foot === 'left' ? 0 : 0.5
        const phase = step.time / g.cycle + side
        const strike = (Math.round(phase) - side) * g.cycle
        expect(Math.abs(step.time - strike - 0.08 * g.stance * g.cycle)).toBeLessThan(0.09)
      })
    },
  )
  it('feet pass each other once a step', () => {
    const s = scene(gait('walk', WALK, 5 * WALK.cycle, 8))
    const events = findCues(s, ['crossing'])
    expect(Math.abs(events.length - 10)).toBeLessThanOrEqual(1)
    for (let i = 1; i < events.length; i++) {
      expect(events[i].data!.ahead).not.toBe(events[i - 1].data!.ahead)
      expect(events[i].time - events[i - 1].time).toBeGreaterThan(0.4)
    }
  })
  it('a run and a hop have heights, and what stands has no moments at all', () => {
    const count = (name: string, kind: string): number =>
      named(findCues(scene(move(name)), [...FOUND_CUES]), kind).length
    expect(count('run', 'apex')).toBe(10)
    expect(count('hop ashore', 'apex')).toBe(1)
    for (const name of ['walk', 'brisk walk', 'crouched walk', 'haul rope', 'clap', 'jig'])
      expect(count(name, 'apex'), name).toBe(0)
    for (const name of ['lookout idle', 'wave', 'haul rope', 'arms crossed', 'carry box', 'sit on bench'])
      expect(count(name, 'crossing'), name).toBe(name === 'carry box' ? 8 : 0)
    expect(findCues(scene(move('lookout idle')), [...FOUND_CUES])).toEqual([])
  })
  it('are found of paws, and whatever the unit', () => {
    const hound = scene(HOUND_MOVES[1], NORTH_HOUND)
    const paws = new Set(named(findCues(hound, ['footstep']), 'footstep').map(e => e.data!.foot))
    expect([...paws].sort()).toEqual(['leftFront', 'leftHind', 'rightFront', 'rightHind'])
    const [a, b] = [scene(move('walk'), NORTH, 30), scene(move('walk'), SOUTH, 30)].map(s =>
      findCues(s, ['footstep', 'crossing']),
    )
    expect(a.map(e => [e.name, e.data!.foot ?? e.data!.ahead])).toEqual(
      b.map(e => [e.name, e.data!.foot ?? e.data!.ahead]),
    )
    a.forEach((e, i) => expect(Math.abs(e.time - b[i].time)).toBeLessThan(0.05))
  })
})

describe('moments told by hand', () => {
  const base = scene(move('walk'), NORTH, 30)
  const told: ToldCue[] = [
    { id: 'a', at: 1, name: 'splash', data: { foot: 'left', loud: 0.5 } },
    { id: 'b', at: 2.5, name: 'leftHandUp' },
    { id: 'c', at: 3.3, name: 'call', data: { words: 'leftover rope' } },
  ]
  it('stay at their moment through trim, pace, mirror and other rates', () => {
    const settings = fc.record(
      {
        trim: fc
          .tuple(fc.double({ min: 0, max: 1.5, noNaN: true }), fc.double({ min: 0.5, max: 3, noNaN: true }))
          .map(([from, long]): [number, number] => [from, from + long]),
        pace: fc.double({ min: 0.4, max: 2.5, noNaN: true }),
        mirror: fc.boolean(),
        fps: fc.constantFrom(24, 30, 60),
      },
      { requiredKeys: [] },
    )
    fc.assert(
      fc.property(settings, s => {
        const adjust = s as Partial<AdjustSettings>
        const take = adjustTake(base.played, adjust)
        const map = timeMapOf(adjust, base.played.take)
        const clock = { timeOf: map.toResult, toRecording: map.toRecording, mirrored: s.mirror === true }
        const events = withToldCues([], told, clock, takeSeconds(take))
        for (const cue of told) {
          const at = map.toResult(cue.at)
          const shown = events.find(e => Math.abs(e.time - at) < 0.02)
          if (at >= 0.001 && at <= takeSeconds(take) - 0.001) expect(shown).toBeDefined()
          else if (at < -0.02 || at > takeSeconds(take) + 0.02) expect(shown).toBeUndefined()
        }
        const splash = events.find(e => e.name === 'splash')
        if (splash) expect(splash.data).toEqual({ foot: s.mirror ? 'right' : 'left', loud: 0.5 })
        const call = events.find(e => e.name === 'call')
        // words that merely begin like a side are no side
        if (call) expect(call.data).toEqual({ words: 'leftover rope' })
        // the same moments along with a take come out the same way
        const carried = adjustTake(
          {
            ...base.played,
            take: {
              ...base.played.take,
              events: withToldCues([], told, { timeOf: t => t, toRecording: t => t, mirrored: false }, 99),
            },
          },
          adjust,
        )
        const inside = (e: TakeEvent): boolean => e.time > 0.02 && e.time < takeSeconds(take) - 0.02
        expect((carried.events ?? []).filter(inside).map(e => e.name)).toEqual(events.filter(inside).map(e => e.name))
      }),
      { numRuns: 60 },
    )
  })
  it('leave out what was found and is not wanted, and only that', () => {
    const found = findCues(base, ['footstep'])
    const gone = found[3]
    const clock = { timeOf: (t: number) => t, toRecording: (t: number) => t, mirrored: false }
    const left = withToldCues(
      found,
      [{ id: 'x', at: gone.time + 0.03, name: 'footstep', data: { foot: gone.data!.foot }, without: true }],
      clock,
      99,
    )
    expect(left).toEqual(found.filter(e => e !== gone))
    // no step is near
    const all = withToldCues(
      found,
      [{ id: 'x', at: (found[3].time + found[4].time) / 2, name: 'footstep', without: true }],
      clock,
      99,
    )
    expect(all).toEqual(found)
  })
})

describe('moments and curves in a file', () => {
  it('are written, proven and read back, through a second writing too', async () => {
    const s = scene(gait('walk', WALK, 4, 3), NORTH, 30)
    const curves = travelCurves(rootPath(s.played, 0.6), 30, ['way', 'speed'])
    const take = withCues(s.played.take, findCues(s, [...FOUND_CUES]), curves)
    const { bytes } = await deliver({ name: 'walk', skeleton: s.played.skeleton, takes: [take] })
    const read = await readGltf(bytes)
    expect(read.takes[0].events).toHaveLength(take.events!.length)
    expect(read.takes[0].events!.map(e => e.data)).toEqual(take.events!.map(e => e.data))
    const way = read.takes[0].scalars!.find(c => c.name === 'way')!.values
    expect(way[way.length - 1]).toBeCloseTo(WALK.speed * 4, 1)
    const again = await readGltf(await writeGlb({ name: 'walk', skeleton: read.skeleton!, takes: read.takes }))
    expect(again.takes[0].events).toEqual(read.takes[0].events)
    expect(resampleTake(again.takes[0], 60).events).toEqual(read.takes[0].events)
  })
})
