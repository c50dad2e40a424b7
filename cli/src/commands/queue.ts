import { childProgram } from '../child-program'
import { runJob } from '../report'

/** `queue --queue URL`: how a queue stands, what was set aside and why; tries that anew and clears the store. */
export async function queueCommand(asked: {
  queue: string
  store?: string
  again?: boolean
  sweep?: string
  report?: string
}): Promise<void> {
  await runJob({ report: asked.report, reads: [] }, async () => {
    const { script, remove } = await childProgram()
    try {
      const { addressOf, overviewOf } = await import('@chiraxis/pool/queue')
      const address = await addressOf(asked.queue, script, asked.store)
      const overview = await overviewOf(address, asked.again)
      const swept = asked.sweep === undefined ? undefined : await address.store.sweep(Number(asked.sweep))
      return { ...overview, ...(swept !== undefined && { swept }) }
    } finally {
      remove()
    }
  })
}
