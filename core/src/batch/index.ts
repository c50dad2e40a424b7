/** Many at once: takes by figures, named by a pattern, run some at a time. */
export * from './settings'
export * from './names'
export * from './run'
export * from './transfer-job'
