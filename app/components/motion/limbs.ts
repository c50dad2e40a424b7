import { FOUR_LEGS, roleLabel } from '@chiraxis/core/skeleton'

/** Roles limb by limb, in the order people look at them. */
export const LIMB_GROUPS: readonly { readonly label: string; readonly holds: (role: string) => boolean }[] = [
  { label: 'Trunk', holds: r => /^(hips|spine|chest|upperChest|neck\d?|head|tail\d+|(left|right)Ear)$/.test(r) },
  ...(['left', 'right'] as const).flatMap(s => [
    {
      label: `${s === 'left' ? 'Left' : 'Right'} arm`,
      holds: (r: string) => new RegExp(`^${s}(Shoulder|UpperArm|LowerArm|Hand)$`).test(r),
    },
  ]),
  ...(['left', 'right'] as const).flatMap(s => [
    {
      label: `${s === 'left' ? 'Left' : 'Right'} leg`,
      holds: (r: string) => new RegExp(`^${s}(UpperLeg|LowerLeg|Foot|Toes)$`).test(r),
    },
  ]),
  ...FOUR_LEGS.map(leg => ({
    label: roleLabel(`${leg}Leg`),
    holds: (r: string) => new RegExp(`^${leg}(Shoulder|UpperLeg|LowerLeg|Foot|Toes)$`).test(r),
  })),
  ...(['left', 'right'] as const).flatMap(s => [
    {
      label: `${s === 'left' ? 'Left' : 'Right'} fingers`,
      holds: (r: string) => new RegExp(`^${s}(Thumb|Index|Middle|Ring|Little)`).test(r),
    },
  ]),
]

/** A role without its side, which its group tells. */
export const bareRole = (role: string): string => {
  const words = roleLabel(role).replace(/^(Left|Right) ((front|hind) )?/, '')
  return words[0]!.toUpperCase() + words.slice(1)
}
