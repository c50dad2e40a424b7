import { batchSettingsSchema, runBatch, toldOfTake, type BatchSettings, type JobOutcome } from '@chiraxis/core/batch'
import { CUE_DEFAULTS } from '@chiraxis/core/cues'
import { nameJobs, type Clash } from '@chiraxis/core/delivery'
import type { FileRef, TakeRef } from '@chiraxis/core/recipe'
import { ChiraxisError } from '@chiraxis/core/math'
import { Zip, ZipPassThrough } from 'fflate'
import { core, progressOf, RefusedError, tell, unwrap } from '~/workers/client'
import { saveAs } from './useFiles'

export interface BatchFigure {
  readonly name: string
  readonly file?: FileRef
}
export interface BatchRow {
  readonly figure: BatchFigure
  readonly take: TakeRef
  name: string | undefined
  outcome: JobOutcome<unknown>
}

const others = ref<BatchFigure[]>([])
const chosen = ref<Set<string>>(new Set())
const pattern = ref('{figure}-{take}-{performer}')
const clash = ref<Clash>('number')
const content = ref<'motion' | 'whole'>('motion')
const where = ref<'here' | 'server'>('here')
const running = ref(false)
const refused = ref('')
const results = new Map<string, Blob>()
const states = reactive(new Map<string, JobOutcome<unknown>>())
let signal = { aborted: false }
let connection: AbortController | undefined

const keyOf = (figure: BatchFigure, take: TakeRef): string => `${figure.file?.hash ?? 'own'} ${take.id}`

/** Takes by figures in the window: what is chosen, how results are named, and how far it is. */
export function useBatch() {
  const project = useProject()
  const derived = useDerived()
  const figures = computed<BatchFigure[]>(() => [{ name: project.recipe.name }, ...others.value])
  const pairs = computed(() =>
    project.recipe.takes
      .filter(t => chosen.value.has(t.id))
      .flatMap(take => figures.value.map(figure => ({ figure, take }))),
  )
  const named = computed<{ names: (string | undefined)[]; clashes: string[]; refusal: string }>(() => {
    try {
      const sources = pairs.value.map(({ figure, take }) => ({
        figure: figure.name,
        take: take.name,
        performer: take.performer,
        fps: take.adjust?.fps ? String(take.adjust.fps) : '',
      }))
      return { ...nameJobs(pattern.value, sources, clash.value), refusal: '' }
    } catch (error) {
      return {
        names: pairs.value.map(() => undefined),
        clashes: [],
        refusal: error instanceof ChiraxisError ? error.message : String(error),
      }
    }
  })
  const rows = computed<BatchRow[]>(() =>
    pairs.value.map((p, i) => ({
      ...p,
      name: named.value.names[i],
      outcome: states.get(keyOf(p.figure, p.take)) ?? { state: 'waiting' },
    })),
  )
  const done = computed(() => rows.value.filter(r => r.outcome.state === 'done').length)
  const failed = computed(() => rows.value.filter(r => r.outcome.state === 'failed').length)

  // a result belongs to the settings it was made with
  watch(
    () => [project.recipe, content.value],
    () => {
      if (running.value) return
      states.clear()
      results.clear()
    },
  )

  const settings = (): BatchSettings =>
    batchSettingsSchema.parse({
      ...project.recipe.transfer,
      performers: project.recipe.performers,
      root: project.recipe.root,
      cues: project.recipe.cues ?? CUE_DEFAULTS,
      content: content.value,
    })

  async function addFigure(list: Iterable<File>): Promise<void> {
    refused.value = ''
    for (const file of list) {
      try {
        const received = await derived.receive(file.name, new Uint8Array(await file.arrayBuffer()))
        if (!received.hasSkeleton)
          throw new RefusedError({
            code: 'no-skeleton',
            message: `${file.name} holds no skeleton. Rig and deliver it first.`,
          })
        if (!others.value.some(o => o.file?.hash === received.file.hash))
          others.value = [...others.value, { name: file.name.replace(/\.[^.]*$/, ''), file: received.file }]
      } catch (error) {
        refused.value = (error as Error).message
      }
    }
  }

  async function start(): Promise<void> {
    if (running.value || named.value.refusal) return
    running.value = true
    refused.value = ''
    signal = { aborted: false }
    const todo = rows.value.filter(r => r.name !== undefined)
    const finished = new Set(todo.flatMap((r, i) => (r.outcome.state === 'done' ? [i] : [])))
    const note = (i: number, outcome: JobOutcome<unknown>): void => {
      states.set(keyOf(todo[i]!.figure, todo[i]!.take), outcome)
    }
    try {
      const own = await unwrap(
        core().keepFigure(
          tell(project.recipe),
          `batch-${Date.now()}`,
          progressOf(() => undefined),
        ),
      )
      const how = settings()
      if (where.value === 'server') await onServer(todo, finished, own, how, note)
      else {
        await runBatch(
          todo,
          async row => {
            const { bytes, ...report } = await unwrap(
              core().batchJob(
                toRaw(row.figure.file) ?? own,
                toRaw(row.take),
                how,
                row.figure.file ? undefined : toRaw(project.recipe).props,
              ),
            )
            // kept outside of the page's own memory
            results.set(keyOf(row.figure, row.take), new Blob([bytes], { type: 'model/gltf-binary' }))
            return report
          },
          { done: finished, signal, onChange: (i, o) => note(i, o) },
        )
      }
    } catch (error) {
      refused.value = error instanceof Error ? error.message : String(error)
    } finally {
      for (const [k, o] of states) if (o.state === 'running') states.set(k, { state: 'waiting' })
      running.value = false
    }
  }

  async function onServer(
    todo: readonly BatchRow[],
    finished: ReadonlySet<number>,
    own: FileRef,
    how: BatchSettings,
    note: (i: number, o: JobOutcome<unknown>) => void,
  ): Promise<void> {
    const form = new FormData()
    const open = todo.map((row, i) => ({ row, i })).filter(({ i }) => !finished.has(i))
    const files = new Map<string, FileRef>()
    for (const { row } of open) for (const f of [row.figure.file ?? own, row.take.file]) files.set(f.hash, toRaw(f))
    form.set(
      'spec',
      JSON.stringify({
        settings: how,
        jobs: open.map(({ row }) => ({
          figure: (row.figure.file ?? own).hash,
          take: row.take.file.hash,
          index: row.take.index,
          takeName: row.take.name,
          ...toldOfTake(row.take),
        })),
      }),
    )
    for (const [hash, file] of files)
      form.set(hash, new Blob([(await unwrap(core().bytesOf(file))) as Uint8Array<ArrayBuffer>]), file.name)
    connection = new AbortController()
    const answer = await fetch('/api/batch', { method: 'POST', body: form, signal: connection.signal })
    if (!answer.headers.get('content-type')?.includes('ndjson'))
      throw new Error(
        ((await answer.json()) as { error?: { message: string } }).error?.message ?? 'The server refused the batch.',
      )
    const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader()
    let rest = ''
    try {
      for (;;) {
        const { value, done: over } = await reader.read()
        if (over) break
        const parts = (rest + value).split('\n')
        rest = parts.pop()!
        for (const line of parts) {
          const told = JSON.parse(line) as {
            job?: number
            state?: 'running' | 'done' | 'failed'
            message?: string
            report?: unknown
            bytes?: string
          }
          const at = told.job === undefined ? undefined : open[told.job]
          if (!at || !told.state) continue
          if (told.bytes)
            results.set(
              keyOf(at.row.figure, at.row.take),
              new Blob([Uint8Array.from(atob(told.bytes), c => c.charCodeAt(0))]),
            )
          note(at.i, { state: told.state, message: told.message, result: told.report })
        }
      }
    } catch (error) {
      if (!signal.aborted) throw error
    }
  }

  function stop(): void {
    signal.aborted = true
    connection?.abort()
  }

  /** All results so far in one archive, put together piece by piece. */
  async function save(): Promise<void> {
    const pieces: Uint8Array[] = []
    await new Promise<void>((resolve, reject) => {
      const zip = new Zip((error, chunk, last) => {
        if (error) return reject(error)
        pieces.push(chunk)
        if (last) resolve()
      })
      void (async () => {
        for (const row of rows.value) {
          const blob = results.get(keyOf(row.figure, row.take))
          if (!blob || !row.name) continue
          const entry = new ZipPassThrough(row.name)
          zip.add(entry)
          entry.push(new Uint8Array(await blob.arrayBuffer()), true)
        }
        zip.end()
      })().catch(reject)
    })
    saveAs('takes.zip', pieces, 'application/zip')
  }

  const choose = (ids: readonly string[], on: boolean): void => {
    const next = new Set(chosen.value)
    for (const id of ids) {
      if (on) next.add(id)
      else next.delete(id)
    }
    chosen.value = next
  }
  const forget = (figure: BatchFigure): void => {
    others.value = others.value.filter(o => o !== figure)
  }
  return {
    figures,
    rows,
    chosen,
    choose,
    pattern,
    clash,
    content,
    where,
    named,
    running,
    refused,
    done,
    failed,
    addFigure,
    forget,
    start,
    stop,
    save,
  }
}
