/** Vectors, rotations, matrices, small eigenproblems, seeded random numbers, errors and long work. */
export * from './vec3'
export * from './axis'
export * from './quat'
export * from './mat4'
export * from './eigen'
export * from './random'
export * from './error'
export * from './work'
