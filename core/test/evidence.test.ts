import { describe, expect, it } from 'vitest'
import { angleOf, fromAxisAngle, multiply, quatAt, seededRandom, setQuat, type Quat } from '../src/math'
import type { Take } from '../src/motion'
import { limitJoints } from '../src/correct'
import { EXACT_TRANSFER, perform } from '../src/perform'
import { bodyFrame, calibrationFrames, isPerformance, prepareTransfer, slidingJoints, transfer } from '../src/retarget'
import { findAll } from '../src/findings'
import { biped, ROLES, wildAxes, wildTake } from './skeletons'

const J = ROLES.length
const joints = Object.fromEntries(ROLES.map((r, j) => [r, j]))

describe('joint limits', () => {
  it('give way to what the performer did, and hold where nobody did', () => {
    const s = biped({ axes: wildAxes(6) })
    const frame = bodyFrame(s, joints)
    const take = wildTake(s, 12, 8)
    const rotations = take.rotations.slice()
    // a knee bent to the front
    for (let f = 0; f < take.frames; f++)
      setQuat(
        rotations,
        f * J + joints.leftLowerLeg,
        multiply(quatAt(s.restRotations, joints.leftLowerLeg), fromAxisAngle([1, 0, 0], -0.9)),
      )
    const broken = { ...take, rotations }
    const played = { skeleton: s, joints, take: broken, frame }
    const strict = limitJoints(played)
    expect(strict).not.toBe(broken)
    expect(limitJoints(played, played)).toBe(broken)
    // another performer who did no such thing is no excuse
    const held = limitJoints(played, { ...played, take })
    expect([...held.rotations]).toEqual([...strict.rotations])
  })
  it('follow a turn about the bone past half a turn and never leap to the other side', () => {
    const s = biped()
    const frames = 60
    const rotations = new Float32Array(4 * J * frames),
      translations = new Float32Array(3 * J * frames)
    for (let f = 0; f < frames; f++) {
      rotations.set(s.restRotations, 4 * J * f)
      translations.set(s.restTranslations, 3 * J * f)
      // the head turns on to the back and past it
      setQuat(
        rotations,
        f * J + joints.head,
        multiply(quatAt(s.restRotations, joints.head), fromAxisAngle([0, 1, 0], (f / frames) * 1.45 * Math.PI)),
      )
    }
    const take: Take = { name: 'owl', fps: 30, frames, rotations, translations }
    const held = limitJoints({ skeleton: s, joints, take, frame: bodyFrame(s, joints) })
    for (let f = 1; f < frames; f++) {
      const step = (t: Take): number =>
        angleOf(quatAt(t.rotations, f * J + joints.head), quatAt(t.rotations, (f - 1) * J + joints.head))
      expect(step(held)).toBeLessThan(1.2 * step(take) + 1e-6)
    }
  })
})

describe('whether a take is the performance itself', () => {
  it('is told by names and places', async () => {
    const s = biped({ axes: wildAxes(3) })
    const take = wildTake(s, 5)
    const frame = bodyFrame(s, joints)
    const own = { skeleton: s, joints, take, frame }
    expect(isPerformance(own, own, 1)).toBe(true)
    const renamed = { ...s, names: s.names.map(n => `other ${n}`) }
    expect(isPerformance({ ...own, skeleton: renamed }, own, 1)).toBe(false)
    const longer = biped({ axes: wildAxes(3), place: ([x, y, z]) => [1.1 * x, y, z] })
    const onto = await transfer(s, take, longer)
    expect(isPerformance(own, { skeleton: longer, joints, take: onto.take, frame }, onto.travel.scale)).toBe(false)
    // turned by hand, it is not what was performed any more
    const turned = await transfer(s, take, s, { restTurns: { leftUpperArm: fromAxisAngle([0, 0, 1], 0.3) } })
    expect(isPerformance(own, { ...own, take: turned.take }, 1)).toBe(false)
  })
})

describe('joints that slide on what they hang on', () => {
  const sliding = (s: ReturnType<typeof biped>): Take => {
    const take = wildTake(s, 8, 24)
    const translations = take.translations.slice()
    const random = seededRandom(4)
    for (let f = 0; f < take.frames; f++)
      for (const role of ['leftShoulder', 'rightHand', 'head'])
        for (let k = 0; k < 3; k++) translations[3 * (f * J + joints[role]) + k] += 0.05 * random() * Math.sin(f)
    return { ...take, translations }
  }
  it('come back as they were on their own skeleton', async () => {
    const s = biped({ axes: wildAxes(17) })
    const take = sliding(s)
    const own = await transfer(s, take, s)
    for (let i = 0; i < take.translations.length; i++)
      expect(own.take.translations[i]).toBeCloseTo(take.translations[i], 5)
  })
  it('go along on other skeletons, in their own axes and size', async () => {
    const s = biped({ axes: wildAxes(17) }),
      plain = biped()
    const take = sliding(s)
    const twice = biped({
      axes: wildAxes(2),
      roles: false,
      name: r => `b_${r}`,
      place: ([x, y, z]) => [2 * x, 2 * y, 2 * z],
    })
    const t = await transfer(s, take, twice)
    const length = (of: Take, rest: Float32Array, role: string, f: number): number => {
      const o = 3 * joints[role]
      return Math.hypot(...[0, 1, 2].map(k => of.translations[3 * f * J + o + k] - rest[o + k]))
    }
    // told from where the joint mostly is, so differences between frames are what is carried
    for (const role of ['leftShoulder', 'rightHand'])
      for (let f = 1; f < take.frames; f++) {
        const step = (of: Take, a: number, b: number): number =>
          Math.hypot(
            ...[0, 1, 2].map(
              k => of.translations[3 * (a * J + joints[role]) + k] - of.translations[3 * (b * J + joints[role]) + k],
            ),
          )
        expect(step(t.take, f, f - 1)).toBeCloseTo(2 * step(take, f, f - 1), 3)
      }
    expect(length(take, s.restTranslations, 'leftShoulder', 3)).toBeGreaterThan(0)
    expect(plain.names).toHaveLength(J)
  })
  it('are told where nothing can follow', async () => {
    const s = biped({ axes: wildAxes(17) })
    const bare = biped({ roles: false, name: r => (r === 'leftShoulder' ? 'spare' : `b_${r}`) })
    const take = sliding(s)
    const plan = prepareTransfer(s, bare, { map: { figure: { leftShoulder: '' } } })
    const told = slidingJoints(plan, take)
    expect(told.map(t => t.joint).sort()).toEqual(['head', 'leftShoulder', 'rightHand'])
    expect(told.find(t => t.joint === 'leftShoulder')!.carried).toBe(false)
    const p = await perform(s, take, bare, { figureMap: { leftShoulder: '' }, settings: EXACT_TRANSFER })
    const findings = await findAll({ performed: [p] })
    expect(findings.find(f => f.rule === 'sliding-joints')!.message).toMatch(/leftShoulder/)
    expect(slidingJoints(prepareTransfer(s, s), wildTake(s, 8))).toEqual([])
  })
})

describe('a pose for measuring at the beginning of a recording', () => {
  const s = biped({ axes: wildAxes(9) })
  const frame = bodyFrame(s, joints)
  const leading = (frames: number, pose: (rotations: Float32Array) => void = () => undefined): Take => {
    const motion = calm()
    const total = motion.frames + frames
    const rotations = new Float32Array(4 * J * total),
      translations = new Float32Array(3 * J * total)
    for (let f = 0; f < frames; f++) {
      const one = s.restRotations.slice()
      pose(one)
      rotations.set(one, 4 * J * f)
      translations.set(s.restTranslations, 3 * J * f)
    }
    rotations.set(motion.rotations, 4 * J * frames)
    translations.set(motion.translations, 3 * J * frames)
    return { ...motion, frames: total, rotations, translations }
  }
  /** Arms let down, swaying slowly. */
  const calm = (): Take => {
    const frames = 60
    const rotations = new Float32Array(4 * J * frames),
      translations = new Float32Array(3 * J * frames)
    const turned = (role: string, q: Quat, out: Float32Array, f: number): void =>
      setQuat(out, f * J + joints[role], multiply(quatAt(s.restRotations, joints[role]), q))
    for (let f = 0; f < frames; f++) {
      rotations.set(s.restRotations, 4 * J * f)
      translations.set(s.restTranslations, 3 * J * f)
      for (const [k, role] of [
        'leftUpperArm',
        'rightUpperArm',
        'leftLowerArm',
        'spine',
        'head',
        'leftUpperLeg',
      ].entries())
        turned(role, fromAxisAngle([0.6, 0, 0.8], 0.9 + 0.1 * k + 0.06 * Math.sin(f / 6 + k)), rotations, f)
    }
    return { name: 'calm', fps: 30, frames, rotations, translations }
  }
  it.each([1, 2, 4])('is found, %i frames of it', frames => {
    expect(calibrationFrames(s, joints, frame, leading(frames))).toBe(frames)
  })
  it('is not seen in takes that begin with motion, however lively', () => {
    expect(calibrationFrames(s, joints, frame, calm())).toBe(0)
    for (let seed = 1; seed < 12; seed++) expect(calibrationFrames(s, joints, frame, wildTake(s, seed))).toBe(0)
    // a leap out of a pose nobody is measured in
    const crouch = (r: Float32Array): void => {
      for (const role of ['leftLowerLeg', 'rightUpperArm', 'spine', 'leftLowerArm'])
        setQuat(r, joints[role], multiply(quatAt(s.restRotations, joints[role]), fromAxisAngle([1, 0, 0], 1)))
    }
    expect(calibrationFrames(s, joints, frame, leading(1, crouch))).toBe(0)
  })
  it('is told, and not any more when it is cut away', async () => {
    const take = leading(1)
    const told = await perform(s, take, biped(), { settings: EXACT_TRANSFER })
    expect(told.calibration).toBe(1)
    expect((await findAll({ performed: [told] })).map(f => f.rule)).toContain('calibration-pose')
    const cut = await perform(s, take, biped(), { settings: EXACT_TRANSFER, adjust: { trim: [1 / 30, 1.8] } })
    expect(cut.calibration).toBeUndefined()
  })
})
