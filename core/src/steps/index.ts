/** The one table of derivation: what follows from a recipe, worked out once for what it depends on. */
export {
  STEPS,
  type FileSet,
  type LandmarkResult,
  type ParamOf,
  type RigResult,
  type StepContext,
  type StepName,
  type StepResults,
} from './table'
export { createDerivation, keyOf, type Derivation, type DerivationOptions } from './derivation'
export { ByteCache, bytesOf } from './cache'
export { contextIn, type ContextOptions } from './context'
export * from './content'
export * from './mend-all'
export { ownTakesOf } from './own-take'
export type { OpenSkin } from './open-skin'
export * from './received-rig'
export * from './shape-result'
export * from './weights-of-file'
