/** Poses found from what is asked of a figure: whole bodies that follow a pulled part while others are held. */
export * from './goals'
export * from './joint-freedom'
export * from './figure-solver'
