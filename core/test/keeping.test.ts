import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { runBatch } from '../src/batch'
import { nameJobs } from '../src/delivery'
import validator from 'gltf-validator'
import { readBvh, writeBvh, writeGlb, readGltf, writeVrmAnimation } from '../src/formats'
import {
  angleOf,
  conjugate,
  fromAxisAngle,
  fromEuler,
  multiply,
  quatAt,
  seededRandom,
  setQuat,
  toEulerYXZ,
  vec3At,
  type Quat,
  type Vec3,
} from '../src/math'
import type { Mesh } from '../src/mesh'
import type { Take } from '../src/motion'
import { jointsInWorld, skeletonFromWorld, worldPose, type Skeleton } from '../src/skeleton'
import { addFlex } from '../src/skeleton/plan-flex'
import type { Skin } from '../src/skin'
import { bodyRadiiOf, outermostOfRadii, type BodyRadii, type BodySurface } from '../src/surface'
import {
  bodyFrame,
  EMPTY_NOTE,
  parsePerformerNote,
  performerKey,
  restShowsBody,
  standingRest,
  transfer,
  writePerformerNote,
} from '../src/retarget'
import { compareTake, EXACT_TRANSFER, perform } from '../src/perform'
import { keepArmsClear, limitJoints, armClearance } from '../src/correct'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const J = ROLES.length
const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))

/** A body of round limbs: a tube of flesh around every bone, each vertex on its own joint. */
function tubes(s: Skeleton, thick: (role: string) => number): { mesh: Mesh; skin: Skin } {
  const w = worldPose(s)
  const positions: number[] = [],
    owners: number[] = []
  const NEXT: Record<string, string> = {
    hips: 'spine',
    spine: 'chest',
    chest: 'upperChest',
    upperChest: 'neck',
    ...Object.fromEntries(
      ['left', 'right'].flatMap(k => [
        [`${k}UpperArm`, `${k}LowerArm`],
        [`${k}LowerArm`, `${k}Hand`],
        [`${k}UpperLeg`, `${k}LowerLeg`],
      ]),
    ),
  }
  for (const [role, next] of Object.entries(NEXT)) {
    const a = vec3At(w.positions, joints[role]),
      b = vec3At(w.positions, joints[next])
    const d = [b[0] - a[0], b[1] - a[1], b[2] - a[2]],
      l = Math.hypot(...d)
    const x = Math.abs(d[1] / l) > 0.7 ? [1, 0, 0] : [0, 1, 0]
    const n = [d[1] * x[2] - d[2] * x[1], d[2] * x[0] - d[0] * x[2], d[0] * x[1] - d[1] * x[0]],
      nl = Math.hypot(...n)
    const u = n.map(v => v / nl),
      v = [(d[1] * u[2] - d[2] * u[1]) / l, (d[2] * u[0] - d[0] * u[2]) / l, (d[0] * u[1] - d[1] * u[0]) / l]
    for (let i = 0; i <= 12; i++)
      for (let k = 0; k < 24; k++) {
        const c = Math.cos((k * Math.PI) / 12) * thick(role),
          e = Math.sin((k * Math.PI) / 12) * thick(role)
        for (let m = 0; m < 3; m++) positions.push(a[m] + (d[m] * i) / 12 + c * u[m] + e * v[m])
        owners.push(joints[role])
      }
  }
  return {
    mesh: { positions: Float32Array.from(positions), indices: new Uint32Array(), parts: [] } as unknown as Mesh,
    skin: { influences: 1, joints: Uint16Array.from(owners), weights: new Float32Array(owners.length).fill(1) },
  }
}

/** Arms let down until they point straight to the ground, swinging a little. */
function armsDown(s: Skeleton, frames = 40): Take {
  const rotations = new Float32Array(4 * J * frames),
    translations = new Float32Array(3 * J * frames)
  for (let f = 0; f < frames; f++) {
    rotations.set(s.restRotations, 4 * J * f)
    translations.set(s.restTranslations, 3 * J * f)
    for (const [role, k] of [
      ['leftUpperArm', -1],
      ['rightUpperArm', 1],
    ] as const) {
      const swing = fromAxisAngle([1, 0, 0], 0.2 * Math.sin(f / 5))
      rotations.set(
        multiply(multiply(swing, fromAxisAngle([0, 0, 1], (k * Math.PI) / 2)), quatAt(s.restRotations, joints[role])),
        4 * (f * J + joints[role]),
      )
    }
  }
  return { name: 'hang', fps: 30, frames, rotations, translations }
}

describe('elbow room', () => {
  const s = biped()
  // wide hips and thighs, so that hanging arms run into them
  const { mesh, skin } = tubes(s, role => (/Leg|hips|spine|chest|Chest/.test(role) ? 0.17 : 0.04))
  let radii: BodyRadii
  let surface: BodySurface
  beforeAll(async () => {
    radii = await bodyRadiiOf(mesh, s, skin, joints)
    surface = { radii, outermost: outermostOfRadii(radii, s, joints) }
  })
  const played = { skeleton: s, joints, take: armsDown(s), frame: bodyFrame(s, joints) }
  it('is measured against the body as it is', () => {
    expect(radii.hips.radii.reduce((a, b) => a + b, 0) / radii.hips.radii.length).toBeCloseTo(0.17, 2)
    expect(armClearance(played, radii, 'left')).toBeLessThan(0)
  })
  it('keeps both arms as far off as asked, without jumps, and leaves all else alone', () => {
    for (const room of [0, 0.02, 0.06]) {
      const kept = keepArmsClear(played, surface, room)
      expect(Math.min(kept.after.left, kept.after.right)).toBeGreaterThan(room - 0.003)
      for (const j of [joints.leftLowerArm, joints.hips, joints.rightUpperLeg])
        expect([...kept.take.rotations.subarray(4 * j, 4 * j + 4)]).toEqual([
          ...played.take.rotations.subarray(4 * j, 4 * j + 4),
        ])
      for (let f = 1; f < kept.take.frames; f++) {
        const turn = (t: Take): number =>
          angleOf(
            quatAt(t.rotations, (f - 1) * J + joints.leftUpperArm),
            quatAt(t.rotations, f * J + joints.leftUpperArm),
          )
        expect(turn(kept.take)).toBeLessThan(turn(played.take) + 0.08)
      }
    }
  })
  it('leaves arms that are off the body', () => {
    const out = { ...played, take: wildTake(s, 5) }
    const kept = keepArmsClear(out, surface, 0.01)
    expect(kept.take).toBe(out.take)
  })
})

describe('a performer', () => {
  it('whose rest pose is a line along one axis is understood from its take', async () => {
    const s = biped()
    const take = armsDown(s)
    // the same take on joints whose rest lies all along x
    const line: Skeleton = {
      ...s,
      roles: s.roles.map(() => undefined),
      restRotations: s.restRotations.map((_, i) => (i % 4 === 3 ? 1 : 0)),
      restTranslations: s.restTranslations.map((_, i, all) =>
        i < 3 ? all[i] : i % 3 === 0 ? Math.hypot(all[i], all[i + 1], all[i + 2]) : 0,
      ),
    }
    expect(restShowsBody(s, joints)).toBe(true)
    expect(restShowsBody(line, joints)).toBe(false)
    expect(restShowsBody(standingRest(s, joints, take).skeleton, joints)).toBe(true)
    const p = await perform(s, take, s, { note: { ...EMPTY_NOTE, restFrom: 3 }, settings: EXACT_TRANSFER })
    expect(p.restFrame).toBe(3)
    // from another rest the same motion comes out, because limbs are matched
    const plain = await perform(s, take, s, { settings: EXACT_TRANSFER })
    // how far an arm is twisted about itself its direction does not tell
    for (const [j, most] of [
      [joints.leftLowerArm, 0.2],
      [joints.head, 0.02],
      [joints.rightLowerLeg, 0.02],
    ]) {
      const a = worldPose(s, p.take.translations, p.take.rotations, 20 * J),
        b = worldPose(s, plain.take.translations, plain.take.rotations, 20 * J)
      expect(angleOf(quatAt(a.rotations, j), quatAt(b.rotations, j))).toBeLessThan(most)
    }
  })
  it('keeps its role map and rest match in a file of its own', () => {
    const note = {
      map: { leftHand: 'x', head: '' },
      restTurns: { leftUpperArm: [10, 0, -5] as [number, number, number] },
      restFrom: 12,
    }
    const bytes = writePerformerNote('North', note)
    expect(parsePerformerNote(JSON.parse(new TextDecoder().decode(bytes)))).toEqual(note)
    expect(() => parsePerformerNote({ map: {} })).toThrow(/role map/)
    expect(performerKey(biped())).not.toBe(performerKey(biped({ name: r => `a${r}` })))
  })
  it('is turned by hand where its rest pose is matched', async () => {
    const s = biped()
    const take = wildTake(s, 9)
    const turn: Quat = fromAxisAngle([0, 0, 1], 0.3)
    const plain = await transfer(s, take, s),
      turned = await transfer(s, take, s, { restTurns: { leftUpperArm: turn } })
    const at = (t: Take, j: number): Quat => quatAt(worldPose(s, t.translations, t.rotations, 5 * J).rotations, j)
    expect(angleOf(at(plain.take, joints.leftUpperArm), at(turned.take, joints.leftUpperArm))).toBeCloseTo(0.3, 3)
    expect(angleOf(at(plain.take, joints.leftLowerArm), at(turned.take, joints.leftLowerArm))).toBeLessThan(1e-3)
    expect(angleOf(at(plain.take, joints.rightUpperArm), at(turned.take, joints.rightUpperArm))).toBeLessThan(1e-4)
    fc.assert(
      fc.property(
        fc.tuple(
          fc.double({ min: -1.5, max: 1.5, noNaN: true }),
          fc.double({ min: -3, max: 3, noNaN: true }),
          fc.double({ min: -3, max: 3, noNaN: true }),
        ),
        ([x, y, z]) => {
          const q = fromEuler(x, y, z, 'YXZ')
          expect(angleOf(fromEuler(...toEulerYXZ(q), 'YXZ'), q)).toBeLessThan(1e-5)
        },
      ),
    )
  })
  it('leaves a role to nobody where its map says so', async () => {
    const s = biped()
    const t = await transfer(biped({ roles: false }), wildTake(s, 3), s, { map: { performer: { leftToes: '' } } })
    expect([...t.take.rotations.subarray(4 * joints.leftToes, 4 * joints.leftToes + 4)]).toEqual([
      ...s.restRotations.subarray(4 * joints.leftToes, 4 * joints.leftToes + 4),
    ])
    await expect(
      transfer(biped({ roles: false }), wildTake(s, 3), s, { map: { performer: { leftHand: '' } } }),
    ).rejects.toThrow(/leftHand/)
  })
  it('is the one with most joints where a recording holds several, and odd rates are refused', async () => {
    const s = biped({ roles: false })
    const text = new TextDecoder().decode(writeBvh(s, wildTake(s, 2)))
    const [tree, motion] = text.split('MOTION')
    const rows = motion.trim().split('\n')
    const two = `${tree}ROOT lone\n{\nOFFSET 0 0 0\nCHANNELS 3 Zrotation Xrotation Yrotation\nEnd Site\n{\nOFFSET 0 1 0\n}\n}\nMOTION\n${[...rows.slice(0, 2), ...rows.slice(2).map(r => `${r.trim()} 0 0 0`)].join('\n')}\n`
    const read = readBvh(new TextEncoder().encode(two))
    expect(read.skeleton!.names).toHaveLength(J)
    expect(read.dropped[0]).toMatch(/2 skeletons/)
    for (const time of ['0.0000001', '1000000'])
      expect(() => readBvh(new TextEncoder().encode(text.replace(/Frame Time:.*/, `Frame Time: ${time}`)))).toThrow(
        /frames a second/,
      )
  })
})

describe('joints along a limb', () => {
  /** The biped with two joints on each forearm and upper arm. */
  const flexed = (): Skeleton => {
    const plain = jointsInWorld(biped({ axes: wildAxes(21) }))
    return skeletonFromWorld(addFlex(plain, role => (/(Arm|Leg)$/.test(role) ? 2 : 0)))
  }
  it('share the twist of a turned hand, and bones and hands stay as they are', async () => {
    const s = biped()
    const frames = 30
    const rotations = new Float32Array(4 * J * frames),
      translations = new Float32Array(3 * J * frames)
    for (let f = 0; f < frames; f++) {
      rotations.set(s.restRotations, 4 * J * f)
      translations.set(s.restTranslations, 3 * J * f)
      // the hand turns over, about a forearm that lies along x
      rotations.set(fromAxisAngle([1, 0, 0], 0.08 * f), 4 * (f * J + joints.leftHand))
    }
    const take: Take = { name: 'turn', fps: 30, frames, rotations, translations }
    const figure = flexed()
    const t = await transfer(s, take, figure)
    const rest = worldPose(figure),
      last = worldPose(figure, t.take.translations, t.take.rotations, 29 * figure.names.length)
    const turned = (name: string): number => {
      const j = figure.names.indexOf(name)
      return angleOf(quatAt(rest.rotations, j), quatAt(last.rotations, j))
    }
    expect(turned('leftHand')).toBeCloseTo(0.08 * 29, 2)
    expect(turned('leftLowerArm')).toBeLessThan(0.02)
    expect(turned('leftLowerArmFlex1') / turned('leftHand')).toBeCloseTo(1 / 3, 1)
    expect(turned('leftLowerArmFlex2') / turned('leftHand')).toBeCloseTo(2 / 3, 1)
    figure.names.forEach((_, j) => {
      for (let k = 0; k < 3; k++) expect(last.positions[3 * j + k]).toBeCloseTo(rest.positions[3 * j + k], 4)
    })
  })
  it('keep what a performer of the same make does with them, exactly', async () => {
    const s = flexed()
    const n = s.names.length
    const random = seededRandom(5)
    const take: Take = {
      name: 'all',
      fps: 30,
      frames: 6,
      translations: new Float32Array(3 * n * 6).map((_, i) => s.restTranslations[i % (3 * n)]),
      rotations: new Float32Array(4 * n * 6),
    }
    for (let i = 0; i < 6 * n; i++)
      take.rotations.set(
        multiply(quatAt(s.restRotations, i % n), fromAxisAngle([0, 0.6, 0.8], 0.4 * (random() - 0.5))),
        4 * i,
      )
    const t = await transfer(s, take, s)
    for (let i = 0; i < 6 * n; i++)
      expect(angleOf(quatAt(t.take.rotations, i), quatAt(take.rotations, i))).toBeLessThan(2e-4)
  })
})

describe('a comparison', () => {
  it('is nought onto the same skeleton and tells what was turned away', async () => {
    const s = biped({ axes: wildAxes(4) })
    const p = await perform(s, wildTake(s, 6), s, { settings: EXACT_TRANSFER })
    const same = compareTake(p, s)
    expect(same.worst).toEqual([])
    expect(Math.max(...same.ends.leftHand, ...same.ends.rightFoot)).toBeLessThan(1e-4)
    const rotations = p.take.rotations.slice()
    rotations.set(
      multiply(quatAt(rotations, 4 * J + joints.leftUpperArm), fromAxisAngle([1, 0, 0], 0.5)),
      4 * (4 * J + joints.leftUpperArm),
    )
    const told = compareTake({ ...p, take: { ...p.take, rotations } }, s)
    expect(told.worst[0]).toMatchObject({ frame: 4, role: 'leftUpperArm' })
    expect(told.worst[0].degrees).toBeCloseTo((0.5 * 180) / Math.PI, 1)
    expect(told.turns.leftLowerArm[4]).toBeLessThan(0.1)
  })
})

describe('a VRM animation', () => {
  it('holds turns and the travel of the hips, is valid, and tells its roles itself', async () => {
    const s = biped({ roles: false })
    const take = wildTake(s, 3)
    const read = await readGltf(await writeVrmAnimation(s, take))
    expect(read.skeleton!.roles.filter(r => r !== undefined)).toHaveLength(J)
    expect(read.takes).toHaveLength(1)
    const own = worldPose(s, take.translations, take.rotations, 5 * J),
      back = worldPose(read.skeleton!, read.takes[0].translations, read.takes[0].rotations, 5 * J)
    for (const role of ['head', 'leftHand', 'rightToes']) {
      const [a, b] = [s.names.indexOf(role), read.skeleton!.roles.indexOf(role)]
      for (let k = 0; k < 3; k++) expect(back.positions[3 * b + k]).toBeCloseTo(own.positions[3 * a + k], 4)
    }
    expect((await validator.validateBytes(await writeVrmAnimation(s, take))).issues.numErrors).toBe(0)
  })
})

describe('a file of several takes', () => {
  it('leaves out those that hold still', async () => {
    const s = biped({})
    const still: Take = {
      ...wildTake(s, 3),
      name: 'still',
      rotations: new Float32Array(4 * J * 12).map((_, i) => s.restRotations[i % (4 * J)]),
      translations: new Float32Array(3 * J * 12).map((_, i) => s.restTranslations[i % (3 * J)]),
    }
    const read = await readGltf(await writeGlb({ name: 'a', skeleton: s, takes: [wildTake(s, 3), still] }))
    expect(read.takes.map(t => t.name)).toEqual(['wild'])
    expect(read.dropped.join()).toMatch(/still/)
  })
})

describe('many jobs', () => {
  it('are named by a pattern, clashes handled as asked', () => {
    const jobs = [
      { figure: 'Oda Marl', take: 'walk' },
      { figure: 'Pim', take: 'walk' },
      { figure: 'Oda Marl', take: 'Walk!' },
    ]
    expect(nameJobs('{figure}-{take}', jobs, 'number').names).toEqual([
      'Oda-Marl-walk.glb',
      'Pim-walk.glb',
      'Oda-Marl-Walk-2.glb',
    ])
    expect(nameJobs('{figure}-{take}', jobs, 'skip').names[2]).toBeUndefined()
    expect(() => nameJobs('{figure}-{take}', jobs, 'refuse')).toThrow(/given twice/)
    expect(() => nameJobs('{who}', jobs, 'number')).toThrow(/cannot hold/)
    expect(() => nameJobs('../', jobs, 'number')).toThrow(/empty/)
    expect(nameJobs('../../{take}/x', [{ take: '../../etc' }], 'number').names[0]).toBe('etc-x.glb')
    // letters of any script stay
    const scripts = [
      { figure: 'Ödä', take: '歩き' },
      { figure: 'Ода', take: 'шаг 1' },
    ]
    expect(nameJobs('{figure}_{take}', scripts, 'number').names).toEqual(['Ödä_歩き.glb', 'Ода_шаг-1.glb'])
  })
  it('go on when one fails, stop when asked, and are taken up again', async () => {
    const ran: number[] = []
    const signal = { aborted: false }
    const run = async (n: number): Promise<number> => {
      ran.push(n)
      if (n === 2) throw new Error('no')
      if (n === 4) signal.aborted = true
      return n * n
    }
    const first = await runBatch([0, 1, 2, 3, 4, 5, 6], run, { concurrency: 2, signal })
    expect(first.filter(o => o.state === 'failed').map(o => o.message)).toEqual(['no'])
    expect(first[6].state).toBe('waiting')
    const done = new Set(first.flatMap((o, i) => (o.state === 'done' ? [i] : [])))
    ran.length = 0
    signal.aborted = false
    const second = await runBatch([0, 1, 2, 3, 4, 5, 6], async n => n * n, { done, concurrency: 3 })
    expect(second.every(o => o.state === 'done')).toBe(true)
  })
})

describe('joint limits', () => {
  const turned = (s: Skeleton, role: string, turn: Quat): Take => {
    const rotations = new Float32Array(4 * J * 3)
    for (let f = 0; f < 3; f++) rotations.set(s.restRotations, 4 * J * f)
    const translations = new Float32Array([...s.restTranslations, ...s.restTranslations, ...s.restTranslations])
    // a turn in the body's own axes, laid on the joint's world turn at rest
    const w = worldPose(s),
      j = joints[role],
      up = s.parents[j]
    const local = multiply(conjugate(quatAt(w.rotations, up)), multiply(turn, quatAt(w.rotations, j)))
    for (let f = 0; f < 3; f++) setQuat(rotations, f * J + j, local)
    return { name: 'turned', fps: 30, frames: 3, rotations, translations }
  }
  const bendOf = (s: Skeleton, take: Take, role: string): number => {
    const w = worldPose(s, take.translations, take.rotations, J),
      rest = worldPose(s),
      j = joints[role],
      up = s.parents[j]
    const local = (p: typeof w): Quat => multiply(conjugate(quatAt(p.rotations, up)), quatAt(p.rotations, j))
    return (angleOf(local(w), local(rest)) * 180) / Math.PI
  }

  it('leave alone what is within, hold back what is beyond, and never turn it the other way', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 500 }),
        fc.constantFrom('leftLowerLeg', 'rightLowerLeg', 'leftHand', 'head', 'rightFoot'),
        fc.double({ min: -150, max: 150, noNaN: true }),
        (seed, role, degrees) => {
          const s = biped({ axes: wildAxes(seed) })
          const axis: Vec3 = /Hand/.test(role) ? [0, 0, 1] : [1, 0, 0]
          const take = turned(s, role, fromAxisAngle(axis, (degrees * Math.PI) / 180))
          const held = limitJoints({ skeleton: s, joints, take, frame: bodyFrame(s, joints) })
          const before = bendOf(s, take, role),
            after = bendOf(s, held, role)
          const back = /LowerLeg/.test(role) && degrees < 0
          const [free, most] = /LowerLeg/.test(role)
            ? back
              ? [8, 19]
              : [138, 168]
            : /Hand/.test(role)
              ? [82, 112]
              : role === 'head'
                ? [58, 80]
                : [62, 92]
          if (Math.abs(degrees) < free) expect(after).toBeCloseTo(before, 3)
          expect(after).toBeLessThan(most)
          expect(after).toBeLessThanOrEqual(before + 0.01)
        },
      ),
      { numRuns: 150, seed: 11 },
    )
  })

  it('are the take itself where nothing goes too far', () => {
    const s = biped({ axes: wildAxes(4) })
    const take = wildTake(s, 9)
    expect(limitJoints({ skeleton: s, joints, take, frame: bodyFrame(s, joints) })).toBe(take)
  })
})
