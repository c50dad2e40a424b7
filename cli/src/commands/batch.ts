import { spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync, existsSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { basename, join, resolve } from 'node:path'
import { z } from 'zod'
import { batchProfile, batchSettingsSchema, manifestPart, runBatch } from '@chiraxis/core/batch'
import {
  manifestOf,
  nameJobs,
  profileSchema,
  type Manifest,
  type ManifestPart,
  type Profile,
} from '@chiraxis/core/delivery'
import { ChiraxisError } from '@chiraxis/core/math'
import { parsePerformerNote, performerKey } from '@chiraxis/core/retarget'
import { createPool, jobFile, type JobFile, type Pool } from '@chiraxis/pool'
import { childProgram } from '../child-program'
import { placeOf, readBody, readJson, receive, writeBytes, writeDelivered } from '../files'
import { profileNamed } from '../profiles'
import { refusalOf, runJob } from '../report'

const COMMANDS = ['inspect', 'rig', 'bind', 'transfer', 'strain', 'mend'] as const
const jobSchema = z.object({ command: z.enum(COMMANDS) }).catchall(z.union([z.string(), z.number(), z.boolean()]))
const productSchema = batchSettingsSchema
  .extend({
    figures: z.array(z.string()).min(1).max(1000),
    takes: z.array(z.string()).min(1).max(10_000),
    out: z.string(),
    name: z.string().max(200).default('{figure}-{take}'),
    clash: z.enum(['number', 'skip', 'refuse']).default('refuse'),
    /** A performer's role map and rest match, as the window saves them. */
    map: z.string().optional(),
    /** Leaves out what is there already. */
    resume: z.boolean().default(false),
    /** How files are written: a shipped profile by its name, a profile file, or the profile itself. */
    profile: z.union([z.string(), profileSchema]).optional(),
  })
  .strict()
const specSchema = z.union([z.object({ jobs: z.array(jobSchema).min(1).max(10_000) }).strict(), productSchema])

interface BatchOptions {
  report?: string
  /** Jobs are done by workers of a queue; files go by way of a store. */
  queue?: string
  store?: string
}

interface Line {
  name: string
  ok: boolean
  error?: { code: string; message: string }
  report?: unknown
}

/** `batch SPEC.json`: many commands, or takes by figures, on all cores; one report a job and a total. */
export async function batchCommand(path: string, options: BatchOptions): Promise<void> {
  await runJob({ report: options.report, reads: [path] }, async job => {
    const parsed = specSchema.safeParse(readJson(path, 'batch'))
    if (!parsed.success) {
      const issue = parsed.error.issues[0]
      throw new ChiraxisError(
        'bad-syntax',
        `${basename(path)} is no batch: it must be { "figures": […], "takes": […], "out": folder } or { "jobs": [{ "command": … }] }${issue ? ` (${issue.path.join('.') || issue.code})` : ''}.`,
      )
    }
    const lines = await job.step('jobs', () =>
      'jobs' in parsed.data ? runCommands(parsed.data.jobs, options) : runProduct(parsed.data, options),
    )
    const failed = lines.filter(l => !l.ok)
    for (const l of failed) process.stderr.write(`chiraxis: ${l.name}: ${l.error?.message}\n`)
    if (failed.length > 0) process.exitCode = 1
    return { jobs: lines, total: { jobs: lines.length, done: lines.length - failed.length, failed: failed.length } }
  })
}

async function runProduct(asked: z.infer<typeof productSchema>, where: BatchOptions): Promise<Line[]> {
  const told = typeof asked.profile === 'string' ? profileNamed(asked.profile) : asked.profile
  const spec = { ...asked, profile: told }
  const profile = batchProfile(spec)
  const stem = (file: string): string => basename(file).replace(/\.[^.]*$/, '')
  const figures = spec.figures.map(f => ({ path: f, file: shared(f) }))
  const jobs: {
    figure: JobFile
    take: JobFile
    index: number
    takeName: string
    source: { figure: string; take: string; performer: string; fps: string }
  }[] = []
  const broken: Line[] = []
  const notes = { ...spec.performers }
  for (const path of spec.takes) {
    try {
      const received = await receive(path)
      const file = shared(path)
      if (spec.map && received.skeleton)
        notes[performerKey(received.skeleton)] = parsePerformerNote(readJson(spec.map, 'role map'))
      if (received.takes.length === 0) throw new ChiraxisError('no-take', `${path} holds no motion.`)
      received.takes.forEach((take, index) => {
        const name = received.takes.length > 1 ? take.name : stem(path)
        for (const figure of figures)
          jobs.push({
            figure: figure.file,
            take: file,
            index,
            takeName: name,
            source: {
              figure: stem(figure.path),
              take: name,
              performer: stem(path),
              fps: String(spec.adjust.fps ?? take.fps),
            },
          })
      })
    } catch (error) {
      const { code, message } = refusalOf(error)
      broken.push({ name: path, ok: false, error: { code, message } })
    }
  }
  const { names } = nameJobs(
    spec.name,
    jobs.map(j => j.source),
    spec.clash,
    `.${profile.format}`,
  )
  mkdirSync(spec.out, { recursive: true })
  const target = (i: number): string => join(spec.out, names[i]!)
  const read = new Map([...spec.figures, ...spec.takes, ...(spec.map ? [spec.map] : [])].map(p => [placeOf(p), p]))
  for (let i = 0; i < jobs.length; i++) {
    const over = names[i] === undefined ? undefined : read.get(placeOf(target(i)))
    if (over !== undefined)
      throw new ChiraxisError('bad-settings', `The batch would write over ${over}, which it reads. Give it another folder or other names.`) // prettier-ignore
  }
  const done = new Set(
    jobs.flatMap((_, i) => (names[i] === undefined || (spec.resume && isComplete(target(i))) ? [i] : [])),
  )
  const child = await childProgram()
  let pool: Pool | undefined
  const parts: (ManifestPart | undefined)[] = jobs.map(() => undefined)
  const signal = { aborted: false }
  const onStop = (): void => {
    signal.aborted = true
  }
  process.once('SIGINT', onStop)
  try {
    const jobsPool = (pool = await poolFor(where, child.script))
    const settings = { ...batchSettingsSchema.parse(spec), performers: notes }
    const outcomes = await runBatch(
      jobs,
      async ({ figure, take, index, takeName, source }, i) => {
        const fileName = names[i]!.replace(/\.[^.]*$/, '')
        const { performer } = source
        // what runs here ends first; what waits in a queue is taken back
        const told = { figure, take, index, takeName, performer, fileName, settings }
        const made = await jobsPool.run('transfer', told, where.queue === undefined ? undefined : signal)
        writeDelivered(target(i), made)
        parts[i] = manifestPart(made, names[i]!)
        const { bytes: _, beside: __, ...report } = made
        return report
      },
      {
        concurrency: jobsPool.size,
        done,
        signal,
      },
    )
    // in the order of the jobs, whichever ended first
    writeManifest(
      spec.out,
      profile,
      parts.filter(p => p !== undefined),
      new Set([...done].flatMap(i => names[i] ?? [])),
    )
    return [
      ...broken,
      ...outcomes.map((o, i): Line => ({
        name: names[i] ?? `${jobs[i].source.figure} ${jobs[i].source.take}`,
        ok: o.state === 'done',
        ...(o.state === 'done'
          ? { report: done.has(i) ? { leftOut: true } : o.result }
          : { error: { code: o.code ?? 'stopped', message: o.message ?? 'Stopped before it began.' } }),
      })),
    ]
  } finally {
    process.off('SIGINT', onStop)
    pool?.close()
    child.remove()
  }
}

/** What does the jobs: children of this machine, or the workers of a queue. */
async function poolFor({ queue, store }: BatchOptions, script: string): Promise<Pool> {
  if (queue === undefined) return createPool(script, { seconds: 600, memoryMiB: 4096 })
  const { addressOf, createQueuePool } = await import('@chiraxis/pool/queue')
  return createQueuePool({
    ...(await addressOf(queue, script, store)),
    onIdle: () =>
      process.stderr.write('Nobody takes the jobs yet: start `chiraxis worker` with the same queue and store.\n'),
  })
}

/** Writes what the folder holds; of files that were there already, what an earlier manifest tells of them stays. */
function writeManifest(
  folder: string,
  profile: Profile,
  parts: readonly ManifestPart[],
  left: ReadonlySet<string>,
): void {
  const path = join(folder, 'manifest.json')
  const made = manifestOf(profile, parts)
  const before = left.size > 0 && existsSync(path) ? earlier(path) : undefined
  const files = (before?.files ?? []).filter(f => left.has(f.name))
  const takes = (before?.takes ?? []).filter(t => files.some(f => f.figure === t.figure && f.takes.includes(t.name)))
  const figures = (before?.figures ?? []).filter(f => !made.figures.some(g => g.name === f.name))
  const whole: Manifest = {
    ...made,
    figures: [...figures, ...made.figures],
    files: [...files, ...made.files],
    takes: [...takes, ...made.takes],
  }
  writeBytes(path, new TextEncoder().encode(`${JSON.stringify(whole, null, 2)}\n`))
}

function earlier(path: string): Manifest | undefined {
  try {
    const told = JSON.parse(readFileSync(path, 'utf8')) as Manifest
    return told.manifest === 1 ? told : undefined
  } catch {
    return undefined
  }
}

/** A file of no bytes is one that was never finished. */
const isComplete = (path: string): boolean => (statSync(path, { throwIfNoEntry: false })?.size ?? 0) > 0

const shared = (path: string): JobFile => jobFile(basename(path), readBody(path))

/** Runs other commands of this program, each in a process of its own. */
async function runCommands(jobs: readonly z.infer<typeof jobSchema>[], { queue }: BatchOptions): Promise<Line[]> {
  if (queue !== undefined)
    throw new ChiraxisError(
      'bad-settings',
      'A queue takes figures by takes. Commands name files of this machine and run on it; leave the queue out.',
    )
  const folder = mkdtempSync(join(tmpdir(), 'chiraxis-'))
  try {
    return await runCommandsIn(folder, jobs)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

async function runCommandsIn(folder: string, jobs: readonly z.infer<typeof jobSchema>[]): Promise<Line[]> {
  const POSITIONAL: Readonly<Record<string, string>> = {
    inspect: 'file',
    rig: 'body',
    bind: 'body',
    strain: 'file',
    mend: 'file',
  }
  const outcomes = await runBatch(
    jobs,
    async (job, i) => {
      const report = join(folder, `${i}.json`)
      const args: string[] = [job.command]
      for (const [key, value] of Object.entries(job)) {
        if (key === 'command' || value === false) continue
        if (key === POSITIONAL[job.command]) args.push(resolve(String(value)))
        else
          args.push(
            `--${key.replace(/[A-Z]/g, c => `-${c.toLowerCase()}`)}`,
            ...(value === true ? [] : [String(value)]),
          )
      }
      await new Promise<void>((done, fail) => {
        const child = spawn(process.execPath, [...process.execArgv, process.argv[1], ...args, '--report', report], {
          stdio: ['ignore', 'ignore', 'pipe'],
        })
        let words = ''
        child.stderr.on('data', (d: Buffer) => {
          words += d.toString()
        })
        child.on('error', fail)
        child.on('exit', status => {
          if (status === 0) done()
          else if (existsSync(report) && statSync(report).size > 0) done()
          else
            fail(
              new ChiraxisError(
                'bad-input',
                words
                  .trim()
                  .split('\n')[0]
                  ?.replace(/^chiraxis: |^error: /, '') || `${job.command} ended with status ${status}.`,
              ),
            )
        })
      })
      return JSON.parse(readFileSync(report, 'utf8')) as { ok: boolean; error?: Line['error'] }
    },
    { concurrency: Math.max(1, availableParallelism()) },
  )
  return outcomes.map((o, i): Line => {
    const name = String(jobs[i].out ?? jobs[i].file ?? jobs[i].body ?? jobs[i].command)
    if (o.state !== 'done' || !o.result)
      return { name, ok: false, error: { code: o.code ?? 'bad-input', message: o.message ?? 'The job did not end.' } }
    return { name, ok: o.result.ok, error: o.result.error, report: o.result }
  })
}
