import { Queue } from 'bullmq'
import { setAside } from './client'
import { connect, PREFIX, queueName, type QueueAddress } from './connection'

export interface QueueOverview {
  readonly workers: number
  readonly waiting: number
  readonly running: number
  readonly setAside: readonly { readonly key: string; readonly kind: string; readonly code: string; readonly message: string }[] // prettier-ignore
}

/** At most so many that were set aside are told one by one. */
const TOLD = 1000

/**
 * How a queue stands.
 * @param again tries what was set aside anew
 * @throws ChiraxisError `missing-file` where no queue answers
 */
export async function overviewOf({ url, store, program }: QueueAddress, again = false): Promise<QueueOverview> {
  const connection = await connect(url)
  const queue = new Queue(queueName(store, program), { connection, prefix: PREFIX })
  queue.on('error', () => undefined)
  try {
    if (again) await queue.retryJobs({ state: 'failed' })
    const counts = await queue.getJobCounts('waiting', 'delayed', 'prioritized', 'active')
    const failed = await queue.getFailed(0, TOLD - 1)
    return {
      workers: await queue.getWorkersCount(),
      waiting: counts.waiting + counts.delayed + counts.prioritized,
      running: counts.active,
      setAside: failed.map(job => {
        const { code, message } = setAside(job.failedReason)
        return { key: job.id!, kind: job.name, code, message }
      }),
    }
  } finally {
    await queue.close()
    connection.disconnect()
  }
}
