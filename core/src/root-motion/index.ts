/** How a take travels: its way over the ground, on the root joint or on the hips, found from feet, straightened, bent, closed. */
export * from './settings'
export * from './root-joint'
export * from './root-take'
export * from './split'
export { travelFromFeet } from './from-feet'
export { alongWay, wayGone, type WayGone } from './way'
export { moveWhole } from './move-whole'
export { floorHeight } from './on-floor'
