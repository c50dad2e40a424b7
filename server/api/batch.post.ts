import { z } from 'zod'
import { batchSettingsSchema, runBatch, takeToldSchema, toldOfTake } from '@chiraxis/core/batch'
import { ChiraxisError, jsonOf } from '@chiraxis/core/math'
import { MOST_PROP_KEYS, MOST_PROPS, propKeySchema, propSchema } from '@chiraxis/core/props'
import { jobFile, type JobFile, type Pool } from '@chiraxis/pool'

const LARGEST = 512 * 2 ** 20
const MOST_JOBS = 5000
/** Batches at a time; further ones are asked to come again. */
const AT_ONCE = 2
let running = 0

const specSchema = z.object({
  settings: batchSettingsSchema,
  /** What figures carry; files of theirs are posted by their hashes. */
  props: z.array(propSchema).max(MOST_PROPS).optional(),
  /** Figure and take by the names of the posted files. */
  jobs: z
    .array(
      takeToldSchema.extend({
        figure: z.string(),
        take: z.string(),
        index: z.number().int().min(0),
        takeName: z.string().max(300),
        performer: z.string().max(300).optional(),
        fileName: z.string().max(300).optional(),
        /** When props are carried otherwise in this take. */
        propKeys: z.array(propKeySchema).max(MOST_PROP_KEYS).optional(),
      }),
    )
    .min(1)
    .max(MOST_JOBS),
})
type Spec = z.infer<typeof specSchema>

/**
 * Takes by figures, each in a child of its own: `POST /api/batch`, a form with the part `spec` (JSON) and one part a file,
 * named by what the jobs call it. The answer is a stream of lines of JSON: `{ job, state, … }`, a finished job's file and
 * those beside it as base64, its proof and what a manifest tells of it in the report. Closing the connection stops the batch; asking for what is missing takes it up again. Nothing is stored.
 */
export default defineEventHandler(async event => {
  // counted before the first byte is waited for, so that slow ones count too
  if (running >= AT_ONCE)
    return refuse(event, 429, 'bad-settings', 'The server is at as many batches as it takes; try again when one has ended.') // prettier-ignore
  running++
  try {
    const body = await boundedBody(event, LARGEST)
    if (!body) return refuse(event, 413, 'too-large', 'A batch may bring at most 512 MiB of files, and must arrive whole.') // prettier-ignore
    withBody(event, body)
    const parts = (await readMultipartFormData(event).catch(() => undefined)) ?? []
    const spec = specOf(parts.find(p => p.name === 'spec')?.data)
    if (!spec)
      return refuse(
        event,
        400,
        'bad-syntax',
        'The batch must come as a form with a part "spec": { "settings": …, "jobs": [{ "figure", "take", "index", "takeName" }] } and the files it names.',
      )
    const files = new Map<string, JobFile>()
    for (const part of parts)
      if (part.name && part.name !== 'spec') files.set(part.name, jobFile(part.filename ?? part.name, part.data))
    const carried = (spec.props ?? []).flatMap(p => [p.file.hash, ...p.beside.map(b => b.hash)])
    const missing = [...spec.jobs.flatMap(j => [j.figure, j.take]), ...carried].find(name => !files.has(name))
    if (missing !== undefined)
      return refuse(event, 400, 'missing-file', `The batch names the file ${missing.slice(0, 100)}, which did not come with it.`) // prettier-ignore
    let pool
    try {
      pool = await batchPool()
    } catch (error) {
      if (!(error instanceof ChiraxisError)) throw error
      return refuse(event, 503, error.code, error.message)
    }
    await carryOut(event, spec, files, pool)
  } finally {
    running--
  }
})

function specOf(data: Buffer | undefined): Spec | undefined {
  try {
    const parsed = specSchema.safeParse(data && jsonOf(data, 'spec'))
    return parsed.success ? parsed.data : undefined
  } catch (error) {
    if (error instanceof ChiraxisError) return undefined
    throw error
  }
}

/** Runs the jobs and writes a line for each as it ends; who reads slowly holds the batch back. */
async function carryOut(
  event: Parameters<typeof refuse>[0],
  spec: Spec,
  files: ReadonlyMap<string, JobFile>,
  pool: Pool,
): Promise<void> {
  const signal = whileItWaits(event)
  const { tell, end } = answerInLines(event, signal)
  const refs = (spec.props ?? []).flatMap(p => [p.file, ...p.beside])
  // a prop knows its files by the hashes they were named by
  const propFiles = refs.map(r => ({ ...files.get(r.hash)!, key: r.hash, name: r.name }))
  await runBatch(
    spec.jobs,
    async (job, i) => {
      const asked = {
        figure: files.get(job.figure)!,
        take: files.get(job.take)!,
        index: job.index,
        takeName: job.takeName,
        performer: job.performer,
        fileName: job.fileName,
        settings: spec.settings,
        ...(spec.props?.length && { props: { list: spec.props, keys: job.propKeys }, propFiles }),
        ...toldOfTake(job),
      }
      let begun = false
      const onProgress = (): void => {
        if (!begun) void tell({ job: i, state: 'running' })
        begun = true
      }
      const { bytes, beside = [], ...report } = await pool.run('transfer', asked, signal, onProgress)
      const base64 = (b: Uint8Array): string => Buffer.from(b).toString('base64')
      await tell({
        job: i,
        state: 'done',
        report,
        bytes: base64(bytes),
        beside: beside.map(f => ({ name: f.name, bytes: base64(f.bytes) })),
      })
    },
    {
      concurrency: pool.size,
      signal,
      onChange: (i, o) => {
        if (o.state === 'failed') void tell({ job: i, state: o.state, code: o.code, message: o.message })
      },
    },
  )
  await tell({ ended: true })
  end()
}
