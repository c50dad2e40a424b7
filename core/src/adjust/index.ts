/** What a person changes about a take: cut, mirrored, paced, looped, stepped out, on the spot. */
export * from './settings'
export * from './adjust'
export * from './time-map'
export { trimTake } from './trim'
export { mirrorTake } from './mirror'
export { loopSeam } from './loop-seam'
export { onTheSpot, stepLength, travelPath } from './step-length'
export { vigourOf } from './vigour'
