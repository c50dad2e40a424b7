/** Motions: read at any time and any rate, followed joint by joint; where bodies rest; limbs that reach. */
export * from './take'
export * from './beside'
export * from './tracks'
export * from './contacts'
export * from './limb-solver'
export * from './share-twist'
export * from './frame-rate'
export * from './blend-takes'
