/** Handles: what a figure is posed by, shaped from its own body, and how it follows them. */
export * from './handle'
export * from './contour'
export * from './set'
export * from './choices'
export * from './figure-pose'
export * from './limb-reach'
export * from './drag'
export * from './hand-shape'
