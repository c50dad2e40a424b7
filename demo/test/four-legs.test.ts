import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { adjustTake } from '@chiraxis/core/adjust'
import { readBvh, writeBvh, writeVrmAnimation } from '@chiraxis/core/formats'
import { findContacts, footSkate, tracksOf, type Take } from '@chiraxis/core/motion'
import { detectBody } from '@chiraxis/core/landmarks'
import { angleOf, fromAxisAngle, normalize, quatAt, seededRandom, type Quat } from '@chiraxis/core/math'
import { buildFourleg, recogniseRoles, worldPose, type Skeleton } from '@chiraxis/core/skeleton'
import { FOUR_LEGS } from '@chiraxis/core/body'
import { bodyFrame, prepareTransfer, transfer } from '@chiraxis/core/retarget'
import { perform } from '@chiraxis/core/perform'
import { BRINDLE, makeHound, variedHound } from '../src/figures'
import { HOUND_MOVES, MOVES, NORTH, NORTH_HOUND, record, SOUTH_HOUND, type Habit } from '../src/takes'

const bare = (s: Skeleton, name: (n: string, j: number) => string = n => n): Skeleton => ({
  ...s,
  roles: s.names.map(() => undefined),
  names: s.names.map(name),
})
const rig = async (proportions: typeof BRINDLE): Promise<Skeleton> =>
  buildFourleg((await detectBody(makeHound(proportions, { vertices: 8000 }).mesh, 'fourleg')).landmarks, 6)
const PARTS = ['UpperLeg', 'LowerLeg', 'Foot', 'Toes']

let brindle: Skeleton
beforeAll(async () => {
  brindle = await rig(BRINDLE)
})

describe('a skeleton on four legs', () => {
  const told = record(HOUND_MOVES[0], NORTH_HOUND).skeleton
  const truth = recogniseRoles(bare(told)).joints

  it('is read whatever its legs are called', () => {
    expect(FOUR_LEGS.flatMap(l => PARTS.map(p => told.names[truth[l + p]]))).toEqual(
      FOUR_LEGS.flatMap(l => PARTS.map(p => `north:${l[0].toUpperCase()}${l.slice(1)}${p}`)),
    )
    const arms = (n: string): string =>
      n
        .replace('FrontUpperLeg', 'Arm')
        .replace('FrontLowerLeg', 'ForeArm')
        .replace('FrontFoot', 'Hand')
        .replace('FrontToes', 'Palm')
        .replace('FrontShoulder', 'Collar')
        .replace('HindUpperLeg', 'UpLeg')
        .replace('HindLowerLeg', 'Leg')
        .replace('Hind', '')
    const quarters = (n: string): string =>
      n
        .replace('north:', '')
        .replace(/^(Left|Right)(Front|Hind)(.*)/, (_, s: string, q: string, p: string) => `${p}_${q[0]}${s[0]}`)
    for (const name of [
      arms,
      quarters,
      (_: string, j: number) => `bone${(j * 17) % 64}`,
      (n: string) => n.toLowerCase().replace('north:', 'dog_'),
    ]) {
      const read = recogniseRoles(bare(told, name))
      expect(read.kind).toBe('fourleg')
      expect(read.missing).toEqual([])
      for (const role of [...FOUR_LEGS.flatMap(l => PARTS.map(p => l + p)), 'hips', 'head', 'neck', 'tail1', 'tail5'])
        expect(read.joints[role], role).toBe(truth[role])
    }
  })

  it('is not seen in people, upright or with their rest pose in a line', () => {
    for (const habit of [NORTH]) {
      const { skeleton } = record(MOVES[0], habit)
      expect(recogniseRoles(bare(skeleton, (_, j) => `b${j}`)).kind).toBe('biped')
      const line = {
        ...skeleton,
        roles: skeleton.names.map(() => undefined),
        restTranslations: skeleton.restTranslations.map((v, i) =>
          i % 3 === 1 ? Math.hypot(...skeleton.restTranslations.subarray(i - 1, i + 2)) : 0 * v,
        ),
      }
      expect(recogniseRoles(line).kind).toBe('biped')
    }
  })

  it('is not seen in somebody who sits with arms ahead', () => {
    const lean = (x: number): Quat => fromAxisAngle([1, 0, 0], x)
    const seated: Habit = {
      ...NORTH,
      rest: {
        leftUpperLeg: lean(-Math.PI / 2),
        rightUpperLeg: lean(-Math.PI / 2),
        leftLowerLeg: lean(-1.3),
        rightLowerLeg: lean(-1.3),
        leftUpperArm: fromAxisAngle([0, 1, 0], -Math.PI / 2),
        rightUpperArm: fromAxisAngle([0, 1, 0], Math.PI / 2),
      },
    }
    const read = recogniseRoles(bare(record(MOVES[0], seated).skeleton))
    expect(read.kind).toBe('biped')
    expect(read.missing).toEqual([])
  })

  it('faces where its front legs are, whatever axes it was recorded in', () => {
    fc.assert(
      fc.property(
        fc.tuple(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 }), fc.integer({ min: 0, max: 3 })),
        quarters => {
          const space = quarters.reduce<Quat>(
            (q, n, k) =>
              mul(q, fromAxisAngle(k === 0 ? [1, 0, 0] : k === 1 ? [0, 1, 0] : [0, 0, 1], (n * Math.PI) / 2)),
            [0, 0, 0, 1],
          )
          const { skeleton } = record(HOUND_MOVES[0], { ...NORTH_HOUND, space })
          expect(
            (angleOf(bodyFrame(skeleton, recogniseRoles(bare(skeleton)).joints), [
              -space[0],
              -space[1],
              -space[2],
              space[3],
            ]) *
              180) /
              Math.PI,
          ).toBeLessThan(0.1)
        },
      ),
      { numRuns: 12, seed: 5 },
    )
  })
})

const mul = (a: Quat, b: Quat): Quat => [
  a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
  a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
  a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
  a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
]

/** Worst difference of any joint in any frame, degrees. */
function difference(s: Skeleton, a: Take, b: Take, only: RegExp = /./): number {
  const J = s.names.length
  let worst = 0
  for (let f = 0; f < a.frames; f++) {
    const p = worldPose(s, a.translations, a.rotations, f * J),
      q = worldPose(s, b.translations, b.rotations, f * J)
    for (let j = 0; j < J; j++)
      if (only.test(s.names[j])) worst = Math.max(worst, angleOf(quatAt(p.rotations, j), quatAt(q.rotations, j)))
  }
  return (worst * 180) / Math.PI
}

describe('takes on four legs', () => {
  it('rest on their paws on other hounds, from either performer', async () => {
    const figures = [brindle, await rig(variedHound(41)), await rig(variedHound(58))]
    for (const move of HOUND_MOVES)
      for (const habit of [NORTH_HOUND, SOUTH_HOUND]) {
        const file = readBvh(
          writeBvh(...(({ skeleton, take }) => [skeleton, take] as const)(record(move, habit))),
          move.name,
        )
        for (const figure of figures) {
          const { measures } = await perform(file.skeleton!, file.takes[0], figure)
          expect(measures.footSkateMetresPerSecond, `${move.name} ${habit.name}`).toBeLessThan(0.01)
          expect(measures.clearance, `${move.name} ${habit.name}`).toBeGreaterThan(-0.003)
          expect(measures.footError, `${move.name} ${habit.name}`).toBeLessThan(0.05)
        }
      }
  })

  it('agree between joint axes and units to a hundredth of a degree', async () => {
    const random = seededRandom(3)
    const table = new Map<string, Quat>()
    const wild: Habit = {
      ...NORTH_HOUND,
      unit: 100,
      space: fromAxisAngle([1, 0, 0], Math.PI / 2),
      axes: role =>
        table.get(role) ??
        (table.set(role, fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), 5 * random())),
        table.get(role)!),
    }
    const [a, b] = [NORTH_HOUND, wild].map(h => record(HOUND_MOVES[1], h))
    const one = await transfer(bare(a.skeleton), a.take, brindle),
      two = await transfer(bare(b.skeleton), b.take, brindle)
    expect(difference(brindle, one.take, two.take)).toBeLessThan(0.02)
    // a trunk of other joint counts carries the shoulders elsewhere, so front legs reach differently for the same paws
    const other = record(HOUND_MOVES[1], SOUTH_HOUND)
    const three = await transfer(other.skeleton, other.take, brindle)
    expect(difference(brindle, one.take, three.take, /Hind|hips/)).toBeLessThan(0.05)
    expect(difference(brindle, one.take, three.take, /Front|spine|chest/)).toBeLessThan(2.5)
  })

  it('come back exactly onto the same skeleton', async () => {
    for (const move of HOUND_MOVES) {
      const { skeleton, take } = record(move, NORTH_HOUND)
      const { take: back } = await transfer(skeleton, take, skeleton)
      expect(difference(skeleton, take, back)).toBeLessThan(0.01)
      expect(Math.max(...back.translations.map((v, i) => Math.abs(v - take.translations[i])))).toBeLessThan(1e-4)
    }
  })

  it('find their contacts as the generator made them', () => {
    for (const move of HOUND_MOVES) {
      const { skeleton, take, contacts } = record(move, NORTH_HOUND)
      const { joints } = recogniseRoles(skeleton)
      const found = findContacts({ skeleton, joints, take, frame: bodyFrame(skeleton, joints) })
      const agree = contacts.reduce(
        (n, c, f) => n + FOUR_LEGS.filter((leg, k) => c[k] === (found[leg][f] === 1)).length,
        0,
      )
      expect(agree / (4 * contacts.length), move.name).toBeGreaterThan(0.88)
    }
  })

  it('are mirrored, and step farther without sliding', () => {
    const { skeleton, take } = record(HOUND_MOVES[1], NORTH_HOUND)
    const { joints } = recogniseRoles(skeleton)
    const played = { skeleton, joints, take, frame: bodyFrame(skeleton, joints) }
    const mirrored = adjustTake(played, { mirror: true })
    const [own, other] = [
      tracksOf(played, ['leftFrontToes'])!,
      tracksOf({ ...played, take: mirrored }, ['rightFrontToes'])!,
    ]
    expect(other.rightFrontToes![3 * 40 + 2]).toBeCloseTo(own.leftFrontToes![3 * 40 + 2], 3)
    expect(other.rightFrontToes![3 * 40]).toBeCloseTo(-own.leftFrontToes![3 * 40], 3)
    const far = { ...played, take: adjustTake(played, { stepLength: 1.15 }) }
    const hips = (p: typeof played): number => tracksOf(p, ['hips']).hips!.at(-1)!
    expect(hips(far) / hips(played)).toBeGreaterThan(1.1)
    expect(footSkate(far, findContacts(played))).toBeLessThan(0.12)
  })

  it('and takes on two legs are not carried onto each other, and no humanoid file is made of them', async () => {
    const hound = record(HOUND_MOVES[0], NORTH_HOUND),
      person = record(MOVES[0], NORTH)
    expect(() => prepareTransfer(hound.skeleton, person.skeleton)).toThrow(/four legs/)
    expect(() => prepareTransfer(person.skeleton, brindle)).toThrow(/four legs/)
    await expect(writeVrmAnimation(hound.skeleton, hound.take)).rejects.toThrow(/humanoid/)
  })
})
