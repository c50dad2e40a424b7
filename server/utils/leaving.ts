import type { H3Event } from 'h3'
import type { StopSignal } from '@chiraxis/core/math'

/** Stops what is done for a client that goes away. */
export function whileItWaits(event: H3Event): StopSignal {
  const signal = { aborted: false }
  event.node.res.on('close', () => {
    signal.aborted = true
  })
  return signal
}
