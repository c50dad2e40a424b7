import { z } from 'zod'
import { batchSettingsSchema, runBatch, type BatchFile } from '@chiraxis/core/batch'
import { adjustSchema } from '@chiraxis/core/adjust'
import { sharedFile } from '@chiraxis/pool'

const LARGEST = 512 * 2 ** 20
const MOST_JOBS = 5000
/** Batches at a time; further ones are asked to come again. */
const AT_ONCE = 2
let running = 0

const specSchema = z.object({
  settings: batchSettingsSchema,
  /** Figure and take by the names of the posted files. */
  jobs: z
    .array(
      z.object({
        figure: z.string(),
        take: z.string(),
        index: z.number().int().min(0),
        takeName: z.string().max(200),
        adjust: adjustSchema.partial().optional(),
      }),
    )
    .min(1)
    .max(MOST_JOBS),
})

/**
 * Takes by figures on a pool of worker threads: `POST /api/batch`, a form with the part `spec` (JSON) and one part a file, named
 * by what the jobs call it. The answer is a stream of lines of JSON: `{ job, state, … }`, a finished job's file as base64.
 * Closing the connection stops the batch; asking for what is missing takes it up again. Nothing is stored.
 */
export default defineEventHandler(async event => {
  const refuse = (
    status: number,
    code: string,
    message: string,
  ): { ok: false; error: { code: string; message: string } } => {
    setResponseStatus(event, status)
    return { ok: false, error: { code, message } }
  }
  if (Number(getRequestHeader(event, 'content-length') ?? Infinity) > LARGEST)
    return refuse(413, 'too-large', 'A batch may bring at most 512 MiB of files.')
  if (running >= AT_ONCE)
    return refuse(429, 'bad-settings', 'The server is at as many batches as it takes; try again when one has ended.')
  const parts = (await readMultipartFormData(event).catch(() => undefined)) ?? []
  const spec = parts.find(p => p.name === 'spec')
  const parsed = specSchema.safeParse(spec && parse(spec.data.toString('utf8')))
  if (!parsed.success)
    return refuse(
      400,
      'bad-syntax',
      'The batch must come as a form with a part "spec": { "settings": …, "jobs": [{ "figure", "take", "index", "takeName" }] } and the files it names.',
    )
  const files = new Map<string, BatchFile>()
  for (const part of parts) {
    if (!part.name || part.name === 'spec') continue
    files.set(part.name, sharedFile(part.filename ?? part.name, part.data))
  }
  const missing = parsed.data.jobs.flatMap(j => [j.figure, j.take]).find(name => !files.has(name))
  if (missing !== undefined)
    return refuse(400, 'missing-file', `The batch names the file ${missing.slice(0, 100)}, which did not come with it.`)

  const { jobs, settings } = parsed.data
  const pool = await transferPool()
  const signal = { aborted: false }
  event.node.res.on('close', () => {
    signal.aborted = true
  })
  setResponseHeader(event, 'content-type', 'application/x-ndjson')
  const encoder = new TextEncoder()
  running++
  return new ReadableStream<Uint8Array>({
    async start(stream) {
      const tell = (line: object): void => {
        if (signal.aborted) return
        try {
          stream.enqueue(encoder.encode(`${JSON.stringify(line)}\n`))
        } catch {
          signal.aborted = true
        }
      }
      try {
        await runBatch(
          jobs,
          async (job, i) => {
            // a reader that does not keep up holds the batch back, so that results do not pile up
            while (!signal.aborted && (stream.desiredSize ?? 1) < -8) await new Promise(done => setTimeout(done, 20))
            const { bytes, ...report } = await pool.run({
              figure: files.get(job.figure)!,
              take: files.get(job.take)!,
              index: job.index,
              takeName: job.takeName,
              settings,
              adjust: job.adjust,
            })
            tell({ job: i, state: 'done', report, bytes: Buffer.from(bytes).toString('base64') })
          },
          {
            concurrency: pool.size,
            signal,
            onChange: (i, o) => {
              if (o.state === 'running' || o.state === 'failed')
                tell({ job: i, state: o.state, code: o.code, message: o.message })
            },
          },
        )
        tell({ ended: true })
        if (!signal.aborted) stream.close()
      } finally {
        running--
      }
    },
    cancel() {
      signal.aborted = true
    },
  })
})

function parse(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    return undefined
  }
}
