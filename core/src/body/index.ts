/** What bodies are made of: roles, sides, limbs, fingers, how each part hangs and how far it goes. Nothing else tells it. */
export * from './sides'
export * from './fingers'
export * from './roles'
export * from './kinds'
export { bodyPart, isArm, isLeg, isMidline, type BodyLimb, type BodyPart, type Range } from './table'
