/** Props: what a figure carries, how hands hold it, where it is through a take. */
export * from './prop'
export * from './thing'
export * from './hand-hold'
export * from './closed-hand'
export * from './on-figure'
export * from './through-take'
export * from './mounted'
