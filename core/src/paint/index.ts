/** Repair of skin weights: brush strokes and other edits kept as records on the surface, weights in and out of files. */
export * from './edit'
export * from './canvas'
export * from './row'
export * from './brush'
export * from './mirror-weights'
export * from './loose-weights'
export * from './apply'
