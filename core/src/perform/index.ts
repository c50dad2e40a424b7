/** A take on a figure in named stages: made ready on its performer, carried over, corrected. */
export * from './settings'
export * from './perform'
export { correctCarried, type Corrected, type CorrectOptions } from './correct'
export { takeClock, layerCorrected, type Layered } from './layered'
export * from './told'
export * from './compare'
export * from './cued'
export * from './travelled'
