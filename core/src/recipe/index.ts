/** The project document: what was decided, its history, its file, and everything derived from it. */
export * from './recipe'
export * from './hash'
export * from './derive'
export * from './history'
export * from './project-file'
