/** Many at once: takes by figures, run some at a time. */
export * from './settings'
export * from './run'
export * from './transfer-job'
export * from './take-told'
