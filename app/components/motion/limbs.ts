import { capital } from '@chiraxis/core/words'
import { bodyPart, FOUR_LEGS, isFinger, roleLabel, SIDES, sideOf, type BodyPart } from '@chiraxis/core/body'

interface LimbGroup {
  readonly label: string
  readonly holds: (role: string) => boolean
}
const group = (label: string, holds: (part: BodyPart) => boolean): LimbGroup => ({
  label,
  holds: role => {
    const part = bodyPart(role)
    return part !== undefined && holds(part)
  },
})
const word = (side: 'left' | 'right'): string => (side === 'left' ? 'Left' : 'Right')
const TRUNK: readonly BodyPart['limb'][] = ['trunk', 'head', 'tail', 'ear', 'face']

/** Roles limb by limb, in the order people look at them. */
export const LIMB_GROUPS: readonly LimbGroup[] = [
  group('Trunk', p => TRUNK.includes(p.limb)),
  ...SIDES.map(side => group(`${word(side)} arm`, p => p.side === side && p.limb === 'arm')),
  ...SIDES.map(side => group(`${word(side)} leg`, p => p.side === side && p.limb === 'leg')),
  ...FOUR_LEGS.map(leg => group(roleLabel(`${leg}Leg`), p => p.role.startsWith(leg))),
  ...SIDES.map(side => ({
    label: `${word(side)} fingers`,
    holds: (role: string) => sideOf(role) === side && isFinger(role),
  })),
]

/** A role without its side, which its group tells. */
export const bareRole = (role: string): string => {
  const words = roleLabel(role).replace(/^(Left|Right) ((front|hind) )?/, '')
  return capital(words)
}
