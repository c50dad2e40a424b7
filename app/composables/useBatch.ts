import {
  batchProfile,
  batchSettingsSchema,
  manifestPart,
  runBatch,
  type BatchSettings,
  type JobOutcome,
} from '@chiraxis/core/batch'
import { CUE_DEFAULTS } from '@chiraxis/core/cues'
import {
  Bundle,
  keepsFilesBeside,
  manifestOf,
  nameJobs,
  shippedProfile,
  type Clash,
  type ManifestPart,
  type Profile,
} from '@chiraxis/core/delivery'
import { FORMATS } from '@chiraxis/core/formats'
import { hashText, type FileRef, type Many, type Recipe, type TakeRef } from '@chiraxis/core/recipe'
import { ChiraxisError } from '@chiraxis/core/math'
import { openBatchStore, type BatchStore, type JobReport } from '~/keeping/batch-store'
import { runOnServer } from '~/workers/batch-server'
import { core, progressOf, RefusedError, tell, unwrap } from '~/workers/client'
import { saveAs } from './useFiles'

export interface BatchFigure {
  readonly name: string
  readonly file?: FileRef
}
export interface BatchRow {
  readonly figure: BatchFigure
  readonly take: TakeRef
  /** What it is made of, in short. */
  readonly key: string
  readonly name: string | undefined
  readonly outcome: JobOutcome<JobReport>
}

const PLAIN: Many = { takes: [], figures: [], file: '{figure}-{take}-{performer}', clash: 'number' }
/** How files are written where nothing was told: skeleton and take. */
const USUAL = shippedProfile('GLB: motion alone, a file for each take')!
/** What a recipe tells that a figure without takes does not hang on. */
const NOT_FIGURE: readonly (keyof Recipe)[] = [
  'takes',
  'transfer',
  'performers',
  'root',
  'ownRoot',
  'cues',
  'ownCues',
  'ownLayers',
  'ownContacts',
  'ownProps',
  'delivery',
  'checkPoses',
]

const where = ref<'here' | 'server'>('here')
const running = ref(false)
const refused = ref('')
/** What is done, of the project that is open. */
const reports = shallowRef(new Map<string, JobReport>())
const readOf = ref<string>()
const states = reactive(new Map<string, JobOutcome<JobReport>>())
let signal = { aborted: false }
let connection: AbortController | undefined
let kept: BatchStore | undefined
const store = (): BatchStore => (kept ??= openBatchStore())

/** Takes by figures in the window: what is chosen, how results are named and written, and how far it is. */
export function useBatch() {
  const project = useProject()
  const derived = useDerived()
  const delivery = useDelivery()
  const many = computed<Many>(() => project.recipe.delivery?.many ?? PLAIN)
  const profile = computed<Profile>(() => batchProfile({ profile: many.value.profile ?? USUAL, content: 'motion' }))
  function keep(words: string, change: Partial<Many>, joins = false): void {
    const next = { ...toRaw(many.value), ...change }
    project.change(words, { ...project.recipe, delivery: { ...project.recipe.delivery, many: next } }, joins)
  }
  const chosen = computed(() => new Set(many.value.takes))
  const figures = computed<BatchFigure[]>(() => [{ name: project.recipe.name }, ...many.value.figures])
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
      return { ...nameJobs(many.value.file, sources, many.value.clash, `.${profile.value.format}`), refusal: '' }
    } catch (error) {
      return {
        names: pairs.value.map(() => undefined),
        clashes: [],
        refusal: error instanceof ChiraxisError ? error.message : String(error),
      }
    }
  })
  const settings = computed<BatchSettings>(() =>
    batchSettingsSchema.parse({
      ...project.recipe.transfer,
      performers: project.recipe.performers,
      root: project.recipe.root,
      cues: project.recipe.cues ?? CUE_DEFAULTS,
      profile: profile.value,
    }),
  )
  // a result belongs to the figure, the settings and the program it was made with
  const own = computed(() => {
    const figure = Object.fromEntries(
      Object.entries(project.recipe).filter(([k]) => !(NOT_FIGURE as readonly string[]).includes(k)),
    )
    return hashText(JSON.stringify(figure))
  })
  const how = computed(() =>
    hashText(`${__CHIRAXIS_PROGRAM__} ${JSON.stringify([settings.value, project.recipe.props ?? []])}`),
  )
  const rows = computed<BatchRow[]>(() =>
    pairs.value.map(({ figure, take }, i) => {
      const name = named.value.names[i]
      const called = keepsFilesBeside(profile.value) ? ` ${name}` : ''
      const key = `${figure.file?.hash ?? own.value} ${hashText(JSON.stringify(take))} ${how.value}${called}`
      const report = reports.value.get(key)
      return { figure, take, key, name, outcome: states.get(key) ?? (report ? { state: 'done', result: report } : { state: 'waiting' }) } // prettier-ignore
    }),
  )
  const done = computed(() => rows.value.filter(r => r.outcome.state === 'done').length)
  const failed = computed(() => rows.value.filter(r => r.outcome.state === 'failed').length)

  // what was done before the page was opened again is there
  watch(
    () => project.id,
    async id => {
      if (!id || readOf.value === id) return
      readOf.value = id
      states.clear()
      reports.value = new Map()
      try {
        const found = await store().reports(id)
        if (readOf.value === id) reports.value = new Map([...found, ...reports.value])
      } catch {
        // a browser that keeps nothing does it anew
      }
    },
    { immediate: true },
  )

  async function addFigure(list: Iterable<File>): Promise<void> {
    refused.value = ''
    for (const file of list) {
      try {
        const received = await derived.receive(file.name, new Uint8Array(await file.arrayBuffer()))
        if (!received.hasSkeleton)
          throw new RefusedError({
            code: 'no-skeleton',
            message: `${file.name} holds no skeleton. Rig it and write its file first.`,
          })
        const name = file.name.replace(/\.[^.]*$/, '')
        if (!many.value.figures.some(o => o.file.hash === received.file.hash))
          keep(`Carry takes onto ${name} too`, {
            figures: [...toRaw(many.value.figures), { name, file: received.file }],
          })
      } catch (error) {
        refused.value = (error as Error).message
      }
    }
  }

  async function start(): Promise<void> {
    const id = project.id
    if (running.value || named.value.refusal || !id) return
    running.value = true
    refused.value = ''
    signal = { aborted: false }
    const todo = rows.value.filter(r => r.name !== undefined)
    const finished = new Set(todo.flatMap((r, i) => (r.outcome.state === 'done' ? [i] : [])))
    const ended = new Set(finished)
    batchProgress.value = { ended: ended.size, whole: todo.length }
    const note = (i: number, outcome: JobOutcome<JobReport>): void => {
      states.set(todo[i]!.key, outcome)
      if (outcome.state === 'done' || outcome.state === 'failed') ended.add(i)
      batchProgress.value = { ended: ended.size, whole: todo.length }
    }
    const put = async (i: number, result: Parameters<BatchStore['put']>[2]): Promise<JobReport> => {
      await store().put(id, todo[i]!.key, result)
      const { bytes: _, beside: __, ...report } = result
      reports.value = new Map([...reports.value, [todo[i]!.key, report]])
      return report
    }
    try {
      await store().keepOnly(id, new Set(rows.value.map(r => r.key)))
      const figure = await unwrap(
        core().keepFigure(
          tell(project.recipe),
          `batch-${Date.now()}`,
          progressOf(() => undefined),
        ),
      )
      const told = settings.value
      const stem = (row: BatchRow): string => row.name!.replace(/\.[^.]*$/, '')
      if (where.value === 'server') {
        connection = new AbortController()
        const open = todo.map((row, i) => ({ row, i })).filter(({ i }) => !finished.has(i))
        const jobs = open.map(({ row }) => ({
          figure: toRaw(row.figure.file) ?? figure,
          take: toRaw(row.take),
          fileName: stem(row),
        }))
        await runOnServer(jobs, told, toRaw(project.recipe).props ?? [], connection.signal, async (at, news) => {
          const { i } = open[at]!
          if (news.state === 'done') note(i, { state: 'done', result: await put(i, news.result) })
          else note(i, news)
        }).catch((error: unknown) => {
          if (!signal.aborted) throw error
        })
      } else
        await runBatch(
          todo,
          async (row, i) =>
            put(
              i,
              await unwrap(
                core().batchJob(
                  toRaw(row.figure.file) ?? figure,
                  toRaw(row.take),
                  told,
                  stem(row),
                  toRaw(project.recipe).props,
                ),
              ),
            ),
          { done: finished, signal, onChange: (i, o) => note(i, o) },
        )
    } catch (error) {
      refused.value = error instanceof Error ? error.message : String(error)
    } finally {
      for (const [k, o] of states) if (o.state === 'running') states.set(k, { state: 'waiting' })
      running.value = false
      batchProgress.value = undefined
    }
  }

  /** Throws away what is done. */
  async function anew(): Promise<void> {
    states.clear()
    reports.value = new Map()
    if (project.id) await store().keepOnly(project.id, new Set())
  }

  function stop(): void {
    signal.aborted = true
    connection?.abort()
  }

  /** All results so far in one archive with a manifest, put together piece by piece. */
  async function save(): Promise<void> {
    refused.value = ''
    const pieces: Blob[] = []
    // kept outside of the page's own memory
    const bundle = new Bundle(part => void pieces.push(new Blob([part as Uint8Array<ArrayBuffer>])))
    const parts: ManifestPart[] = []
    const lost: string[] = []
    for (const row of rows.value) {
      const report = row.outcome.result
      if (row.outcome.state !== 'done' || !report || !row.name) continue
      const files = await store().files(row.key)
      if (!files) {
        // the browser threw it out: it is done again
        lost.push(row.key)
        continue
      }
      const name = bundle.add(row.name, files.bytes)
      for (const b of files.beside ?? []) bundle.add(b.name, b.bytes)
      const { told, ...part } = manifestPart({ ...report, ...files }, name)
      parts.push({ ...part, told: withFigure(told, row.figure.name) })
    }
    if (lost.length > 0) {
      reports.value = new Map([...reports.value].filter(([k]) => !lost.includes(k)))
      for (const k of lost) states.delete(k)
      refused.value = `The browser no longer has ${lost.length} of the files. Press Resume to make them again.`
      return
    }
    bundle.addJson('manifest.json', manifestOf(profile.value, parts))
    bundle.done()
    saveAs('takes.zip', pieces, 'application/zip')
  }

  function choose(ids: readonly string[], on: boolean): void {
    const next = new Set(chosen.value)
    for (const id of ids) {
      if (on) next.add(id)
      else next.delete(id)
    }
    keep(on ? 'Put into the batch' : 'Leave out of the batch', { takes: [...next] })
  }
  const forget = (figure: BatchFigure): void =>
    keep(`Leave out ${figure.name}`, { figures: toRaw(many.value.figures).filter(f => f.file.hash !== figure.file?.hash) }) // prettier-ignore
  /** Profiles files of takes can be written by. */
  const profiles = computed(() => delivery.known.value.filter(p => (FORMATS[p.format].holds as readonly string[]).includes('motion') && p.content !== 'body')) // prettier-ignore
  const known = computed(() => profiles.value.find(p => p.name === (many.value.profile ?? USUAL).name)?.name)
  function chooseProfile(name: string): void {
    const found = profiles.value.find(p => p.name === name)
    if (found) keep(`Write the batch as ${name}`, { profile: found === USUAL ? undefined : { ...found } })
  }
  return {
    figures,
    rows,
    chosen,
    choose,
    pattern: computed(() => many.value.file),
    setPattern: (file: string): void => void (file && keep('What files of the batch are called', { file })),
    clash: computed({ get: () => many.value.clash, set: (clash: Clash) => keep('Where two names are one', { clash }) }),
    profile,
    profiles,
    known,
    chooseProfile,
    where,
    named,
    running,
    refused,
    done,
    failed,
    addFigure,
    forget,
    start,
    anew,
    stop,
    save,
  }
}

/** What is told of a figure, under the name it has here. */
const withFigure = (told: JobReport['told'], name: string): JobReport['told'] => ({
  figure: { ...told.figure, name },
  takes: told.takes.map(t => ({ ...t, figure: name })),
})
