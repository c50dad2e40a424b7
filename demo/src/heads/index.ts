/** Heads with all that moves in a face, and where everything truly is. */
export * from './head'
