import { beforeAll, describe, expect, it } from 'vitest'
import { readBvh, writeBvh } from '@chiraxis/core/formats'
import { detectLandmarks } from '@chiraxis/core/landmarks'
import { angleOf, fromAxisAngle, multiply, normalize, quatAt, seededRandom, type Quat } from '@chiraxis/core/math'
import type { Take } from '@chiraxis/core/motion'
import { buildBiped, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { perform } from '@chiraxis/core/perform'
import { transfer } from '@chiraxis/core/retarget'
import { MOVES, NORTH, NORTH_ALONG, PERSON, record, SOUTH, type Habit } from '../src/takes'
import { odaBody } from './bodies'

let oda: Skeleton
beforeAll(async () => {
  oda = buildBiped(await detectLandmarks(odaBody().mesh))
})

/** Worst difference of any joint in any frame, degrees. */
function difference(a: Take, b: Take): number {
  const n = oda.names.length
  let worst = 0
  for (let f = 0; f < a.frames; f++) {
    const p = worldPose(oda, a.translations, a.rotations, f * n)
    const q = worldPose(oda, b.translations, b.rotations, f * n)
    for (let j = 0; j < n; j++) worst = Math.max(worst, angleOf(quatAt(p.rotations, j), quatAt(q.rotations, j)))
  }
  return (worst * 180) / Math.PI
}

/** As a file would bring it. */
function throughFile(r: { skeleton: Skeleton; take: Take }): { skeleton: Skeleton; take: Take } {
  const read = readBvh(writeBvh(r.skeleton, r.take), r.take.name)
  return { skeleton: read.skeleton!, take: read.takes[0] }
}

describe('one performance on other skeletons', () => {
  for (const move of MOVES) {
    it(`${move.name}: North and South agree on Oda within half a degree per joint`, async () => {
      const [a, b] = [NORTH, SOUTH].map(h => throughFile(record(move, h)))
      const one = await transfer(a.skeleton, a.take, oda)
      const two = await transfer(b.skeleton, b.take, oda)
      expect(one.performer.missing).toEqual([])
      const d = difference(one.take, two.take)
      console.log(`${move.name}: North against South ${d.toFixed(3)} degrees`)
      expect(d).toBeLessThan(0.5)
    })
  }
  it('agrees exactly when only the joint axes differ', async () => {
    const random = seededRandom(12)
    const wild: Habit = {
      ...NORTH,
      axes: () => fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 5 * random()),
    }
    const fixed = new Map<string, [number, number, number, number]>()
    const habit: Habit = {
      ...wild,
      axes: role => fixed.get(role) ?? (fixed.set(role, wild.axes!(role)), fixed.get(role)!),
    }
    const walk = MOVES.find(m => m.name === 'walk')!
    const plain = record(walk, NORTH)
    const base = await transfer(plain.skeleton, plain.take, oda)
    for (const h of [NORTH_ALONG, habit]) {
      const r = record(walk, h)
      expect(difference(base.take, (await transfer(r.skeleton, r.take, oda)).take)).toBeLessThan(0.02)
    }
  })
})

/** A recording system with habits of its own: axes, unit, up, rest pose, spine, fingers or none. */
function anyHabit(seed: number): Habit {
  const random = seededRandom(seed)
  const anyTurn = (): Quat => fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 6 * random())
  const axes = new Map<string, Quat>()
  const space = fromAxisAngle(
    (
      [
        [1, 0, 0],
        [0, 1, 0],
        [0, 0, 1],
      ] as const
    )[Math.floor(3 * random())],
    (Math.PI / 2) * Math.floor(4 * random()),
  )
  const count = 2 + Math.floor(4 * random())
  const at = Array.from({ length: count }, (_, i) => 0.12 + (0.64 * i) / (count - 1))
  const bare = random() < 0.5
  const names = Object.fromEntries([
    ...Object.entries(NORTH.names).filter(
      ([role]) => !role.startsWith('spine') && !(bare && /Thumb|Index|Middle|Ring|Little/.test(role)),
    ),
    ...at.map((_, i) => [`spine${i}`, `north:Spine${i}`]),
  ]) as Record<string, string>
  const rest: Record<string, Quat> = {}
  for (const [side, k] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const aside = 2 * Math.PI * random()
    rest[`${side}UpperArm`] = fromAxisAngle([0, 0, 1], -k * 1.4 * random())
    if (random() < 0.6)
      rest[`${side}LowerArm`] = multiply(
        rest[`${side}UpperArm`],
        fromAxisAngle([0, Math.cos(aside), Math.sin(aside)], 0.8 * random()),
      )
    if (random() < 0.5) rest[`${side}UpperLeg`] = fromAxisAngle([Math.cos(aside), 0, Math.sin(aside)], 0.3 * random())
    if (random() < 0.5)
      rest[`${side}LowerLeg`] = multiply(
        rest[`${side}UpperLeg`] ?? [0, 0, 0, 1],
        fromAxisAngle([1, 0, 0], 0.5 * random()),
      )
  }
  return {
    ...NORTH,
    unit: [1, 100, 1000, 0.3][Math.floor(4 * random())],
    space,
    names,
    runs: { spine: { ...NORTH.runs.spine, at } },
    rest,
    axes: role => axes.get(role) ?? (axes.set(role, anyTurn()), axes.get(role)!),
  }
}

describe('one performance on any skeleton', () => {
  it('agrees within half a degree per joint, whatever its axes, unit, up, rest pose and joint counts', async () => {
    for (let seed = 101; seed < 125; seed++) {
      const move = MOVES[(7 * seed) % MOVES.length]
      const plain = record(move, NORTH),
        other = record(move, anyHabit(seed))
      const unnamed = { ...other.skeleton, roles: other.skeleton.names.map(() => undefined) }
      const one = await transfer(plain.skeleton, plain.take, oda),
        two = await transfer(unnamed, other.take, oda)
      expect(difference(one.take, two.take), `${move.name}, seed ${seed}`).toBeLessThan(0.5)
    }
  })
})

describe('feet', () => {
  it('rest where the generator says they rest, and hardly slide afterwards', async () => {
    for (const move of MOVES) {
      const r = record(move, SOUTH)
      const p = await perform(r.skeleton, r.take, oda)
      let agree = 0
      r.contacts.forEach(([left, right], f) => {
        if (left === (p.contacts.left[f] === 1)) agree++
        if (right === (p.contacts.right[f] === 1)) agree++
      })
      // on a ladder feet rest on rungs, which are not the ground, and step so short that they are still before they rest
      expect(agree / (2 * r.contacts.length), move.name).toBeGreaterThan(move.name === 'ladder climb' ? 0.87 : 0.93)
      // where the ground would have to move nothing is told
      expect(p.measures.footSkateMetresPerSecond ?? 0, move.name).toBeLessThan(0.01)
      expect(p.measures.footSkateMetresPerSecond === null, move.name).toBe(move.name === 'treadmill walk')
      expect(p.measures.clearance * 1.72, move.name).toBeGreaterThan(-0.003)
    }
  })
})

describe('recordings', () => {
  it('are of one person: same bones, whatever the unit', () => {
    const north = record(MOVES[0], NORTH).skeleton
    const south = record(MOVES[0], SOUTH).skeleton
    const thigh = (s: Skeleton, name: string): number =>
      Math.hypot(...s.restTranslations.subarray(3 * s.names.indexOf(name), 3 * s.names.indexOf(name) + 3))
    expect(thigh(south, 'knee.L')).toBeCloseTo(100 * thigh(north, 'north:LeftShin'), 3)
    expect(thigh(north, 'north:LeftShin')).toBeCloseTo(PERSON.leftUpperLeg[1] - PERSON.leftLowerLeg[1], 5)
  })
})
