/** Open formats, each read and written side by side, and the proof of what was written. */
export * from './received'
export * from './read'
export { readBvh, writeBvh, type WriteBvhOptions } from './bvh'
export { readObj } from './obj'
export { readGltf } from './gltf-read'
export { writeGlb, type GltfContent } from './gltf-write'
export { proveGlb, type Proof } from './prove'
