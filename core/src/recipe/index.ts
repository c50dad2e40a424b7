/** The project document: what was decided, its history, its file. */
export * from './recipe'
export * from './hash'
export { chainOf, digest, hashText, valueAt } from './digest'
export * from './patches'
export * from './history'
export * from './stored-history'
export * from './project-file'
export * from './own-plan'
