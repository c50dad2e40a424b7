import { beforeAll, describe, expect, it } from 'vitest'
import { detectBody, type Landmark, landmarkKind, standUp } from '@chiraxis/core/landmarks'
import { distance, transformPoint, type Vec3 } from '@chiraxis/core/math'
import { applyStraighten, straighten, withoutSlightPieces } from '@chiraxis/core/shape'
import { asItComes, BUILD_KINDS, DRESS_KINDS, makeStranger, wrongStance, type Stranger } from '../src/strangers'

const TIPS: Record<string, string> = { crown: 'headEnd', leftHandTip: 'leftHandEnd', rightHandTip: 'rightHandEnd' }

interface Read {
  readonly stranger: Stranger
  readonly plan: string
  readonly landmarks: readonly Landmark[]
  readonly offs: readonly { readonly id: string; readonly off: number; readonly confidence: number }[]
  readonly mean: number
}

async function read(stranger: Stranger, seed: number, turned: boolean): Promise<Read> {
  const awkward = asItComes(stranger, seed, turned)
  const s = await standUp(awkward.mesh)
  const { plan, landmarks } = await detectBody(applyStraighten(awkward.mesh, s), 'auto', { stance: s.confidence })
  const offs = landmarks.flatMap(l => {
    const role = landmarkKind(l.id)!.role ?? TIPS[l.id]
    const truth: Vec3 | undefined = role ? awkward.joints[role] : undefined
    return truth
      ? [{ id: l.id, off: distance(l.position, transformPoint(s.matrix, truth)) / s.height, confidence: l.confidence }]
      : []
  })
  return { stranger, plan, landmarks, offs, mean: offs.reduce((a, o) => a + o.off, 0) / offs.length }
}

describe('strangers', () => {
  it('are the same for a seed, and differ between seeds', async () => {
    const [a, b, c] = await Promise.all([makeStranger(5), makeStranger(5), makeStranger(6)])
    expect(a.mesh.positions).toEqual(b.mesh.positions)
    expect([a.build, a.stance, a.dress, a.make]).not.toEqual([c.build, c.stance, c.dress, c.make])
  })
  it('have their joints in their flesh, hips well above the fork', async () => {
    for (const seed of [1, 2, 3]) {
      const { joints, height } = await makeStranger(seed, {
        build: 'man',
        stance: 'a-pose',
        dress: 'bare',
        make: 'boxy',
      })
      expect(joints.leftUpperLeg[1] / height).toBeGreaterThan(0.5)
      expect(joints.leftUpperLeg[1] / height).toBeLessThan(0.545)
      expect(joints.head[1] / height).toBeGreaterThan(0.89)
      expect(joints.leftHand[0]).toBeGreaterThan(joints.leftLowerArm[0])
      expect(joints.rightHand[0]).toBeLessThan(joints.rightLowerArm[0])
    }
  })
})

describe('how strangers are stood up', () => {
  it('is right in robes to the ground, whose feet hardly show, and in all else', async () => {
    const kinds = [{ dress: 'robe' }, { build: 'ogre' }, {}] as const
    const wrong: { seed: number; what: string }[] = []
    for (const [k, kind] of kinds.entries())
      for (let seed = 310_000 + 100 * k; seed < 310_008 + 100 * k; seed++) {
        const { mesh, joints } = asItComes(await makeStranger(seed, kind), seed)
        const s = await standUp(mesh)
        const what = wrongStance(joints, s)
        if (what) wrong.push({ seed, what })
      }
    expect(wrong).toEqual([])
  })
  it('asks the whole figure where the surface leaves a doubt which way it looks', async () => {
    for (const [seed, kind] of [
      [510_044, { dress: 'robe' }],
      [800_143, {}],
    ] as const) {
      const { mesh, joints } = asItComes(await makeStranger(seed, kind), seed)
      expect(wrongStance(joints, await straighten(mesh)), `${seed} by its surface alone`).toBe('facing')
      expect(wrongStance(joints, await standUp(mesh)), `${seed}`).toBeUndefined()
    }
  })
  it('never lets a landmark be surer than the stance it was found in', async () => {
    const { mesh } = await makeStranger(7, { build: 'man', stance: 'a-pose', dress: 'bare', make: 'boxy' })
    const sure = (await detectBody(mesh, 'auto')).landmarks
    const doubtful = (await detectBody(mesh, 'auto', { stance: { up: 0.9, facing: 0.6 } })).landmarks
    expect(Math.max(...sure.map(l => l.confidence))).toBeGreaterThan(0.9)
    for (const [i, l] of doubtful.entries()) expect(l.confidence).toBeCloseTo(0.54 * sure[i].confidence, 9)
  })
})

describe('landmarks of strangers', () => {
  const plain: Read[] = []
  const worn: Read[] = []
  beforeAll(async () => {
    for (const [i, build] of BUILD_KINDS.entries()) {
      const stance = (['a-pose', 't-pose', 'arms raised'] as const)[i % 3]
      const make = (['smooth pieces', 'boxy', 'low-poly'] as const)[i % 3]
      plain.push(await read(await makeStranger(810 + i, { build, stance, dress: 'bare', make }), 810 + i, true))
    }
    for (const [i, dress] of DRESS_KINDS.entries()) {
      const build = (['man', 'woman', 'child'] as const)[i % 3]
      worn.push(
        await read(
          await makeStranger(860 + i, { build, stance: 'a-pose', dress, make: 'smooth pieces' }),
          860 + i,
          false,
        ),
      )
    }
    const mean = (list: readonly Read[]): string =>
      `${((100 * list.reduce((a, r) => a + r.mean, 0)) / list.length).toFixed(2)} %`
    console.log(`landmarks of strangers: bare ${mean(plain)}, dressed ${mean(worn)} of height`)
  }, 240_000)

  it('are found on every build, in under 2 % of height on average', () => {
    for (const r of plain) expect(r.plan, r.stranger.build).toBe('biped')
    expect(plain.reduce((a, r) => a + r.mean, 0) / plain.length).toBeLessThan(0.02)
    for (const r of plain) expect(r.mean, r.stranger.build).toBeLessThan(0.05)
  })
  it('are found whatever is worn and held, in under 2 % of height on average', () => {
    expect(worn.reduce((a, r) => a + r.mean, 0) / worn.length).toBeLessThan(0.02)
    for (const r of worn) expect(r.mean, r.stranger.dress).toBeLessThan(0.045)
  })
  it('never swap sides', () => {
    for (const r of [...plain, ...worn])
      for (const side of ['left', 'right'])
        for (const part of ['Shoulder', 'Elbow', 'Hip', 'Knee', 'Ankle']) {
          const x = r.landmarks.find(l => l.id === side + part)!.position[0]
          expect(Math.sign(x), `${r.stranger.dress} ${side}${part}`).toBe(side === 'left' ? 1 : -1)
        }
  })
  it('tell the more confidence the nearer they are: hardly one that is told as sure is wrong', () => {
    const all = [...plain, ...worn].flatMap(r => r.offs)
    const sure = all.filter(o => o.confidence > 0.9)
    expect(sure.length).toBeGreaterThan(0.4 * all.length)
    expect(sure.filter(o => o.off > 0.04).length / sure.length).toBeLessThan(0.02)
    const mean = (list: typeof all): number => list.reduce((a, o) => a + o.off, 0) / list.length
    expect(mean(sure)).toBeLessThan(mean(all.filter(o => o.confidence < 0.6)))
  })
})

describe('landmarks of strangers who make it hard', () => {
  const off = (r: Read, part: string): number => Math.max(...r.offs.filter(o => o.id.endsWith(part)).map(o => o.off))
  it('lie in the hips of somebody who crouches, and in bent knees', async () => {
    for (const [i, build] of (['man', 'elder', 'lanky', 'child', 'heavy'] as const).entries()) {
      const seed = 930 + i
      const r = await read(
        await makeStranger(seed, { build, stance: 'crouch', dress: 'bare', make: 'smooth pieces' }),
        seed,
        true,
      )
      expect(off(r, 'Hip'), build).toBeLessThan(0.045)
      expect(off(r, 'Knee'), build).toBeLessThan(0.035)
      expect(r.mean, build).toBeLessThan(0.02)
    }
  })
  it('lie in hunched shoulders, though the head hangs before the neck and arms hang against the trunk', async () => {
    for (const [seed, build, stance] of [
      [930_016, 'ogre', 'arms down'],
      [930_082, 'elder', 'arms down'],
      [920_027, 'elder', 'arms down'],
    ] as const) {
      const stranger = await makeStranger(seed)
      expect([stranger.build, stranger.stance]).toEqual([build, stance])
      const r = await read(stranger, seed, true)
      expect(off(r, 'Shoulder'), `${seed}`).toBeLessThan(0.04)
      expect(off(r, 'neckBase'), `${seed}`).toBeLessThan(0.05)
      expect(r.mean, `${seed}`).toBeLessThan(0.02)
    }
  })
  it('lie in an arm that cells do not show where its twin would be', async () => {
    for (const seed of [920_164, 920_049]) {
      const r = await read(await makeStranger(seed), seed, true)
      expect(off(r, 'HandTip'), `${seed}`).toBeLessThan(0.08)
      expect(off(r, 'Wrist'), `${seed}`).toBeLessThan(0.06)
    }
  })
  it('lie in the neck of a large head, whose chin hangs before it', async () => {
    const r = await read(await makeStranger(930_157), 930_157, true)
    expect(r.stranger.build).toBe('chibi')
    expect(off(r, 'neckBase')).toBeLessThan(0.03)
  })
  it('take a staff that is one with the hand for no arm', async () => {
    for (const stance of ['a-pose', 'arms raised'] as const) {
      const r = await read(
        await makeStranger(941, { build: 'woman', stance, dress: 'staff', make: 'one surface' }),
        941,
        false,
      )
      expect(off(r, 'HandTip'), stance).toBeLessThan(0.12)
      expect(r.mean, stance).toBeLessThan(0.03)
    }
  })
  it('take horns on a large head for no arms, though arms hang unseen', async () => {
    for (const seed of [951, 952]) {
      const r = await read(
        await makeStranger(seed, {
          build: 'chibi',
          stance: 'arms down',
          dress: 'horned helmet',
          make: 'smooth pieces',
        }),
        seed,
        false,
      )
      const at = (id: string): Vec3 => r.landmarks.find(l => l.id === id)!.position
      for (const side of ['left', 'right']) expect(at(`${side}HandTip`)[1], `${seed}`).toBeLessThan(at('skullBase')[1])
    }
  })
  it('go on from where an arm meets a coat, and tell that they guess', async () => {
    const r = await read(
      await makeStranger(961, { build: 'heavy', stance: 'a-pose', dress: 'coat', make: 'one surface' }),
      961,
      false,
    )
    expect(r.mean).toBeLessThan(0.06)
    for (const o of r.offs) if (o.off > 0.06) expect(o.confidence, o.id).toBeLessThan(0.6)
  })
})

describe('pieces too slight to be flesh', () => {
  it('are left aside: staffs, blades, shields, capes; the body stays whole', async () => {
    for (const dress of ['staff', 'sword and shield', 'cape'] as const) {
      const wanted = { build: 'man', stance: 'a-pose', make: 'smooth pieces' } as const
      const { mesh } = await makeStranger(31, { ...wanted, dress })
      const rest = await withoutSlightPieces(mesh)
      const held = mesh.parts.filter(p => /staff|blade|shield|cape/.test(p.name)).reduce((n, p) => n + p.count, 0)
      expect(held).toBeGreaterThan(0)
      expect(rest.indices.length, dress).toBe(mesh.indices.length - held)
    }
    const { mesh } = await makeStranger(31, { build: 'lanky', stance: 't-pose', make: 'smooth pieces', dress: 'bare' })
    expect(await withoutSlightPieces(mesh)).toBe(mesh)
  })
  it('never a bent arm, thin as a rod and flat as a plate, that has a twin', async () => {
    const { mesh, build, stance } = await makeStranger(930_248)
    expect([build, stance]).toEqual(['lanky', 'elbows bent'])
    expect(await withoutSlightPieces(mesh)).toBe(mesh)
  })
})
