import { z } from 'zod'
import { ChiraxisError, jsonOf } from '@chiraxis/core/math'
import { jobFile, type JobFile } from '@chiraxis/pool'

const LARGEST = 128 * 2 ** 20
/** Figures at a time; further ones are asked to come again. */
const AT_ONCE = 2
let running = 0

type Event = Parameters<typeof refuse>[0]
type Sent = JobFile & { readonly bytes: Uint8Array }

/** A posted form: its settings, and its files by the names of their parts. */
interface Form {
  readonly settings: unknown
  file(part: string): Sent | undefined
  /** Files of the part `beside`. */
  readonly beside: readonly Sent[]
}

/**
 * Takes in a form, runs a job of it in a child process, and answers with lines: `{ progress }`, then `{ done, report, bytes }` with the
 * file as base64, or `{ failed, code, message }`. Closing the connection ends the job; nothing is stored.
 * @param begin looks at the form and gives what runs it, or the sentence that refuses it
 */
export async function answerWithFigure(
  event: Event,
  begin: (
    form: Form,
  ) =>
    | string
    | ((
        signal: { readonly aborted: boolean },
        onProgress: (share: number) => void,
      ) => Promise<{ readonly bytes: Uint8Array; readonly report: object }>),
): Promise<unknown> {
  if (running >= AT_ONCE)
    return refuse(event, 429, 'bad-settings', 'The server works on as many figures as it takes; try again in a moment.')
  running++
  try {
    const body = await boundedBody(event, LARGEST)
    if (!body)
      return refuse(event, 413, 'too-large', 'A figure may bring at most 128 MiB of files, and must arrive whole.')
    withBody(event, body)
    const parts = (await readMultipartFormData(event).catch(() => undefined)) ?? []
    const sent = (part: (typeof parts)[number]): Sent => jobFile(part.filename ?? part.name ?? 'file', part.data)
    const told = parts.find(p => p.name === 'settings')
    let run
    try {
      const one = (name: string): (typeof parts)[number] | undefined => parts.find(p => p.name === name)
      run = begin({
        settings: told ? jsonOf(told.data, 'settings') : undefined,
        file: name => {
          const part = one(name)
          return part && sent(part)
        },
        beside: parts.filter(p => p.name === 'beside').map(sent),
      })
    } catch (error) {
      if (!(error instanceof ChiraxisError)) throw error
      return refuse(event, 400, error.code, error.message)
    }
    if (typeof run === 'string') return refuse(event, 400, 'bad-syntax', run)
    const signal = whileItWaits(event)
    const { tell, end } = answerInLines(event, signal)
    try {
      const { bytes, report } = await run(signal, share => void tell({ progress: share }))
      await tell({ done: true, report, bytes: Buffer.from(bytes).toString('base64') })
    } catch (error) {
      if (!(error instanceof ChiraxisError)) throw error
      await tell({ failed: true, code: error.code, message: error.message })
    }
    end()
  } finally {
    running--
  }
}

const takesSchema = z.union([z.literal('all'), z.array(z.string().max(300)).max(1000)])

/** Which takes a form names under `takes` of its settings. @throws ChiraxisError */
export function takesOf(settings: unknown): { takes?: 'all' | string[]; rest: unknown } {
  if (typeof settings !== 'object' || settings === null || !('takes' in settings)) return { rest: settings }
  const { takes, ...rest } = settings as { takes: unknown }
  const parsed = takesSchema.safeParse(takes)
  if (!parsed.success) throw new ChiraxisError('bad-settings', 'The takes must be "all" or a list of names.')
  return { takes: parsed.data, rest }
}
