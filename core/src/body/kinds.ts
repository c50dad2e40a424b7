import type { Vec3 } from '../math'
import { REQUIRED_ROLES } from './roles'
import { SIDES } from './sides'

/** How a body stands. */
export type BodyKind = 'biped' | 'fourleg'

type Joints = Readonly<Record<string, number>>

/** Front and hind legs of a body on four, as their roles begin: `leftFrontUpperLeg`. */
export const FOUR_LEGS = ['leftFront', 'rightFront', 'leftHind', 'rightHind'] as const

/** Roles without which a skeleton does not stand on four legs. */
const FOURLEG_REQUIRED = ['hips', ...FOUR_LEGS.flatMap(leg => ['UpperLeg', 'LowerLeg', 'Foot'].map(part => leg + part))]

export const requiredRoles = (kind: BodyKind): readonly string[] =>
  kind === 'fourleg' ? FOURLEG_REQUIRED : REQUIRED_ROLES

/** How a body stands, by the roles its joints play. */
export const kindOf = (joints: Joints): BodyKind =>
  joints.leftHindUpperLeg !== undefined || joints.rightHindUpperLeg !== undefined ? 'fourleg' : 'biped'

/** What the roles of each leg that stands begin with: `left` and `right`, or each side's front and hind. */
export const legsOf = (joints: Joints): readonly string[] => (kindOf(joints) === 'fourleg' ? FOUR_LEGS : SIDES)

/** The legs that carry the hips. */
export const hipLegsOf = (joints: Joints): readonly string[] =>
  kindOf(joints) === 'fourleg' ? ['leftHind', 'rightHind'] : SIDES

/** The way a leg's middle joint stands out in the body's own frame: knees ahead, the elbows of front legs behind. */
export const kneeWay = (leg: string): Vec3 => (leg.endsWith('Front') ? [0, 0, -1] : [0, 0, 1])

/** The way the middle joint of a limb stands out, by its end's role: elbows behind. */
export const middleWay = (end: string): Vec3 => (end.endsWith('Foot') ? kneeWay(end.slice(0, -4)) : [0, 0, -1])

/** The role whose joint is the ball of a foot: the toes', or the foot's where there are none. */
export const ballRole = (joints: Joints, leg: string): string =>
  joints[`${leg}Toes`] !== undefined ? `${leg}Toes` : `${leg}Foot`

/** Limbs of two bones, upper, lower and end: arms and legs. */
export const limbsOf = (joints: Joints): readonly (readonly [string, string, string])[] => [
  ...(kindOf(joints) === 'biped' ? SIDES.map(s => [`${s}UpperArm`, `${s}LowerArm`, `${s}Hand`] as const) : []),
  ...legsOf(joints).map(leg => [`${leg}UpperLeg`, `${leg}LowerLeg`, `${leg}Foot`] as const),
]

/** The joints of a tail, from its base, told by their roles. */
export function tailOf(joints: Joints): number[] {
  const out: number[] = []
  for (let i = 1; joints[`tail${i}`] !== undefined; i++) out.push(joints[`tail${i}`])
  return out
}
