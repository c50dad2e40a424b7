import { toldOfTake, type BatchSettings, type TransferJobResult } from '@chiraxis/core/batch'
import type { Prop } from '@chiraxis/core/props'
import type { FileRef, TakeRef } from '@chiraxis/core/recipe'
import { core, unwrap } from './client'

/** One take by one figure, as it is sent. */
export interface ServerJob {
  readonly figure: FileRef
  readonly take: TakeRef
  readonly fileName: string
}

interface Line {
  readonly job?: number
  readonly state?: 'running' | 'done' | 'failed'
  readonly message?: string
  readonly report?: Omit<TransferJobResult, 'bytes' | 'beside'>
  readonly bytes?: string
  readonly beside?: readonly { readonly name: string; readonly bytes: string }[]
}

export type ServerNews =
  | { readonly state: 'running' }
  | { readonly state: 'failed'; readonly message?: string }
  | { readonly state: 'done'; readonly result: TransferJobResult }

const bytesOf = (base64: string): Uint8Array<ArrayBuffer> => Uint8Array.from(atob(base64), c => c.charCodeAt(0))

/**
 * Runs jobs on the server and tells of each as it goes; what is asked of `tell` is waited for before the next line is read.
 * @throws Error where the server refuses
 */
export async function runOnServer(
  jobs: readonly ServerJob[],
  settings: BatchSettings,
  props: readonly Prop[],
  signal: AbortSignal,
  tell: (job: number, news: ServerNews) => void | Promise<void>,
): Promise<void> {
  const form = new FormData()
  const files = new Map<string, FileRef>()
  for (const p of props) for (const f of [p.file, ...p.beside]) files.set(f.hash, f)
  for (const { figure, take } of jobs) for (const f of [figure, take.file]) files.set(f.hash, f)
  form.set(
    'spec',
    JSON.stringify({
      settings,
      ...(props.length > 0 && { props }),
      jobs: jobs.map(({ figure, take, fileName }) => ({
        figure: figure.hash,
        take: take.file.hash,
        index: take.index,
        takeName: take.name,
        performer: take.performer,
        fileName,
        ...toldOfTake(take),
        ...(props.length > 0 && take.props && { propKeys: take.props }),
      })),
    }),
  )
  for (const [hash, file] of files)
    form.set(hash, new Blob([(await unwrap(core().bytesOf(file))) as Uint8Array<ArrayBuffer>]), file.name)
  const answer = await fetch('/api/batch', { method: 'POST', body: form, signal })
  if (!answer.headers.get('content-type')?.includes('ndjson'))
    throw new Error(
      ((await answer.json()) as { error?: { message: string } }).error?.message ?? 'The server refused the batch.',
    )
  const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (;;) {
    const { value, done } = await reader.read()
    if (done) return
    const parts = (rest + value).split('\n')
    rest = parts.pop()!
    for (const line of parts) {
      const { job, state, message, report, bytes, beside = [] } = JSON.parse(line) as Line
      if (job === undefined || !state) continue
      if (state !== 'done') await tell(job, { state, message })
      else if (bytes !== undefined && report)
        await tell(job, {
          state,
          result: {
            ...report,
            bytes: bytesOf(bytes),
            beside: beside.map(f => ({ name: f.name, bytes: bytesOf(f.bytes) })),
          },
        })
    }
  }
}
