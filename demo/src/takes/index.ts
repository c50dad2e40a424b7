/** Takes generated from gait and pose models, recorded on performers with different habits. */
export * from './motion-model'
export * from './gaits'
export { MOVES, TAGS } from './moves'
export * from './hound-moves'
export * from './recording'
