import { describe, expect, it } from 'vitest'
import { BIPED_ROLES, FOUR_LEGS, roleLabel } from '@chiraxis/core/body'
import { bareRole, LIMB_GROUPS } from '../components/motion/limbs'

const groupsOf = (role: string): string[] => LIMB_GROUPS.filter(g => g.holds(role)).map(g => g.label)
const FINGERS = ['left', 'right'].flatMap(s => ['ThumbMetacarpal', 'IndexProximal', 'LittleDistal'].map(p => s + p))
const HOUND = [
  ...FOUR_LEGS.flatMap(leg => ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'].map(p => leg + p)),
  'leftFrontShoulder',
  'rightFrontShoulder',
  'neck2',
  'tail1',
  'tail12',
  'leftEar',
]

describe('the ledger of roles', () => {
  it('puts every role into one limb, on two legs and on four', () => {
    for (const role of [...BIPED_ROLES, ...FINGERS, ...HOUND]) expect(groupsOf(role), role).toHaveLength(1)
  })

  it('names limbs by side and roles without what their limb says', () => {
    expect(groupsOf('leftHindFoot')).toEqual(['Left hind leg'])
    expect(groupsOf('rightFrontShoulder')).toEqual(['Right front leg'])
    expect(groupsOf('rightLowerArm')).toEqual(['Right arm'])
    expect(bareRole('leftHindUpperLeg')).toBe('Upper leg')
    expect(bareRole('rightUpperArm')).toBe('Upper arm')
    expect(roleLabel('tail12')).toBe('Tail 12')
  })
})
