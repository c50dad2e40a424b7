import { execFileSync } from 'node:child_process'
import { cpus } from 'node:os'

/** A fixed piece of work that uses memory and floating point: its time tells how fast the machine runs at the moment. */
export function pace(): number {
  let best = Infinity
  for (let round = 0; round < 5; round++) {
    const from = performance.now()
    const list: { x: number }[] = []
    let sum = 0
    for (let i = 0; i < 400_000; i++) {
      list.push({ x: i * 1.0001 })
      sum += Math.sqrt(list[i >> 1].x) % 7
    }
    if (sum < 0) throw new Error('never')
    best = Math.min(best, performance.now() - from)
  }
  return best
}

/** What the table is to be read with: processor, cores, versions, the commit, and whether the tree was clean. */
export function machine(): string {
  const told = (command: string, ...args: string[]): string => {
    try {
      return execFileSync(command, args, { encoding: 'utf8' }).trim()
    } catch {
      return ''
    }
  }
  const commit = told('git', 'rev-parse', '--short=12', 'HEAD')
  const changed = told('git', 'status', '--porcelain', 'core', 'cli', 'loaders', 'bench') !== ''
  const [cpu] = cpus()
  return `${cpu?.model ?? 'unknown processor'}, ${cpus().length} cores, Node ${process.version}, commit ${commit}${changed ? ' with changes' : ''}`
}

/** One side of a comparison: what it is called, and one run of it. */
export type Side = () => unknown

/**
 * Runs the sides in turn, several times, and keeps the best of each: the machine changes its speed for seconds at a time, so that
 * what is compared must be measured side by side.
 * @returns best milliseconds of each side
 */
export async function inTurn<N extends string>(
  rounds: number,
  sides: { readonly [K in N]?: Side },
): Promise<Record<N, number>> {
  const best = {} as Record<N, number>
  for (let round = 0; round < rounds; round++)
    for (const name of Object.keys(sides) as N[]) {
      const from = performance.now()
      const told = await sides[name]?.()
      // a program of its own tells its own time, without its start
      const took = typeof told === 'number' ? told : performance.now() - from
      best[name] = Math.min(best[name] ?? Infinity, took)
    }
  return best
}

/** Milliseconds, as many digits as they deserve. */
export const ms = (value: number): string =>
  value < 10 ? value.toFixed(2) : value < 100 ? value.toFixed(1) : value.toFixed(0)

/** A table in Markdown. */
export const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]): string =>
  [head, head.map(() => '---'), ...rows].map(row => `| ${row.join(' | ')} |`).join('\n')
