import { writeFileSync } from 'node:fs'
import { ChiraxisError } from '@chiraxis/core/math'
import type { Finding } from '@chiraxis/core/findings'

/** Collects what a command did; every command's report has these parts. */
export interface Job {
  readonly findings: Finding[]
  readonly timings: Record<string, number>
  /** Runs a step and notes how long it took. */
  step<T>(name: string, run: () => T | Promise<T>): Promise<T>
}

/**
 * Runs a command and writes its report. Exit status 0 done, 1 refused input.
 * A refusal is one line on standard error; the report carries its code.
 */
export async function runJob(
  reportFile: string | undefined,
  run: (job: Job) => Promise<Record<string, unknown>>,
): Promise<void> {
  const timings: Record<string, number> = {}
  const findings: Finding[] = []
  const job: Job = {
    findings,
    timings,
    step: async (name, work) => {
      const start = performance.now()
      try {
        return await work()
      } finally {
        timings[name] = Math.round((performance.now() - start) * 10) / 10
      }
    },
  }
  let report: Record<string, unknown>
  try {
    report = { ok: true, ...(await run(job)) }
  } catch (error) {
    const known = refusalOf(error)
    process.stderr.write(`chiraxis: ${known.message}\n`)
    report = { ok: false, error: { code: known.code, message: known.message } }
    process.exitCode = 1
  }
  const told = findings.map(({ place: _place, target: _target, ...rest }) => rest)
  const whole = { ...report, findings: told, timings, peakMemoryMiB: Math.round(process.resourceUsage().maxRSS / 1024) }
  if (reportFile) writeFileSync(reportFile, `${JSON.stringify(whole, null, 2)}\n`)
  else if (report.ok) summarise(whole)
}

/** What failed, as a refusal with a code and one line. */
export function refusalOf(error: unknown): ChiraxisError {
  if (error instanceof ChiraxisError) return error
  const code = (error as { code?: string }).code
  const path = (error as { path?: string }).path ?? ''
  if (code === 'ENOENT') return new ChiraxisError('missing-file', `There is no file ${path}.`)
  if (code === 'EISDIR') return new ChiraxisError('missing-file', `${path} is a folder, not a file.`)
  if (code === 'EACCES') return new ChiraxisError('missing-file', `${path} may not be read or written.`)
  if (error instanceof RangeError)
    return new ChiraxisError(
      'too-large',
      'The file asks for more memory than can be given; it is too large or damaged.',
    )
  return new ChiraxisError('bad-input', `The work failed: ${error instanceof Error ? error.message : String(error)}`)
}

function summarise(report: Record<string, unknown>): void {
  const lines = Object.entries(report).flatMap(([key, value]) => {
    if (key === 'ok' || key === 'findings') return []
    if (Array.isArray(value)) return [`${key}: ${value.length}`]
    return [`${key}: ${typeof value === 'object' ? JSON.stringify(value) : String(value)}`]
  })
  const findings = (report.findings as Finding[]).map(f => `${f.severity}: ${f.message}`)
  process.stdout.write(`${[...lines, ...findings].join('\n')}\n`)
}
