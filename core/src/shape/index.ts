/** The received body brought upright, and what its shape says of itself. */
export * from './sample-surface'
export * from './symmetry'
export * from './straighten'
