/** Changes by hand over a take: layers of keys, the curves through them, and how they are laid on. */
export * from './layer'
export * from './pose-keys'
export * from './between'
export * from './curve'
export * from './apply'
export * from './drive'
export * from './limb-switch'
export { laidApart, takenBack, type Apart } from './apart'
