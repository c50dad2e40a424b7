import type { H3Event } from 'h3'

export interface RefusalAnswer {
  readonly ok: false
  readonly error: { readonly code: string; readonly message: string }
}

/** An answer that refuses, with its status and one sentence. */
export function refuse(event: H3Event, status: number, code: string, message: string): RefusalAnswer {
  setResponseStatus(event, status)
  return { ok: false, error: { code, message } }
}
