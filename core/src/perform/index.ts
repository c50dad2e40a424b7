/** A take on a figure in named stages: made ready on its performer, carried over, corrected. */
export * from './settings'
export * from './perform'
export * from './compare'
