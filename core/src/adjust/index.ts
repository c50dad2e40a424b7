/** What a person changes about a take: cut, mirrored, paced, looped, stepped out. */
export * from './settings'
export * from './adjust'
export * from './time-map'
export { trimTake } from './trim'
export { mirroredEvent, mirrorTake } from './mirror'
export { loopSeam } from './loop-seam'
export { stepLength } from './step-length'
export { vigourOf } from './vigour'
