/** The project document: what was decided, its history, its file. */
export * from './recipe'
export * from './hash'
export * from './history'
export * from './project-file'
export * from './own-plan'
