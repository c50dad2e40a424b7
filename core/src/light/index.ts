/** A surface made for moving: tubes of quads along the limbs, laid on a sculpt; what it is measured by, and what is carried over to it. */
export * from './choices'
export { makeLight, type LightReport, type LightSurface } from './make'
export * from './figure'
export * from './lineage'
export { trianglesOf } from './quads'
export { crossingsOf } from './crossings'
export { deviationOf, irregularOf, type Deviation } from './measures'
export { buildComplex, sidesOf, type QuadComplex, type TubePlan, type Window } from './complex'
