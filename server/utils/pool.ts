import { existsSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { createPool, type Pool } from '@chiraxis/pool'

let pool: Pool | undefined

const told = (name: string, otherwise: number): number => {
  const value = Number(process.env[name])
  return value > 0 ? value : otherwise
}

/** The server's one pool of children, each started when it is first needed. */
export function jobPool(): Pool {
  if (pool) return pool
  // built beside the server's own program
  const built = join(dirname(process.argv[1] ?? '.'), 'job-child.mjs')
  if (!existsSync(built)) throw new Error(`The children's program ${built} is missing; build the application again.`)
  return (pool = createPool(built, {
    seconds: told('CHIRAXIS_JOB_SECONDS', 60),
    memoryMiB: told('CHIRAXIS_JOB_MIB', 1024),
  }))
}
