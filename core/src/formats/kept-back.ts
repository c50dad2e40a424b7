import { ChiraxisError } from '../math'

/** A file that does not hold what it should and is not handed over, with the reason in words. */
export const keptBack = (why: string, details?: Record<string, unknown>): ChiraxisError =>
  new ChiraxisError('unproven', `The written file was read back and kept back: ${why}.`, details)
