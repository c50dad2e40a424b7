/** Moments and curves of a take: footsteps, feet that pass, touches, heights, found and told; the way gone and the speed. */
export * from './settings'
export { findCues, type CueScene } from './find'
export * from './told'
export { travelCurves } from './curves'
