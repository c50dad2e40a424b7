import type { H3Event } from 'h3'

/** A body may take this long to arrive, milliseconds. */
const PATIENCE = 60_000

/**
 * Reads a posted body up to a size, however it is sent. One that grows beyond it or does not arrive is cut off at once.
 * @returns undefined where it is too large, too slow, or broken off
 */
export function boundedBody(event: H3Event, most: number): Promise<Buffer | undefined> {
  const { req } = event.node
  return new Promise(resolve => {
    const parts: Buffer[] = []
    let held = 0
    const end = (body: Buffer | undefined): void => {
      clearTimeout(timer)
      req.off('data', more).off('end', whole).off('error', broken).off('close', broken)
      if (!body) {
        // nothing more of it is taken in; the connection goes with the answer
        req.pause()
        setResponseHeader(event, 'connection', 'close')
        event.node.res.once('finish', () => req.destroy())
      }
      resolve(body)
    }
    const more = (part: Buffer): void => {
      held += part.length
      if (held > most) return end(undefined)
      parts.push(part)
    }
    const whole = (): void => end(Buffer.concat(parts))
    const broken = (): void => end(undefined)
    const timer = setTimeout(broken, PATIENCE)
    if (Number(req.headers['content-length'] ?? 0) > most) return end(undefined)
    req.on('data', more).once('end', whole).once('error', broken).once('close', broken)
  })
}

/** Makes the framework's own readers find a body that was read already. */
export function withBody(event: H3Event, body: Buffer): void {
  ;(event.node.req as unknown as { rawBody: Buffer }).rawBody = body
}
