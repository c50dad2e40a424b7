/** Joint roles of a biped by VRM 1.0 humanoid names, parents first. */
export const BIPED_ROLES = [
  'hips',
  'spine',
  'chest',
  'upperChest',
  'neck',
  'head',
  'leftShoulder',
  'leftUpperArm',
  'leftLowerArm',
  'leftHand',
  'rightShoulder',
  'rightUpperArm',
  'rightLowerArm',
  'rightHand',
  'leftUpperLeg',
  'leftLowerLeg',
  'leftFoot',
  'leftToes',
  'rightUpperLeg',
  'rightLowerLeg',
  'rightFoot',
  'rightToes',
] as const

/** Roles without which a skeleton is not a biped (VRM 1.0 requires these). */
export const REQUIRED_ROLES = BIPED_ROLES.filter(
  r => !['chest', 'upperChest', 'neck', 'leftShoulder', 'rightShoulder', 'leftToes', 'rightToes'].includes(r),
)

export const ROLE_PARENTS: Readonly<Record<string, string>> = {
  spine: 'hips',
  chest: 'spine',
  upperChest: 'chest',
  neck: 'upperChest',
  head: 'neck',
  ...Object.fromEntries(
    ['left', 'right'].flatMap(s => [
      [`${s}Shoulder`, 'upperChest'],
      [`${s}UpperArm`, `${s}Shoulder`],
      [`${s}LowerArm`, `${s}UpperArm`],
      [`${s}Hand`, `${s}LowerArm`],
      [`${s}UpperLeg`, 'hips'],
      [`${s}LowerLeg`, `${s}UpperLeg`],
      [`${s}Foot`, `${s}LowerLeg`],
      [`${s}Toes`, `${s}Foot`],
    ]),
  ),
}

/** A role in words: "Left lower arm". */
export function roleLabel(role: string): string {
  const words = role.replace(/([A-Z]|\d+)/g, ' $1').toLowerCase()
  return words[0].toUpperCase() + words.slice(1)
}
