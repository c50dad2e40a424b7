import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { angleOf, fromAxisAngle, normalize, quatAt, seededRandom, sub, vec3At, type Quat, type Vec3 } from '../src/math'
import { applyRigEdits, rigOf, type Rig } from '../src/rig'
import {
  bindPose,
  findJoint,
  mirrored,
  mirroredName,
  posed,
  pull,
  pulledBy,
  turnAt,
  turnsOf,
  withTurn,
  worldPose,
} from '../src/skeleton'
import { deform } from '../src/skin'
import { cleanDoll } from './figure'
import { biped, wildAxes, wildTake } from './skeletons'

const seeds = fc.integer({ min: 1, max: 1e6 })
const anyTurn = (random: () => number, most = 1.2): Quat =>
  fromAxisAngle(normalize([random() - 0.5, random() - 0.5, random() - 0.5]), most * random())

let doll: Awaited<ReturnType<typeof cleanDoll>>
beforeAll(async () => {
  doll = await cleanDoll()
})

describe('poses told in the axes of the body', () => {
  it('come back as they were told, whatever the axes of the joints', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const s = biped({ axes: wildAxes(seed) })
        const told = s.roles.flatMap(r => (r && random() < 0.5 ? [{ joint: r, by: anyTurn(random) }] : []))
        const back = new Map(turnsOf(s, posed(s, told)).map(t => [t.joint, t.by]))
        for (const { joint, by } of told) expect(angleOf(back.get(joint) ?? [0, 0, 0, 1], by)).toBeLessThan(2e-3)
        for (const joint of back.keys()) expect(told.some(t => t.joint === joint)).toBe(true)
      }),
      { numRuns: 60 },
    )
  })
  it('look alike on skeletons of other axes', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const [a, b] = [biped({ axes: wildAxes(seed) }), biped({ axes: wildAxes(seed + 1) })]
        const told = a.roles.map(r => ({ joint: r!, by: anyTurn(random) }))
        const places = [a, b].map(s => worldPose(s, s.restTranslations, posed(s, told)).positions)
        places[0].forEach((v, i) => expect(Math.abs(v - places[1][i])).toBeLessThan(2e-5))
      }),
      { numRuns: 40 },
    )
  })
  it('pull a bone to where it is dragged and leave the others as they hang', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const s = biped({ axes: wildAxes(seed) })
        const start = posed(s, [{ joint: 'spine', by: anyTurn(random, 0.4) }])
        const end = findJoint(s, 'leftHand')
        const j = pulledBy(s, end)
        expect(s.roles[j]).toBe('leftLowerArm')
        const before = worldPose(s, s.restTranslations, start).positions
        const to: Vec3 = [random() - 0.5, 1 + random(), random() - 0.5]
        const after = pull(s, start, j, vec3At(before, end), to, true)
        const now = worldPose(s, s.restTranslations, after).positions
        const [wish, is] = [sub(to, vec3At(now, j)), sub(vec3At(now, end), vec3At(now, j))]
        expect(angleBetweenSafe(wish, is)).toBeLessThan(2e-3)
        // the elbow stayed where it was, and nothing but both forearms is turned
        vec3At(now, j).forEach((v, k) => expect(v).toBeCloseTo(before[3 * j + k], 4))
        const changed = s.roles.filter((_, i) => angleOf(quatAt(start, i), quatAt(after, i)) > 1e-3)
        expect(changed.every(r => r === 'leftLowerArm' || r === 'rightLowerArm')).toBe(true)
      }),
      { numRuns: 40 },
    )
  })
  it('are mirrored as a whole or joint by joint alike', () => {
    fc.assert(
      fc.property(seeds, seed => {
        const random = seededRandom(seed)
        const s = biped({ axes: wildAxes(seed) })
        const told = s.roles.flatMap(r => (r?.startsWith('left') ? [{ joint: r, by: anyTurn(random) }] : []))
        const both = told.reduce((r, t) => withTurn(s, r, findJoint(s, t.joint), t.by, true), posed(s, []))
        const apart = posed(s, [...told, ...mirrored(s, told)])
        both.forEach((v, i) => expect(Math.abs(v - apart[i])).toBeLessThan(1e-5))
        const p = worldPose(s, s.restTranslations, both).positions
        for (const { joint } of told) {
          const [a, b] = [vec3At(p, findJoint(s, joint)), vec3At(p, findJoint(s, mirroredName(joint)))]
          expect(Math.hypot(a[0] + b[0], a[1] - b[1], a[2] - b[2])).toBeLessThan(1e-4)
        }
      }),
      { numRuns: 40 },
    )
  })
})
const angleBetweenSafe = (a: Vec3, b: Vec3): number => {
  const [x, y] = [normalize(a), normalize(b)]
  return 2 * Math.asin(Math.min(1, Math.hypot(x[0] - y[0], x[1] - y[1], x[2] - y[2]) / 2))
}

describe('a rest pose made of a pose', () => {
  it('changes no vertex of any frame of any take, and rests as it was posed', async () => {
    const height = 1.7
    for (let seed = 1; seed <= 12; seed++) {
      const random = seededRandom(seed)
      const rig: Rig = { ...doll, takes: [...doll.takes, wildTake(doll.skeleton, seed, 5)] }
      const turns = doll.skeleton.names.flatMap((_, j) => {
        const joint = doll.skeleton.roles[j]
        return joint && random() < 0.7 ? [{ joint, by: anyTurn(random, 2) }] : []
      })
      const { rig: after, lost } = await applyRigEdits(
        rig,
        [{ kind: 'rest', pose: 'posed', degrees: 0, turns }],
        height,
      )
      expect(lost).toEqual([])
      for (const { joint, by } of turns)
        expect(
          angleOf(turnAt(after.skeleton, after.skeleton.restRotations, findJoint(after.skeleton, joint)), by),
        ).toBeLessThan(2e-3)
      const J = doll.skeleton.names.length
      let worst = 0
      rig.takes.forEach((take, t) => {
        for (let f = 0; f < take.frames; f++) {
          const was = deform(
            doll.mesh.positions,
            rig.skeleton,
            doll.skin,
            worldPose(rig.skeleton, take.translations, take.rotations, f * J),
          )
          const { takes, skeleton, skin } = after
          const is = deform(
            doll.mesh.positions,
            skeleton,
            skin!,
            worldPose(skeleton, takes[t].translations, takes[t].rotations, f * J),
          )
          for (let i = 0; i < was.length; i++) worst = Math.max(worst, Math.abs(is[i] - was[i]))
        }
      })
      expect(worst).toBeLessThan(1e-5 * height)
      // the body stays bound where it was
      const [a, b] = [bindPose(rig.skeleton), bindPose(after.skeleton)]
      a.positions.forEach((v, i) => expect(Math.abs(v - b.positions[i])).toBeLessThan(1e-6))
      // and a second pose starts from there, with the first taken back by being told anew
      const back = turns.map(t => ({ joint: t.joint, by: [0, 0, 0, 1] as Quat }))
      const again = await applyRigEdits(after, [{ kind: 'rest', pose: 'posed', degrees: 0, turns: back }], height)
      again.rig.skeleton.restRotations.forEach((v, i) =>
        expect(Math.abs(v - doll.skeleton.restRotations[i])).toBeLessThan(2e-3),
      )
    }
  })
  it('is refused where none of its joints is there, and keeps what still fits', async () => {
    const s = biped()
    const by: Quat = [0, 0, 1, 0]
    const none = await applyRigEdits(
      rigOf(s),
      [{ kind: 'rest', pose: 'posed', degrees: 0, turns: [{ joint: 'gone', by }] }],
      1.7,
    )
    expect(none.lost[0].reason).toMatch(/none of the joints/)
    const some = await applyRigEdits(
      rigOf(s),
      [
        {
          kind: 'rest',
          pose: 'posed',
          degrees: 0,
          turns: [
            { joint: 'gone', by },
            { joint: 'head', by },
          ],
        },
      ],
      1.7,
    )
    expect(some.lost).toEqual([])
    expect(angleOf(turnAt(some.rig.skeleton, some.rig.skeleton.restRotations, findJoint(s, 'head')), by)).toBeLessThan(
      1e-3,
    )
  })
})
