/** Codes a caller can act on; the message is for a person. */
export type ErrorCode =
  | 'empty-file'
  | 'truncated-file'
  | 'unknown-format'
  | 'wrong-format'
  | 'bad-syntax'
  | 'bad-version'
  | 'too-large'
  | 'not-finite'
  | 'index-range'
  | 'no-triangles'
  | 'cyclic-nodes'
  | 'bad-skeleton'
  | 'bad-weights'
  | 'lost-edit'
  | 'no-skeleton'
  | 'no-take'
  | 'not-a-biped'
  | 'no-roles'
  | 'bad-input'
  | 'bad-settings'
  | 'stopped'
  | 'missing-file'
  | 'unproven'

/** The one error of the core: a code, one sentence for a person, and details for a log. */
export class ChiraxisError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
    readonly details: Readonly<Record<string, unknown>> = {},
  ) {
    super(message)
    this.name = 'ChiraxisError'
  }
}
