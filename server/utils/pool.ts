import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { createPool, type Pool } from '@chiraxis/pool'

let pool: Pool | undefined
let queue: Promise<Pool> | undefined

const told = (name: string, otherwise: number): number => {
  const value = Number(process.env[name])
  return value > 0 ? value : otherwise
}

/** The server's one pool of children, each started when it is first needed. */
export function jobPool(): Pool {
  return (pool ??= createPool(childProgram(), {
    seconds: told('CHIRAXIS_JOB_SECONDS', 60),
    memoryMiB: told('CHIRAXIS_JOB_MIB', 1024),
  }))
}

/** The children's program, built beside the server's own. */
function childProgram(): string {
  const built = join(dirname(process.argv[1] ?? '.'), 'job-child.mjs')
  if (!existsSync(built)) throw new Error(`The children's program ${built} is missing; build the application again.`)
  return built
}

/**
 * What does the jobs of batches: the pool, or the workers of the queue that `CHIRAXIS_QUEUE` names.
 * @throws ChiraxisError where the queue cannot be used
 */
export async function batchPool(): Promise<Pool> {
  const url = process.env.CHIRAXIS_QUEUE
  if (!url) return jobPool()
  queue ??= queueOf(url)
  try {
    return await queue
  } catch (error) {
    // it may be there the next time
    queue = undefined
    throw error
  }
}

async function queueOf(url: string): Promise<Pool> {
  const { addressOf, createQueuePool } = await import('@chiraxis/pool/queue')
  return createQueuePool(await addressOf(url, childProgram()))
}
