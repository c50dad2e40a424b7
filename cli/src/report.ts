import { ChiraxisError } from '@chiraxis/core/math'
import type { Finding } from '@chiraxis/core/findings'
import { checkPlaces, writeBytes } from './files'

/** Collects what a command did; every command's report has these parts. */
export interface Job {
  readonly findings: Finding[]
  readonly timings: Record<string, number>
  /** Runs a step and notes how long it took. */
  step<T>(name: string, run: () => T | Promise<T>): Promise<T>
}

/** What a command reads and writes. */
export interface JobFiles {
  readonly report?: string
  readonly out?: string
  /** Further files that are written, by what they are called. */
  readonly also?: Readonly<Record<string, string | undefined>>
  readonly reads: readonly (string | undefined)[]
}

/** Who reads our words may go away at any time; that is no failure of the work. */
function quietPipes(): void {
  for (const stream of [process.stdout, process.stderr])
    stream.on('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EPIPE') throw error
    })
}

/**
 * Runs a command and writes its report. Exit status 0 done, 1 refused input.
 * A refusal is one line on standard error; the report carries its code.
 */
export async function runJob(
  { report: reportFile, out, also, reads }: JobFiles,
  run: (job: Job) => Promise<Record<string, unknown>>,
): Promise<void> {
  quietPipes()
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
  let tellsReport = reportFile !== undefined
  try {
    const inputs = reads.filter(path => path !== undefined)
    try {
      checkPlaces(inputs, { report: reportFile })
    } catch (error) {
      tellsReport = false
      throw error
    }
    checkPlaces(inputs, { output: out, ...also, report: reportFile })
    report = { ok: true, ...(await run(job)) }
  } catch (error) {
    const known = refusalOf(error)
    process.stderr.write(`chiraxis: ${known.message}\n`)
    report = { ok: false, error: { code: known.code, message: known.message } }
    process.exitCode = 1
  }
  const told = findings.map(({ place: _place, target: _target, ...rest }) => rest)
  const whole = { ...report, findings: told, timings, peakMemoryMiB: Math.round(process.resourceUsage().maxRSS / 1024) }
  if (tellsReport) {
    try {
      writeBytes(reportFile!, new TextEncoder().encode(`${JSON.stringify(whole, null, 2)}\n`))
    } catch (error) {
      process.stderr.write(`chiraxis: ${refusalOf(error).message}\n`)
      process.exitCode = 1
    }
  } else if (report.ok) summarise(whole)
}

/** Why a file could not be written, in words. */
const WRITING: Readonly<Record<string, string>> = {
  ENOSPC: 'the disk is full',
  EDQUOT: 'the room you are given on this disk is used up',
  EFBIG: 'it is larger than this disk can hold',
  EROFS: 'the disk can only be read',
  EACCES: 'you may not write there',
  EPERM: 'you may not write there',
  ENOENT: 'its folder is not there',
  ENOTDIR: 'its folder is a file',
  EISDIR: 'there is a folder of that name',
  EIO: 'the disk failed',
}

/** What failed, as a refusal with a code and one line. */
export function refusalOf(error: unknown): ChiraxisError {
  if (error instanceof ChiraxisError) return error
  const code = (error as { code?: string }).code
  const { path = '', syscall } = error as { path?: string; syscall?: string }
  const writing = syscall === 'write'
  const words = writing ? WRITING[code ?? ''] : undefined
  if (words)
    return new ChiraxisError(
      'missing-file',
      `${path} could not be written: ${words}. What stood there before is untouched.`,
    )
  if (code === 'ENOENT') return new ChiraxisError('missing-file', `There is no file ${path}.`)
  if (code === 'EISDIR') return new ChiraxisError('missing-file', `${path} is a folder, not a file.`)
  if (code === 'ENOTDIR') return new ChiraxisError('missing-file', `${path} leads through a file that is no folder.`)
  if (code === 'EACCES' || code === 'EPERM')
    return new ChiraxisError('missing-file', `${path} may not be read or written.`)
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
