/** Many figures at once: agents with named clips, where they stand and walk, and their poses. */
export * from './document'
export { clipName, clipNames } from './names'
export { alongWay, wayLength } from './ways'
export { placeCrowd, APART, type KindClips } from './place'
export { createCrowd, JOINT_FLOATS, type Crowd, type Kind } from './crowd'
