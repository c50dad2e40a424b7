import { describe, expect, it } from 'vitest'
import {
  bareName,
  bodyPart,
  BIPED_ROLES,
  fingerJoints,
  fingerName,
  fingerOf,
  FINGERS,
  FOUR_LEGS,
  isArm,
  isFinger,
  isLeg,
  isMidline,
  partnerOf,
  ROLE_PARENTS,
  sideOf,
  SIDES,
} from '../src/body'

const FINGER_ROLES = SIDES.flatMap(s => FINGERS.flatMap(f => fingerJoints(f).map(j => s + f + j)))
const ALL = [
  ...BIPED_ROLES,
  ...FINGER_ROLES,
  ...FOUR_LEGS.flatMap(l => ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => l + p)),
  'leftFrontShoulder',
  'leftEar',
  'jaw',
  'tail1',
  'tail7',
  'neck2',
]

describe('the body table', () => {
  it('knows every role, its side and its partner, which is known too', () => {
    for (const role of ALL) {
      const part = bodyPart(role)
      expect(part, role).toBeDefined()
      expect(part!.side).toBe(sideOf(role))
      const partner = bodyPart(partnerOf(role))!
      expect([partner.limb, partner.part, partner.along]).toEqual([part!.limb, part!.part, part!.along])
      expect(partnerOf(partnerOf(role))).toBe(role)
      expect(partner.role === role).toBe(part!.side === 'middle')
    }
  })
  it('hangs every part, in the end, on the hips', () => {
    for (const role of ALL) {
      let at: string | undefined = role
      for (let i = 0; at !== 'hips' && i < 20; i++) at = bodyPart(at)?.parents[0]
      expect(at, role).toBe('hips')
    }
  })
  it('agrees with the open standard about what hangs on what', () => {
    for (const [role, parent] of Object.entries(ROLE_PARENTS)) expect(bodyPart(role)!.parents[0], role).toBe(parent)
    for (const role of BIPED_ROLES) expect(bodyPart(role)!.vrm).toBe(true)
    expect(bodyPart('leftHindFoot')!.vrm).toBe(false)
    expect(FINGER_ROLES.every(r => bodyPart(r)!.vrm)).toBe(true)
    expect(FINGER_ROLES).toHaveLength(30)
  })
  it('is not taken in by names that only look like parts', () => {
    for (const name of ['leftMiddle', 'hipster', 'leftArmadillo', 'tail', 'tailx', 'Index', '', 'leftIndexNail'])
      expect(bodyPart(name), name).toBeUndefined()
    expect(isFinger('leftMiddle')).toBe(false)
    expect(sideOf('hips')).toBe('middle')
  })
  it('tells fingers, legs, arms and the midline apart', () => {
    expect(fingerOf('rightRingTip')).toEqual({ side: 'right', finger: 'Ring', part: 'Tip' })
    expect(fingerName('leftThumbMetacarpal')).toBe('leftThumb')
    expect([isLeg('leftHindFoot'), isLeg('leftFrontShoulder'), isLeg('leftToes'), isLeg('leftHand')]).toEqual([
      true,
      false,
      true,
      false,
    ])
    expect([isArm('leftShoulder'), isArm('rightHand'), isArm('leftIndexDistal')]).toEqual([false, true, false])
    expect([isMidline('neck'), isMidline('jaw'), isMidline('hips'), isMidline('leftFoot')]).toEqual([
      true,
      false,
      true,
      false,
    ])
    expect(bareName('leftUpperArm')).toBe('UpperArm')
  })
  it('gives ranges of motion that a body can have', () => {
    for (const role of ALL) {
      const { range } = bodyPart(role)!
      if (!range) continue
      expect(range.swing).toBeGreaterThan(30)
      expect(range.swing).toBeLessThanOrEqual(180)
      if (range.hinge) expect(range.hinge[0]).toBeLessThan(range.hinge[1])
    }
  })
})
