import { once } from 'node:events'

type Event = Parameters<typeof refuse>[0]

/**
 * An answer that is a stream of lines of JSON; who reads slowly holds the work back.
 * @returns what writes a line, and what ends the answer
 */
export function answerInLines(
  event: Event,
  signal: { readonly aborted: boolean },
): { tell: (line: object) => Promise<void>; end: () => void } {
  const { res } = event.node
  setResponseHeader(event, 'content-type', 'application/x-ndjson')
  res.flushHeaders()
  return {
    tell: async line => {
      if (signal.aborted || res.writableEnded) return
      if (!res.write(`${JSON.stringify(line)}\n`)) await Promise.race([once(res, 'drain'), once(res, 'close')])
    },
    end: () => {
      if (!signal.aborted) res.end()
    },
  }
}
