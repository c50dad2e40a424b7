/** The received body brought upright, and what its shape says of itself. */
export * from './sample-surface'
export * from './symmetry'
export * from './straighten'
export * from './body-check'
export * from './asymmetry'
export * from './pieces'
export * from './half-body'
export * from './clean-faces'
