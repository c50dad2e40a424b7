/** How far a batch is while it runs, for whoever is on another step. */
export const batchProgress = shallowRef<{ readonly ended: number; readonly whole: number }>()
