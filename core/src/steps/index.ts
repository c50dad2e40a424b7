/** The one table of derivation: what follows from a recipe, worked out once for what it depends on. */
export { STEPS } from './table'
export type {
  Carrying,
  FileSet,
  LandmarkResult,
  ParamOf,
  PropsResult,
  Expressions,
  RigResult,
  StepContext,
  StepName,
  StepResults,
} from './types'
export { createDerivation, keyOf, type Derivation, type DerivationOptions, type ResultStore } from './derivation'
export { ByteCache, bytesOf } from './cache'
export { contextIn } from './context-in'
export type { ContextOptions } from './context'
export * from './content'
export * from './arrival'
export * from './mend-all'
export * from './attach'
export { ownTakesOf, performOwnTake } from './own-take'
export type { OpenSkin } from './open-skin'
export * from './received-rig'
export * from './shape-result'
export * from './weights-of-file'
export * from './figure-job'
export * from './bake'
export * from './ground-figure'
export { crowdFile, guestOf, type Guest } from './guest'
export { trialClips, type TrialClips } from './trial-clips'
