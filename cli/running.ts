import { execFile } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'

export interface Outcome<R> {
  readonly code: number
  readonly stderr: string
  /** Empty where none was written. */
  readonly report: R
}

/** The command line as a test uses it, with a folder of its own. */
export function commandLine(name: string) {
  const folder = mkdtempSync(join(tmpdir(), `chiraxis-${name}-`))
  const file = (of: string): string => join(folder, of)
  /** Runs a command; npm's own words are left out of what it said. */
  async function chiraxis<R = Record<string, never>>(...args: string[]): Promise<Outcome<R>> {
    const report = file(`report-${Math.random()}.json`)
    const run = promisify(execFile)(process.execPath, ['scripts/chiraxis.mjs', ...args, '--report', report])
    const { code, stderr } = await run.then(
      done => ({ code: 0, stderr: done.stderr }),
      (e: { code: number; stderr: string }) => ({ code: e.code, stderr: e.stderr }),
    )
    let told = {} as R
    try {
      told = JSON.parse(readFileSync(report, 'utf8')) as R
    } catch {
      // wrong usage writes none
    }
    const words = stderr.split('\n').filter(l => !l.startsWith('npm warn'))
    return { code, stderr: words.join('\n'), report: told }
  }
  return { file, chiraxis }
}
