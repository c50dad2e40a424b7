import { describe, expect, it } from 'vitest'
import { conjugate, rotate, vec3At } from '@chiraxis/core/math'
import { findContacts, followPlaces, footSkate, rootPath, type Played, type Take } from '@chiraxis/core/motion'
import { bodyFrame } from '@chiraxis/core/retarget'
import { rootTake, travelFromFeet, wayGone, type RootSettings } from '@chiraxis/core/root-motion'
import { recogniseRoles, worldPose } from '@chiraxis/core/skeleton'
import { solesOf } from '@chiraxis/core/surface'
import {
  BRISK,
  CROUCHED,
  gait,
  HOUND_MOVES,
  NORTH,
  NORTH_ALONG,
  NORTH_HOUND,
  record,
  RUN,
  SOUTH,
  SOUTH_HOUND,
  WALK,
  type Habit,
  type Move,
} from '../src/takes'

function played(move: Move, habit: Habit, fps: number, noise?: { degrees: number; seed: number }): Played {
  const { skeleton, take } = record(move, habit, fps, noise)
  const { joints } = recogniseRoles(skeleton)
  return { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
}

/** In place: evenly carried back by the mean speed, or nailed to where the hips began. */
function inPlace(own: Played, how: 'evenly' | 'nailed'): Take {
  const { skeleton, joints, take, frame } = own
  const path = rootPath(own)
  const J = skeleton.names.length
  const translations = take.translations.slice()
  const last = take.frames - 1
  for (let f = 0; f <= last; f++) {
    const share = f / last
    const x = how === 'nailed' ? path.across[f] - path.across[0] : share * (path.across[last] - path.across[0])
    const z = how === 'nailed' ? path.ahead[f] - path.ahead[0] : share * (path.ahead[last] - path.ahead[0])
    const [a, b, c] = rotate(conjugate(frame), [x, 0, z])
    const o = 3 * (f * J + joints.hips)
    translations[o] -= a
    translations[o + 1] -= b
    translations[o + 2] -= c
  }
  return { ...take, translations }
}

/** Metres from beginning to end as recorded, and as told from feet. */
function told(own: Played, take: Take, unit: number): { true: number; found: number; sideways: number } {
  const soles = solesOf(own.skeleton, own.joints, own.frame)
  const way = rootPath(own)
  const last = take.frames - 1
  const shift = travelFromFeet({ ...own, take }, soles)
  return {
    true: (way.ahead[last] - way.ahead[0]) / unit,
    found: shift[2 * last + 1] / unit,
    sideways: shift[2 * last] / unit,
  }
}

const GAITS: readonly [string, Move][] = [
  ['walk', gait('walk', WALK, 4 * WALK.cycle, 21)],
  ['brisk', gait('brisk', BRISK, 4 * BRISK.cycle, 23)],
  ['run', gait('run', RUN, 5 * RUN.cycle, 31)],
  ['crouched', gait('crouched', CROUCHED, 4 * CROUCHED.cycle, 25)],
  // none of the demo's: slow and shuffling, long strides, a slow jog
  ['shuffle', gait('shuffle', { ...WALK, speed: 0.5, cycle: 1.3, stance: 0.7, lift: 0.03 }, 5, 4)],
  // its legs do not reach so far: resting feet slip in the recording itself
  ['stride', gait('stride', { ...BRISK, speed: 2.1, cycle: 1.05 }, 4, 5)],
  ['jog', gait('jog', { ...RUN, speed: 2.2, cycle: 0.8, stance: 0.45 }, 4, 6)],
]

describe('travel told from the feet of takes in place', () => {
  for (const [name, move] of GAITS)
    it(`of a ${name} is within ${name === 'stride' ? 4 : 3} % of what it was, however it was put in place`, () => {
      for (const [habit, fps] of [
        [NORTH, 30],
        [SOUTH, 60],
        [NORTH_ALONG, 24],
      ] as const)
        for (const how of ['evenly', 'nailed'] as const) {
          const own = played(move, habit, fps)
          const t = told(own, inPlace(own, how), habit.unit)
          expect(Math.abs(t.found / t.true - 1), `${habit.name} ${how} ${t.found} of ${t.true}`).toBeLessThan(
            name === 'stride' ? 0.04 : 0.03,
          )
          expect(Math.abs(t.sideways)).toBeLessThan(0.03 * t.true)
        }
    })
  it('stays within 6 % where the recording trembles', () => {
    for (const [name, move] of GAITS) {
      const own = played(move, NORTH, 30, { degrees: 0.5, seed: 9 })
      const t = told(own, inPlace(own, 'evenly'), 1)
      expect(Math.abs(t.found / t.true - 1), name).toBeLessThan(0.06)
    }
  })
  it('of a hound is within 3 %', () => {
    for (const habit of [NORTH_HOUND, SOUTH_HOUND])
      for (const move of HOUND_MOVES.slice(1, 3))
        for (const how of ['evenly', 'nailed'] as const) {
          const own = played(move, habit, 30)
          const t = told(own, inPlace(own, how), habit.unit)
          expect(Math.abs(t.found / t.true - 1), `${move.name} ${how} ${t.found} of ${t.true}`).toBeLessThan(0.03)
        }
  })
  it('is next to nothing in a take that travels already, or stands', () => {
    const own = played(GAITS[0][1], NORTH, 30)
    expect(Math.abs(told(own, own.take, 1).found)).toBeLessThan(0.05)
  })
  it('gives an in-place walk its way back, feet staying where they stand', () => {
    const own = played(GAITS[0][1], NORTH, 60)
    const soles = solesOf(own.skeleton, own.joints, own.frame)
    const spot = { ...own, take: inPlace(own, 'nailed') }
    const { take, path } = rootTake(spot, { fromFeet: true }, { soles, contacts: {} })
    const way = wayGone(path).gone
    expect(way[way.length - 1]).toBeGreaterThan(5)
    const a = rootPath(own),
      b = rootPath({ ...own, take })
    for (let f = 0; f < take.frames; f++) expect(Math.abs(a.ahead[f] - b.ahead[f])).toBeLessThan(0.12)
  })
})

describe('a walk led another way', () => {
  for (const [name, way] of [
    ['bent by a quarter', { kind: 'bent', degrees: 90 }],
    [
      'around a corner',
      {
        kind: 'points',
        points: [
          [0, 2],
          [2, 3],
          [4, 2.5],
        ],
      },
    ],
  ] as const)
    it(`${name} slides no more than it did`, () => {
      for (const [, move] of GAITS.slice(0, 4)) {
        const own = played(move, NORTH, 60)
        const contacts = findContacts(own)
        const soles = solesOf(own.skeleton, own.joints, own.frame)
        const before = footSkate(own, contacts)
        const { take } = rootTake(own, { way: way as RootSettings['way'] }, { soles, contacts })
        const after = { ...own, take }
        expect(footSkate(after, contacts), move.name).toBeLessThan(before + 0.01)
        const loose = rootTake(own, { way: way as RootSettings['way'] }, { soles: {}, contacts: {} })
        expect(footSkate({ ...own, take: loose.take }, contacts)).toBeGreaterThan(footSkate(after, contacts))
      }
    })
})

describe('a take on another floor', () => {
  it.each([
    ['uphill', { ahead: 10 }],
    ['downhill', { ahead: -12 }],
    ['across a slope', { across: 8 }],
    ['on a quay', { height: 1.2 }],
  ] as const)('%s stands on it, feet lying along it, sliding no more than before', (_, floor) => {
    for (const [, move] of GAITS.slice(0, 2)) {
      const own = played(move, NORTH, 60)
      const contacts = findContacts(own)
      const soles = solesOf(own.skeleton, own.joints, own.frame)
      const before = footSkate(own, contacts)
      const { take } = rootTake(own, { floor }, { soles, contacts })
      const after: Played = { ...own, take }
      expect(footSkate(after, contacts)).toBeLessThan(before + 0.02)
      const rise = (k: 'ahead' | 'across'): number =>
        Math.tan((((floor as Record<string, number>)[k] ?? 0) * Math.PI) / 180)
      const high = (floor as { height?: number }).height ?? 0
      for (const leg of ['left', 'right']) {
        const { heel, ball, tip, rest } = soles[leg]
        const tracks = followPlaces(after, [heel, ball, tip])
        let under = 0,
          off = 0,
          count = 0
        for (let f = 0; f < take.frames; f++) {
          const over = tracks.map(
            (t, i) => t[3 * f + 1] - rest[i] - high - rise('across') * t[3 * f] - rise('ahead') * t[3 * f + 2],
          )
          under = Math.min(under, ...over)
          if (!contacts[leg][f]) continue
          off += Math.min(...over.map(Math.abs))
          count++
        }
        // the model's own toes dip 2 cm while they swing
        expect(under, `${move.name} ${leg}`).toBeGreaterThan(-0.045)
        expect(off / count, `${move.name} ${leg}`).toBeLessThan(0.006)
      }
      // nobody's leg is torn
      const rest = worldPose(own.skeleton)
      const J = own.skeleton.names.length
      const bone = (w: { positions: ArrayLike<number> }, a: number, b: number): number =>
        Math.hypot(...[0, 1, 2].map(k => w.positions[3 * a + k] - w.positions[3 * b + k]))
      for (let f = 0; f < take.frames; f += 7) {
        const w = worldPose(own.skeleton, take.translations, take.rotations, f * J)
        const [a, b] = [own.joints.leftUpperLeg, own.joints.leftLowerLeg]
        expect(bone(w, a, b)).toBeCloseTo(bone(rest, a, b), 4)
      }
    }
  })
  it.each([
    ['up low steps', { from: 0.6, rise: 0.12, tread: 0.35, count: 8 }],
    ['up steps as long as its own', { from: 0.8, rise: 0.17, tread: 0.7, count: 5 }],
    ['down', { from: 0.9, rise: -0.15, tread: 0.6, count: 6 }],
    ['onto a quay', { from: 1, rise: 0.3, tread: 4, count: 1 }],
  ] as const)('with stairs, %s: feet rest on steps and go over their edges', (_, stairs) => {
    for (const [, move] of GAITS.slice(0, 2)) {
      const own = played(move, NORTH, 60)
      const contacts = findContacts(own)
      const soles = solesOf(own.skeleton, own.joints, own.frame)
      const before = footSkate(own, contacts)
      const { take } = rootTake(own, { floor: { stairs } }, { soles, contacts })
      const after: Played = { ...own, take }
      expect(footSkate(after, contacts), move.name).toBeLessThan(before + 0.02)
      const under = (z: number): number =>
        stairs.rise * Math.min(stairs.count, Math.max(0, Math.floor((z - stairs.from) / stairs.tread) + 1))
      for (const leg of ['left', 'right']) {
        const { heel, ball, tip, rest } = soles[leg]!
        const tracks = followPlaces(after, [heel, ball, tip])
        const flat = followPlaces(own, [heel, ball, tip])
        let resting = 0,
          count = 0,
          sunk = 0
        for (let f = 0; f < take.frames; f++) {
          const z = tracks[1]![3 * f + 2]!
          if (contacts[leg]![f]) {
            // on the step it stands on, as high over it as it was over the ground
            const over = tracks[1]![3 * f + 1]! - under(z + 1e-4)
            resting += Math.abs(over - flat[1]![3 * f + 1]!)
            count++
          }
          tracks.forEach((t, i) => {
            // what a flat sole would have sunk into flat ground it may sink into a step
            const own = Math.min(0, flat[i]![3 * f + 1]! - rest[i]!)
            sunk = Math.min(sunk, t[3 * f + 1]! - rest[i]! - under(t[3 * f + 2]!) - own)
          })
        }
        expect(count).toBeGreaterThan(30)
        expect(resting / count, `${move.name} ${leg} rests`).toBeLessThan(0.02)
        expect(sunk, `${move.name} ${leg} sinks`).toBeGreaterThan(-0.06)
      }
      // the body goes up and down softly
      const J = own.skeleton.names.length
      const heights = Array.from({ length: take.frames }, (_, f) => {
        const w = worldPose(own.skeleton, take.translations, take.rotations, f * J)
        return rotate(own.frame, vec3At(w.positions, own.joints.hips!))[1]
      })
      const climbed = heights.at(-1)! - heights[0]!
      const reached = under(rootPath(after).ahead.at(-1)! + own.joints.hips! * 0)
      expect(Math.abs(climbed - reached)).toBeLessThan(Math.abs(stairs.rise) * 1.2 + 0.06)
      const jolt = heights.slice(1).reduce((m, h, i) => Math.max(m, Math.abs(h - heights[i]!)), 0)
      expect(jolt * 60, 'metres a second').toBeLessThan(1.6)
    }
  })
  it('that is flat is none', () => {
    const own = played(GAITS[0][1], NORTH, 30)
    expect(rootTake(own, { floor: { ahead: 0, height: 0 } }, { soles: {}, contacts: {} }).take).toBe(own.take)
  })
})
