/** Takes: named motions, read at any time and any rate. */
export * from './take'
