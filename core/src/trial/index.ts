/** A figure in use: gaits made ready, blended by speed with feet in step, and led over a ground. */
export * from './gait'
export * from './blend'
export * from './walkabout'
