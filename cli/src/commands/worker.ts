import { childProgram } from '../child-program'
import { runJob } from '../report'

interface WorkerAsked {
  readonly queue: string
  readonly store?: string
  readonly jobs?: string
  readonly seconds: string
  readonly memory: string
  readonly report?: string
}

/** `worker --queue URL`: takes jobs of batches from a queue until it is told to end; then it ends what it has begun. */
export async function workerCommand(asked: WorkerAsked): Promise<void> {
  await runJob({ report: asked.report, reads: [] }, async job => {
    const { script, remove } = await childProgram()
    const total = { done: 0, refused: 0, failed: 0 }
    try {
      const { addressOf, serveQueue } = await import('@chiraxis/pool/queue')
      const address = await addressOf(asked.queue, script, asked.store)
      const worker = await serveQueue({
        ...address,
        script,
        ...(asked.jobs && { size: Number(asked.jobs) }),
        seconds: Number(asked.seconds),
        memoryMiB: Number(asked.memory),
        tell: ({ key, state, seconds, message }) => {
          total[state]++
          process.stderr.write(`${key.slice(0, 12)} ${state} ${seconds.toFixed(2)} s${message ? `: ${message}` : ''}\n`)
        },
      })
      process.stderr.write(`Takes jobs, ${worker.size} side by side.\n`)
      await job.step('jobs', async () => {
        await toldToEnd()
        process.stderr.write('Ends when the jobs that run have ended.\n')
        await worker.close()
      })
    } finally {
      remove()
    }
    return { total }
  })
}

/** Waits for the signals that ask a program to end; a second one ends it at once. */
const toldToEnd = (): Promise<void> =>
  new Promise(done => {
    const heard = (): void => done()
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, heard)
  })
