/** Faces: expressions and the shapes that make them, landmarks of a face, and shapes made from them. */
export * from './expressions'
export { shapeWeights } from './weights'
export * from './landmark'
export { findFace, type FoundFace, type HeadPlace } from './find'
export { makeExpressions, type MadeFace } from './make'
export * from './choices'
export { partOf, withFace, type SpokenFace } from './spoken'
export { headOf } from './head'
