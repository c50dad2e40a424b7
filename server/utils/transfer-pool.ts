import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { createPool, type Pool } from '@chiraxis/pool'

let pool: Pool | undefined

/** The server's one pool of worker threads, started when it is first needed. */
export async function transferPool(): Promise<Pool> {
  if (pool) return pool
  // built beside the server's own program
  const built = join(dirname(process.argv[1] ?? '.'), 'transfer-thread.mjs')
  if (!existsSync(built)) throw new Error(`The thread's program ${built} is missing; build the application again.`)
  return (pool ??= createPool(built))
}
